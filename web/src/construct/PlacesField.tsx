import { Button, Select } from "antd";
import { useMemo, useRef } from "react";
import { type Field, useDeclarations } from "../api/kinds";
import { useBench } from "../job/context";
import { placeSaid, takesOf } from "./placePick";
import { usePickPlace } from "./usePickPlace";

type Ref = Record<string, unknown>;

interface Props {
  field: Field;
  value: unknown;
  offers: { value: string; label: string }[];
  /** The step the field belongs to, when it stands in the job: only what is above it serves. */
  step: string | null;
  onChange: (part: Record<string, unknown>) => void;
}

/** Planes, axes or points in a list: chosen from what stands above, or clicked in the view one after the other; a second click takes one out. */
export function PlacesField({ field, value, offers, step, onChange }: Props) {
  const { job } = useBench();
  const { pick, waiting } = usePickPlace();
  const wanted = useDeclarations().references[field.reference ?? ""];
  const takes = useMemo(() => takesOf(field, wanted), [field, wanted]);
  const refs = (Array.isArray(value) ? value : []) as Ref[];
  // What is armed goes on picking while the list grows: it has to know the newest one.
  const newest = useRef(refs);
  newest.current = refs;
  const nameOf = (id: string) => job.recipe.steps.find((s) => s.id === id)?.name;
  const said = (r: Ref) => (r.id ? (nameOf(String(r.id)) ?? "a step that is gone") : placeSaid(r, nameOf));
  const set = (next: Ref[]) => onChange({ [field.name]: next });
  const toggle = (ref: object) => {
    const key = JSON.stringify(ref);
    const rest = newest.current.filter((r) => JSON.stringify(r) !== key);
    set(rest.length < newest.current.length ? rest : [...newest.current, { ...ref }]);
  };
  const hint = `Click ${takes.said} for '${field.label.toLowerCase()}', one after the other`;
  const ask = () =>
    pick(hint, {
      several: true,
      part: toggle,
      offers: { spots: takes.spots, pieces: takes.pieces, above: step },
      ...(takes.edge ? { edge: toggle } : {}),
      ...(takes.face ? { face: toggle, shapes: wanted?.shapes ?? [] } : {}),
      ...(takes.region ? { region: (id) => toggle({ id }) } : {}),
    });
  const going = waiting === hint;
  const left = offers.filter((o) => !refs.some((r) => r.id === o.value));
  return (
    <div>
      <div className="field-label" title={field.help}>
        {field.label}
      </div>
      <ul className="parts" aria-label={field.label}>
        {refs.map((r, k) => (
          <li key={JSON.stringify(r)} className="value-line">
            <span className="face-said">
              {k + 1} · {said(r)}
            </span>
            <Button size="small" type="text" aria-label={`Remove ${k + 1}, ${said(r)}`} onClick={() => toggle(r)}>
              Remove
            </Button>
          </li>
        ))}
      </ul>
      <div className="value-line place-line">
        <Button size="small" type={going ? "primary" : "default"} title={wanted?.needs} onClick={ask}>
          {going ? "Done picking" : refs.length ? "Pick more" : "Pick in the view"}
        </Button>
        {left.length > 0 && (
          <Select
            aria-label={`Add to ${field.label.toLowerCase()}`}
            className="grow"
            size="small"
            showSearch
            optionFilterProp="label"
            value={null}
            options={left}
            placeholder="or add one from above"
            onChange={(id: string | null) => id && toggle({ id })}
          />
        )}
      </div>
    </div>
  );
}
