import { Input, type InputRef } from "antd";
import { useEffect, useRef, useState } from "react";
import { useBench } from "../job/context";
import { takeNow } from "../sheets/taking";
import { stepped } from "../units";

interface Props {
  value: string;
  label: string;
  /** Every keystroke, for previews. */
  onType?: (text: string) => void;
  /** Enter or leaving the field. */
  onCommit?: (text: string) => void;
  placeholder?: string;
  autoFocus?: boolean;
  /** What the field shows while nobody types in it, such as what a long formula comes to. */
  rest?: string;
}

/** A typed length: formulas allowed, stepped by the arrow keys (finer with Shift), committed by Enter, put back by Escape. */
export function LengthInput({ value, label, onType, onCommit, placeholder, autoFocus, rest }: Props) {
  const { unit } = useBench();
  const [text, setText] = useState(value);
  const [busy, setBusy] = useState(false);
  const box = useRef<InputRef>(null);
  const live = useRef(value);
  const sent = useRef(value);
  useEffect(() => {
    setText(value);
    live.current = value;
    sent.current = value;
  }, [value]);
  useEffect(() => {
    if (autoFocus) box.current?.focus({ cursor: "all" });
  }, [autoFocus]);
  const commit = () => {
    // Enter commits and then leaves the field, which would commit once more.
    if (live.current === sent.current) return;
    sent.current = live.current;
    onCommit?.(live.current);
  };
  return (
    <Input
      ref={box}
      className="figure-input"
      aria-label={label}
      value={rest && !busy ? rest : text}
      title={rest ? text : undefined}
      placeholder={placeholder ?? ""}
      spellCheck={false}
      onChange={(e) => {
        setText(e.target.value);
        live.current = e.target.value;
        onType?.(e.target.value);
      }}
      onFocus={() => setBusy(true)}
      onBlur={() => {
        setBusy(false);
        commit();
      }}
      onKeyDown={(e) => {
        e.stopPropagation();
        const next =
          e.key === "ArrowUp" || e.key === "ArrowDown"
            ? stepped(live.current, e.key === "ArrowUp", e.shiftKey, unit)
            : null;
        if (next !== null) {
          e.preventDefault();
          live.current = next;
          setText(next);
          onType?.(next);
        }
        if (e.key === "Enter") {
          const said = live.current === sent.current;
          commit();
          box.current?.blur();
          // With nothing more to say in this field, Enter is meant for the sheet it stands in.
          if (said && e.currentTarget.closest(".sheet")) takeNow();
        }
        if (e.key === "Escape") {
          live.current = value;
          setText(value);
          onType?.(value);
          box.current?.blur();
        }
      }}
    />
  );
}
