import { Select } from "antd";
import { useDeclarations } from "../api/kinds";
import { FieldLabel, type FieldProps } from "./FieldLabel";
import { useOffers } from "./useOffers";

/** What stands above the step, to choose from. */
export function RefField({ field, value, step, onChange }: FieldProps & { step: string | null }) {
  const ref = field.reference ?? "";
  const label = useDeclarations().references[ref]?.label ?? ref;
  const offers = useOffers(ref, step);
  const id = (value as { id: string } | null)?.id ?? null;
  const ids = Array.isArray(value) ? (value as { id: string }[]).map((v) => v.id) : [];
  return (
    <div>
      <FieldLabel field={field} />
      {field.type === "refs" ? (
        <Select
          mode="multiple"
          aria-label={field.label}
          className="wide"
          value={ids}
          options={offers}
          placeholder={`choose ${field.label.toLowerCase()}`}
          onChange={(v: string[]) => onChange({ [field.name]: v.map((i) => ({ id: i })) })}
        />
      ) : (
        <Select
          aria-label={field.label}
          className="wide"
          value={id}
          options={offers}
          allowClear={field.optional}
          placeholder={offers.length ? `choose ${label}` : `no ${ref} above this step`}
          onChange={(v?: string) => onChange({ [field.name]: v ? { id: v } : null })}
        />
      )}
    </div>
  );
}
