import { Button, Select } from "antd";
import { useMemo, useState } from "react";
import { type Field, useDeclarations } from "../api/kinds";
import { useBench } from "../job/context";
import { PartsList } from "../pick/PartsList";
import { placeSaid, takesOf } from "./placePick";
import { type Spot, usePickPlace } from "./usePickPlace";

interface Props {
  field: Field;
  value: unknown;
  /** The spot on the scan that stands in for the reference, when the step has such a field. */
  spot: { name: string; value: Spot | null } | null;
  offers: { value: string; label: string }[];
  /** The step the field belongs to, when it stands in the job: only what is above it serves. */
  step: string | null;
  onChange: (part: Record<string, unknown>) => void;
}

const PART = "a part";
const SPOT = "a spot on the scan";

/** A plane, axis, point or any place: chosen from what stands above, or picked in the view. */
export function PlaceField({ field, value, spot, offers, step, onChange }: Props) {
  const { job } = useBench();
  const { pick, waiting } = usePickPlace();
  const [listed, setListed] = useState(false);
  const wanted = useDeclarations().references[field.reference ?? ""];
  const takes = useMemo(() => takesOf(field, wanted), [field, wanted]);
  const ref = value as Record<string, unknown> | null;
  const partSaid = placeSaid(ref, (id) => job.recipe.steps.find((s) => s.id === id)?.name);
  const label = field.label.toLowerCase();
  const shown = ref?.id ?? (partSaid ? PART : spot?.value ? SPOT : null);
  const own = [
    ...(partSaid ? [{ value: PART, label: partSaid }] : []),
    ...(spot?.value ? [{ value: SPOT, label: SPOT }] : []),
  ];
  const set = (v: unknown, at: Spot | null = null) =>
    onChange({ [field.name]: v, ...(spot ? { [spot.name]: at } : {}) });
  const hint = `Click ${takes.said} for '${label}'`;
  const spotHint = `Click a spot on the scan for '${label}'`;
  const ask = () =>
    pick(hint, {
      part: (r) => set(r),
      offers: { spots: takes.spots, pieces: takes.pieces, above: step },
      ...(takes.edge ? { edge: (e) => set(e) } : {}),
      ...(takes.face ? { face: (f) => set(f), shapes: wanted?.shapes ?? [] } : {}),
      ...(takes.region ? { region: (id) => set({ id }) } : {}),
    });
  return (
    <div>
      <div className="field-label" title={field.help}>
        {field.label}
      </div>
      <div className="value-line place-line">
        <Select
          aria-label={field.label}
          className="grow"
          showSearch
          optionFilterProp="label"
          value={shown as string | null}
          options={[...own, ...offers]}
          // Enter keeps the step: it must not open the list again.
          onSelect={() => (document.activeElement as HTMLElement | null)?.blur()}
          allowClear={field.optional}
          placeholder={offers.length ? `choose ${wanted?.label ?? ""}` : `no ${field.reference} above this step`}
          onChange={(v?: string) => (v === PART || v === SPOT ? undefined : set(v ? { id: v } : null))}
        />
        <Button
          size="small"
          type={waiting === hint ? "primary" : "default"}
          aria-label={`Pick ${label}`}
          title={wanted?.needs}
          onClick={ask}
        >
          Pick
        </Button>
        {spot && (
          <Button
            size="small"
            type={waiting === spotHint ? "primary" : "default"}
            title="a single place on the scan"
            onClick={() => pick(spotHint, { spot: (s) => set(null, s) })}
          >
            Spot
          </Button>
        )}
      </div>
      {waiting === hint && (
        <Button size="small" type="text" aria-expanded={listed} onClick={() => setListed(!listed)}>
          {listed ? "Close the list" : "From a list"}
        </Button>
      )}
      {waiting === hint && listed && <PartsList chosen={[]} />}
    </div>
  );
}

/** A single place on the scan. */
export function SpotField({ field, value, onChange }: Omit<Props, "spot" | "offers" | "step">) {
  const { pick, waiting } = usePickPlace();
  const hint = `Click the scan for '${field.label.toLowerCase()}'`;
  const spot = value as Spot | null;
  return (
    <div>
      <div className="field-label" title={field.help}>
        {field.label}
      </div>
      <div className="value-line">
        <span className="face-said">{spot ? `on facet ${spot.facet}` : "not picked"}</span>
        <Button
          size="small"
          type={waiting === hint ? "primary" : "default"}
          onClick={() => pick(hint, { spot: (s) => onChange({ [field.name]: s }) })}
        >
          {waiting === hint ? "click it in the view" : spot ? "Pick another" : "Pick"}
        </Button>
      </div>
    </div>
  );
}
