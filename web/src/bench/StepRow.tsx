import { MoreOutlined } from "@ant-design/icons";
import { App, Button, Dropdown, Input, Tooltip } from "antd";
import { useState } from "react";
import type { StepState } from "../api/build";
import { api, got, type Step } from "../api/client";
import { useKinds } from "../api/kinds";
import { mainFigure } from "../construct/places";
import { Glyph, glyphOf } from "../ui/Glyph";
import { ProblemNote } from "../ui/ProblemNote";
import { goTo } from "../view/stage";
import { useBench } from "./context";
import { keyValue } from "./stepValues";
import { useLook, useTool } from "./stores";
import { usePreview } from "./usePreview";
import { ValueField } from "./ValueField";

interface Props {
  step: Step;
  state: StepState | undefined;
  index: number;
  running: boolean;
}

/** One step: glyph, name, key value in place, evidence mark, what it did to the fit; its problem right below it. */
export function StepRow({ step, state, index, running }: Props) {
  const { job, unit, edit, tell } = useBench();
  const { modal } = App.useApp();
  const kind = useKinds()[step.kind];
  const selected = useTool((s) => s.step) === step.id;
  const select = useTool((s) => s.select);
  const mend = useTool((s) => s.mend);
  const { asOf, set } = useLook();
  const preview = usePreview();
  const [renaming, setRenaming] = useState(false);
  const [grouping, setGrouping] = useState(false);
  // Going through, or until something, the distance only says which way.
  const extent = step.params.extent === "distance" ? null : (step.params.extent as string | undefined);
  const value = extent ? undefined : keyValue(step, kind, state, unit);
  const status = step.enabled ? (state?.status ?? "new") : "off";
  const fit = job.build.result?.fit?.by_step?.[step.id];
  const steps = job.recipe.steps;
  const past = asOf !== null && index > steps.findIndex((s) => s.id === asOf);

  const askDelete = async () => {
    const path = { job_id: job.id, step: step.id };
    try {
      const hanging = await got(api.GET("/api/jobs/{job_id}/steps/{step}/dependents", { params: { path } }));
      if (hanging.length === 0) return void edit({ op: "delete-step", step: step.id, with_dependents: false });
      const asked = modal.confirm({
        title: `${hanging.length} ${hanging.length === 1 ? "step hangs" : "steps hang"} on '${step.name}'`,
        content: <p>{hanging.map((s) => s.name).join(", ")}</p>,
        icon: null,
        footer: () => (
          <div className="modal-actions">
            <Button
              danger
              onClick={() => {
                asked.destroy();
                void edit({ op: "delete-step", step: step.id, with_dependents: true });
              }}
            >
              Delete all {hanging.length + 1}
            </Button>
            <Button
              onClick={() => {
                asked.destroy();
                void edit({ op: "delete-step", step: step.id, with_dependents: false });
              }}
            >
              Delete only this one and repair them
            </Button>
            <Button onClick={() => asked.destroy()}>Keep it</Button>
          </div>
        ),
      });
    } catch (e) {
      tell(e);
    }
  };
  const move = (by: number) => {
    const rest = steps.filter((s) => s.id !== step.id);
    void edit({ op: "move-step", step: step.id, before: rest[index + by]?.id ?? null });
  };
  const viewed = asOf === step.id;
  const menu = [
    {
      key: "as-of",
      label: viewed ? "View the whole job" : "View the job as of here",
      onClick: () => set({ asOf: viewed ? null : step.id, coloured: false }),
    },
    { key: "insert", label: "Insert a step after this", onClick: () => set({ asOf: step.id, coloured: false }) },
    { type: "divider" as const },
    { key: "rename", label: "Rename", onClick: () => setRenaming(true) },
    { key: "note", label: step.note ? "Change the note" : "Add a note", onClick: () => select(step.id) },
    {
      key: "group",
      label: step.group ? `Group '${step.group}' …` : "Put into a group …",
      onClick: () => setGrouping(true),
    },
    { key: "up", label: "Move up", disabled: index === 0, onClick: () => move(-1) },
    { key: "down", label: "Move down", disabled: index === steps.length - 1, onClick: () => move(1) },
    {
      key: "switch",
      label: step.enabled ? "Switch off" : "Switch on",
      onClick: () => void edit({ op: "switch-step", step: step.id, enabled: !step.enabled }),
    },
    { type: "divider" as const },
    { key: "delete", danger: true, label: "Delete", onClick: () => void askDelete() },
  ];
  const typing = (label: string, start: string, done: (text: string) => void) => (
    <Input
      size="small"
      autoFocus
      defaultValue={start}
      aria-label={label}
      onBlur={(e) => done(e.target.value)}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter" || e.key === "Escape") e.currentTarget.blur();
      }}
    />
  );
  return (
    <li
      className={`step step-${status}${selected ? " selected" : ""}${past ? " step-past" : ""}`}
      data-step={step.id}
      data-status={status}
    >
      <div className="step-line">
        <span className="step-number">{index + 1}</span>
        <Glyph kind={state?.kind === "region" ? String(state.facts.kind ?? "region") : glyphOf(step.kind)} />
        {renaming ? (
          typing("Step name", step.name, (name) => {
            setRenaming(false);
            if (name.trim() && name !== step.name) void edit({ op: "rename-step", step: step.id, name });
          })
        ) : grouping ? (
          typing("Group name", step.group ?? "", (group) => {
            setGrouping(false);
            if (group.trim() !== (step.group ?? "")) void edit({ op: "group-steps", steps: [step.id], group });
          })
        ) : (
          <Tooltip title={step.note ? `${step.name}: ${step.note}` : step.name} mouseEnterDelay={0.8}>
            <button
              type="button"
              className="step-name"
              aria-pressed={selected}
              onClick={() => select(selected ? null : step.id)}
            >
              {step.name}
              {step.note && <span className="has-note" title={step.note} />}
            </button>
          </Tooltip>
        )}
        {value && (
          <ValueField
            compact
            label={`${step.name}: ${value.field.label}`}
            shown={value}
            of={{
              kind: step.kind,
              params: step.params as Record<string, unknown>,
              place: value.field.name,
              own: step.id,
              dimension: value.field.dimension ?? "length",
            }}
            onType={(text) => {
              const params = { [value.field.name]: { text, mark: "assumed" } };
              if (!text.trim() || text === value.text) preview.clear();
              else preview.show({ op: "set-params", step: step.id, params });
            }}
            onCommit={(v) => {
              preview.clear();
              const back = value.field.optional ? null : value.field.fallback;
              void edit({ op: "set-params", step: step.id, params: { [value.field.name]: v ?? back } });
            }}
          />
        )}
        {state?.facts.agreed !== undefined && <span className="step-word">{state.facts.agreed} agreed</span>}
        {state?.facts.measured !== undefined && (
          <span className="step-word figures">{mainFigure(state.facts, unit)}</span>
        )}
        {!value && extent && <span className="step-word">{extent}</span>}
        {!fit && <span className="step-fit" />}
        {fit && (
          <Tooltip title={`${(100 * fit.inside_share).toFixed(1)} % of the scan inside after this step`}>
            <span className={`step-fit figures ${fit.change !== null && fit.change < -0.0005 ? "worse" : ""}`}>
              {fit.change === null
                ? `${(100 * fit.inside_share).toFixed(0)} %`
                : `${fit.change < 0 ? "−" : "+"}${(100 * Math.abs(fit.change)).toFixed(1)}`}
            </span>
          </Tooltip>
        )}
        <Dropdown menu={{ items: menu }} trigger={["click"]} placement="bottomRight">
          <Button size="small" type="text" icon={<MoreOutlined />} aria-label={`More for ${step.name}`} />
        </Dropdown>
      </div>
      {running && <div className="step-note">working …</div>}
      {status === "ok" && state?.kind === "seat" && (
        <div className="step-note">
          {state.facts.seated} seated{state.facts.refused ? `, ${state.facts.refused} refused` : ""}
        </div>
      )}
      {state?.problems
        .filter((p) => status === "failed" || status === "blocked" || !p.where?.param?.startsWith("pairs["))
        .map((p) => (
          <ProblemNote
            key={p.message}
            problem={p}
            onGo={goTo}
            onMend={
              p.where?.param && (p.code === "ref-lost" || p.code === "ref-ambiguous" || p.code === "wrong-kind")
                ? () => mend(step.id, p.where!.param!)
                : undefined
            }
          />
        ))}
    </li>
  );
}
