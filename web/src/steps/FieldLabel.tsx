import type { Field } from "../api/kinds";

export function FieldLabel({ field }: { field: Field }) {
  return (
    <div className="field-label" title={field.help}>
      {field.label}
    </div>
  );
}

/** What a field of a form is given. */
export interface FieldProps {
  field: Field;
  value: unknown;
  onChange: (part: Record<string, unknown>) => void;
}
