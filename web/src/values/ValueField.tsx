import { Popover } from "antd";
import { useState } from "react";
import type { ShownValue, Typed } from "../steps/stepValues";
import { LengthInput } from "../ui/LengthInput";
import { MARKS, Stamp } from "../ui/Stamp";
import { Candidates, type ValueOf } from "./Candidates";

interface Props {
  label: string;
  help?: string;
  shown: ShownValue;
  of: ValueOf;
  compact?: boolean;
  autoFocus?: boolean;
  /** None puts the step's own choice back. */
  onCommit: (value: Typed | null) => void;
  onType?: ((text: string) => void) | undefined;
}

/** A typed value: formula, where it comes from, and what it could be instead, side by side. */
export function ValueField({ label, help, shown, of, compact, autoFocus, onCommit, onType }: Props) {
  const input = (
    <LengthInput
      label={label}
      value={shown.text}
      placeholder={shown.means}
      autoFocus={autoFocus ?? false}
      {...(compact && shown.text && shown.means ? { rest: shown.means } : {})}
      {...(onType ? { onType } : {})}
      onCommit={(text) => onCommit(text.trim() ? { text: text.trim(), mark: "assumed" } : null)}
    />
  );
  const stamp = <MarkButton label={label} shown={shown} of={of} onCommit={onCommit} />;
  if (compact)
    return (
      <>
        {input}
        {stamp}
      </>
    );
  return (
    <div className="value-field">
      <div className="field-label" title={help}>
        {label}
      </div>
      <div className="value-line">
        {input}
        {stamp}
      </div>
      {shown.text && shown.means && <div className="value-means figures">= {shown.means}</div>}
      {shown.note && <div className="value-note">{shown.note}</div>}
    </div>
  );
}

function MarkButton({ label, shown, of, onCommit }: Pick<Props, "label" | "shown" | "of" | "onCommit">) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      open={open}
      onOpenChange={setOpen}
      trigger="click"
      placement="bottomRight"
      destroyOnHidden
      content={
        <Candidates
          shown={shown}
          of={of}
          onChoose={(value) => {
            setOpen(false);
            onCommit(value);
          }}
        />
      }
    >
      <button type="button" className="mark-button" aria-label={`${label}: ${MARKS[shown.mark]?.text}. Choose another`}>
        <Stamp mark={shown.mark} />
      </button>
    </Popover>
  );
}
