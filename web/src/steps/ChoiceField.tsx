import { Segmented, Select } from "antd";
import { FieldLabel, type FieldProps } from "./FieldLabel";

/** One of a few words: side by side where there is room. */
export function ChoiceField({ field, value, onChange }: FieldProps) {
  const props = {
    "aria-label": field.label,
    value: String(value),
    onChange: (v: string) => onChange({ [field.name]: v }),
  };
  return (
    <div>
      <FieldLabel field={field} />
      {field.options.join("").length > 26 ? (
        <Select {...props} className="wide" options={field.options.map((o) => ({ value: o, label: o }))} />
      ) : (
        <Segmented {...props} block options={field.options} />
      )}
    </div>
  );
}
