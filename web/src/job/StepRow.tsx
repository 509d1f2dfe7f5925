import { MoreOutlined } from "@ant-design/icons";
import { Button, Dropdown } from "antd";
import { useState } from "react";
import type { StepState } from "../api/build";
import type { Step } from "../api/client";
import { factsOf } from "../api/facts";
import { useKinds } from "../api/kinds";
import { useTool } from "../sheets/tool";
import { kindView } from "../steps/kindViews";
import { StepProblems } from "../steps/StepProblems";
import { keyValue } from "../steps/stepValues";
import { usePreview } from "../steps/usePreview";
import { Glyph, glyphOf } from "../ui/Glyph";
import { ValueField } from "../values/ValueField";
import { useAppearance } from "../view/appearance";
import { useBench } from "./context";
import { HiddenMark } from "./HiddenMark";
import { StepFit } from "./StepFit";
import { StepName } from "./StepName";
import { useSeen } from "./seen";
import { useStepMenu } from "./useStepMenu";

interface Props {
  step: Step;
  state: StepState | undefined;
  index: number;
  running: boolean;
}

/** One step: glyph, name, key value in place, evidence mark, what it did to the fit; its problem right below it. */
export function StepRow({ step, state, index, running }: Props) {
  const { job, unit, edit } = useBench();
  const kind = useKinds()[step.kind];
  const hidden = useAppearance((s) => s.hidden.includes(step.id));
  const selected = useTool((s) => s.step) === step.id;
  const asOf = useSeen((s) => s.asOf);
  const preview = usePreview();
  const [typing, setTyping] = useState<"name" | "group" | null>(null);
  const menu = useStepMenu(step, index, setTyping);
  const params: Record<string, unknown> = step.params;
  const { Word, wordAlone, instead } = kindView(step.kind);
  const nameOf = (id: string) => job.recipe.steps.find((s) => s.id === id)?.name ?? "…";
  const word = instead?.(params, nameOf) ?? null;
  const worded = wordAlone === true && state?.status === "ok";
  const value = word === null && !worded ? keyValue(step, kind, state, unit) : undefined;
  const status = step.enabled ? (state?.status ?? "new") : "off";
  const past = asOf !== null && index > job.recipe.steps.findIndex((s) => s.id === asOf);
  return (
    <li
      className={`step step-${status}${selected ? " selected" : ""}${past ? " step-past" : ""}`}
      data-step={step.id}
      data-status={status}
    >
      <div className="step-line">
        <span className="step-number">{index + 1}</span>
        <Glyph kind={factsOf(state?.facts, "region")?.kind ?? glyphOf(step.kind)} />
        <StepName step={step} typing={typing} onTyped={() => setTyping(null)} />
        {value && (
          <ValueField
            compact
            label={`${step.name}: ${value.field.label}`}
            shown={value}
            of={{
              kind: step.kind,
              params,
              place: value.field.name,
              own: step.id,
              dimension: value.field.dimension ?? "length",
            }}
            onType={(text) => {
              const part = { [value.field.name]: { text, mark: "assumed" } };
              if (!text.trim() || text === value.text) preview.clear();
              else preview.show({ op: "set-params", step: step.id, params: part });
            }}
            onCommit={(v) => {
              const back = value.field.optional ? null : value.field.fallback;
              void edit({ op: "set-params", step: step.id, params: { [value.field.name]: v ?? back } });
              preview.clear();
            }}
          />
        )}
        {Word && state && status === "ok" && (
          <span className="step-word">
            <Word state={state} />
          </span>
        )}
        {word !== null && (
          <span className="step-word" title={word}>
            {word}
          </span>
        )}
        {hidden ? <HiddenMark id={step.id} name={step.name} /> : <StepFit step={step.id} />}
        <Dropdown menu={{ items: menu }} trigger={["click"]} placement="bottomRight">
          <Button size="small" type="text" icon={<MoreOutlined />} aria-label={`More for ${step.name}`} />
        </Dropdown>
      </div>
      {running && <div className="step-note">working …</div>}
      <StepProblems step={step} state={state} />
    </li>
  );
}
