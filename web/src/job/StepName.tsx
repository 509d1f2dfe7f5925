import { Input, Tooltip } from "antd";
import type { Step } from "../api/client";
import { useTool } from "../sheets/tool";
import { useBench } from "./context";

interface Props {
  step: Step;
  /** What of it is being typed. */
  typing: "name" | "group" | null;
  onTyped: () => void;
}

/** A step's name, by which it is chosen; or the field in which it, or its group, is typed. */
export function StepName({ step, typing, onTyped }: Props) {
  const { edit } = useBench();
  const selected = useTool((s) => s.step) === step.id;
  const select = useTool((s) => s.select);
  const typed = (text: string) => {
    onTyped();
    const name = text.trim();
    if (typing === "name" && name && name !== step.name) void edit({ op: "rename-step", step: step.id, name });
    if (typing === "group" && name !== (step.group ?? ""))
      void edit({ op: "group-steps", steps: [step.id], group: name });
  };
  if (typing)
    return (
      <Input
        size="small"
        autoFocus
        defaultValue={typing === "name" ? step.name : (step.group ?? "")}
        aria-label={typing === "name" ? "Step name" : "Group name"}
        onBlur={(e) => typed(e.target.value)}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter" || e.key === "Escape") e.currentTarget.blur();
        }}
      />
    );
  return (
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
  );
}
