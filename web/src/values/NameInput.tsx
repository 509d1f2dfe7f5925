import { Input } from "antd";

/** A name that is changed in place. */
export function NameInput({ name, onCommit }: { name: string; onCommit: (name: string) => void }) {
  return (
    <Input
      key={name}
      size="small"
      className="name-input"
      aria-label={`Name ${name}`}
      defaultValue={name}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Enter") e.currentTarget.blur();
      }}
      onBlur={(e) => e.target.value.trim() && e.target.value !== name && onCommit(e.target.value.trim())}
    />
  );
}
