import { Input } from "antd";
import { FieldLabel, type FieldProps } from "./FieldLabel";

export function WordsField({ field, value, onChange }: Omit<FieldProps, "value"> & { value: string }) {
  return (
    <div>
      <FieldLabel field={field} />
      <Input
        key={value}
        aria-label={field.label}
        defaultValue={value}
        placeholder={field.help}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Enter") e.currentTarget.blur();
        }}
        onBlur={(e) => e.target.value.trim() !== value && onChange({ [field.name]: e.target.value.trim() })}
      />
    </div>
  );
}
