import { MoreOutlined } from "@ant-design/icons";
import { Button, Dropdown, Input, Tooltip } from "antd";
import { useState } from "react";
import type { StepState } from "../api/build";
import type { Step } from "../api/client";
import { Glyph } from "../ui/Glyph";
import { LengthInput } from "../ui/LengthInput";
import { ProblemNote } from "../ui/ProblemNote";
import { Stamp } from "../ui/Stamp";
import { goTo } from "../view/stage";
import { useBench } from "./context";
import { dependents, keyField } from "./stepValues";
import { useTool } from "./stores";

interface Props {
  step: Step;
  state: StepState | undefined;
  index: number;
  running: boolean;
}

/** One step: glyph, name, key value in place, evidence mark; its problem right below it. */
export function StepRow({ step, state, index, running }: Props) {
  const { job, unit, edit } = useBench();
  const selected = useTool((s) => s.step) === step.id;
  const select = useTool((s) => s.select);
  const [renaming, setRenaming] = useState(false);
  const value = keyField(step, state, unit);
  const status = step.enabled ? (state?.status ?? "new") : "off";
  const behind = dependents(job.recipe.steps, step.id);
  const change = (text: string) =>
    value &&
    edit({
      op: "set-params",
      step: step.id,
      params: { [value.field]: text.trim() ? { text: text.trim(), mark: "assumed" } : null },
    });
  const menu = [
    { key: "rename", label: "Rename", onClick: () => setRenaming(true) },
    {
      key: "switch",
      label: step.enabled ? "Switch off" : "Switch on",
      onClick: () => void edit({ op: "switch-step", step: step.id, enabled: !step.enabled }),
    },
    {
      key: "delete",
      danger: true,
      label: behind.length ? `Delete (leaves ${behind.map((s) => s.name).join(", ")} without it)` : "Delete",
      onClick: () => void edit({ op: "delete-step", step: step.id }),
    },
  ];
  return (
    <li className={`step step-${status}${selected ? " selected" : ""}`} data-step={step.id} data-status={status}>
      <div className="step-line">
        <span className="step-number">{index + 1}</span>
        <Glyph kind={state?.kind === "region" ? String(state.facts.kind ?? "region") : step.kind} />
        {renaming ? (
          <Input
            size="small"
            autoFocus
            defaultValue={step.name}
            aria-label="Step name"
            onBlur={(e) => {
              setRenaming(false);
              if (e.target.value.trim() && e.target.value !== step.name)
                void edit({ op: "rename-step", step: step.id, name: e.target.value });
            }}
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key === "Enter" || e.key === "Escape") e.currentTarget.blur();
            }}
          />
        ) : (
          <Tooltip title={step.name} mouseEnterDelay={0.8}>
            <button
              type="button"
              className="step-name"
              aria-pressed={selected}
              onClick={() => select(selected ? null : step.id)}
            >
              {step.name}
            </button>
          </Tooltip>
        )}
        {value && (
          <LengthInput
            label={`${step.name}: ${value.label}`}
            value={value.text}
            placeholder={value.placeholder}
            onCommit={change}
          />
        )}
        {value && <Stamp mark={value.mark} />}
        <Dropdown menu={{ items: menu }} trigger={["click"]} placement="bottomRight">
          <Button size="small" type="text" icon={<MoreOutlined />} aria-label={`More for ${step.name}`} />
        </Dropdown>
      </div>
      {status === "off" && <div className="step-note">switched off</div>}
      {running && <div className="step-note">working …</div>}
      {step.enabled && state?.problems.map((p) => <ProblemNote key={p.code + p.message} problem={p} onGo={goTo} />)}
    </li>
  );
}
