import { Segmented, Select } from "antd";
import { FieldLabel, type FieldProps } from "./FieldLabel";

/** One of a few words: side by side where there is room. */
export function ChoiceField({ field, value, onChange }: FieldProps) {
  const options = field.options.map((o) => ({ value: o, label: field.option_titles[o] ?? o }));
  const props = {
    "aria-label": field.label,
    value: String(value),
    onChange: (v: string) => onChange({ [field.name]: v }),
  };
  return (
    <div>
      <FieldLabel field={field} />
      {options.map((o) => o.label).join("").length > 26 ? (
        <Select {...props} className="wide" options={options} />
      ) : (
        <Segmented {...props} block options={options} />
      )}
    </div>
  );
}
