import type { MenuProps } from "antd";
import type { Step } from "../api/client";
import { useKinds } from "../api/kinds";
import { useTool } from "../sheets/tool";
import { useBegin } from "../sheets/useBegin";
import { useAppearance } from "../view/appearance";
import { isOut, useThings } from "../view/useThings";
import { useBench } from "./context";
import { useSeen } from "./seen";
import { useBegunByStep } from "./useBegunByStep";
import { useDeleteStep } from "./useDeleteStep";

/** What can be done with a step, from its row. */
export function useStepMenu(step: Step, index: number, ask: (what: "name" | "group") => void): MenuProps["items"] {
  const { job, edit } = useBench();
  const { select, copy } = useTool();
  const asOf = useSeen((s) => s.asOf);
  const remove = useDeleteStep();
  const look = useAppearance();
  const kinds = useKinds();
  const begin = useBegin();
  const next = useBegunByStep(step);
  const thing = useThings().find((t) => t.id === step.id);
  const steps = job.recipe.steps;
  const see = (id: string | null) => {
    useSeen.getState().set({ asOf: id });
    useAppearance.getState().set({ coloured: false });
  };
  const move = (by: number) => {
    const rest = steps.filter((s) => s.id !== step.id);
    void edit({ op: "move-step", step: step.id, before: rest[index + by]?.id ?? null });
  };
  const viewed = asOf === step.id;
  // What makes the same can stand in its place, wherever it is used.
  const makes = kinds[step.kind]?.makes;
  const alike = makes ? steps.filter((s) => s.id !== step.id && kinds[s.kind]?.makes === makes) : [];
  return [
    {
      key: "as-of",
      label: viewed ? "View the whole job" : "View the job as of here",
      onClick: () => see(viewed ? null : step.id),
    },
    { key: "insert", label: "Insert a step after this", onClick: () => see(step.id) },
    ...(thing
      ? [
          {
            key: "see",
            label: isOut(thing, look) ? "Show in the view" : "Hide in the view",
            onClick: () => (isOut(thing, look) ? look.show : look.hide)([step.id]),
          },
        ]
      : []),
    { type: "divider" },
    { key: "rename", label: "Rename", onClick: () => ask("name") },
    { key: "note", label: step.note ? "Change the note" : "Add a note", onClick: () => select(step.id) },
    { key: "group", label: step.group ? `Group '${step.group}' …` : "Put into a group …", onClick: () => ask("group") },
    {
      key: "duplicate",
      label: "Duplicate",
      onClick: () => copy([step.id]),
    },
    ...next.map(({ kind, params }) => ({ key: kind.id, label: kind.title, onClick: () => begin(kind, params) })),
    ...(alike.length
      ? [
          {
            key: "instead",
            label: "Use another in its place",
            children: alike.map((s) => ({
              key: `instead-${s.id}`,
              label: s.name,
              onClick: () => void edit({ op: "use-instead", step: step.id, by: s.id }),
            })),
          },
        ]
      : []),
    { key: "up", label: "Move up", disabled: index === 0, onClick: () => move(-1) },
    { key: "down", label: "Move down", disabled: index === steps.length - 1, onClick: () => move(1) },
    {
      key: "switch",
      label: step.enabled ? "Switch off" : "Switch on",
      onClick: () => void edit({ op: "switch-step", step: step.id, enabled: !step.enabled }),
    },
    { type: "divider" },
    { key: "delete", danger: true, label: "Delete", onClick: () => void remove(step) },
  ];
}
