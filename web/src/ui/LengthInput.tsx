import { Input, type InputRef } from "antd";
import { useEffect, useRef, useState } from "react";

interface Props {
  value: string;
  label: string;
  /** Every keystroke, for previews. */
  onType?: (text: string) => void;
  /** Enter or leaving the field. */
  onCommit?: (text: string) => void;
  placeholder?: string;
  autoFocus?: boolean;
}

/** A typed length: formulas allowed, committed by Enter, put back by Escape. */
export function LengthInput({ value, label, onType, onCommit, placeholder, autoFocus }: Props) {
  const [text, setText] = useState(value);
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
      value={text}
      placeholder={placeholder ?? ""}
      spellCheck={false}
      onChange={(e) => {
        setText(e.target.value);
        live.current = e.target.value;
        onType?.(e.target.value);
      }}
      onBlur={commit}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") {
          commit();
          box.current?.blur();
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
