import { Button, Select } from "antd";
import { type Field, useDeclarations } from "../api/kinds";
import { useBench } from "../job/context";
import { type Spot, usePickPlace } from "./usePickPlace";

interface Props {
  field: Field;
  value: unknown;
  /** The spot on the scan that stands in for the reference, when the step has such a field. */
  spot: { name: string; value: Spot | null } | null;
  offers: { value: string; label: string }[];
  onChange: (part: Record<string, unknown>) => void;
}

const FACE = "a face";
const SPOT = "a spot on the scan";

/** A plane, axis, point or any place: chosen from what stands above, or picked in the view. */
export function PlaceField({ field, value, spot, offers, onChange }: Props) {
  const { job } = useBench();
  const { pick, waiting } = usePickPlace();
  const ref = value as { id?: string; body?: string; kind?: string; edge?: string; vertex?: string } | null;
  const body = job.recipe.steps.find((s) => s.id === ref?.body)?.name;
  const label = field.label.toLowerCase();
  const part = ref?.edge ? `${ref.kind === "circle" ? "round" : "straight"} edge` : ref?.kind || "face";
  const what = ref?.vertex ? "corner" : part;
  const faceSaid = ref?.body ? `${what} of ${body ?? "a body"}` : "";
  const shown = ref?.id ?? (ref?.body ? FACE : spot?.value ? SPOT : null);
  const own = [
    ...(ref?.body ? [{ value: FACE, label: faceSaid }] : []),
    ...(spot?.value ? [{ value: SPOT, label: SPOT }] : []),
  ];
  const set = (v: unknown, at: Spot | null = null) =>
    onChange({ [field.name]: v, ...(spot ? { [spot.name]: at } : {}) });
  const surfaceHint = `Click the surface for '${label}'`;
  const edgeHint = `Click the edge for '${label}'`;
  const cornerHint = `Click the corner for '${label}'`;
  const spotHint = `Click a spot on the scan for '${label}'`;
  const wanted = useDeclarations().references[field.reference ?? ""];
  const surfaces = wanted?.layer === "surfaces";
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
          value={shown}
          options={[...own, ...offers]}
          // Enter keeps the step: it must not open the list again.
          onSelect={() => (document.activeElement as HTMLElement | null)?.blur()}
          allowClear={field.optional}
          placeholder={offers.length ? `choose ${wanted?.label ?? ""}` : `no ${field.reference} above this step`}
          onChange={(v?: string) => (v === FACE || v === SPOT ? undefined : set(v ? { id: v } : null))}
        />
        {surfaces && (
          <Button
            size="small"
            type={waiting === surfaceHint ? "primary" : "default"}
            title="a surface of the scan (kept as a region) or a face of a body"
            onClick={() =>
              pick(surfaceHint, {
                ...(field.parts?.includes("face") ? { face: (f) => set(f) } : {}),
                region: (id) => set({ id }),
              })
            }
          >
            Surface
          </Button>
        )}
        {field.parts?.includes("edge") && (
          <Button
            size="small"
            type={waiting === edgeHint ? "primary" : "default"}
            title="an edge of a body: a straight one for its axis, a round one for its axis or centre"
            onClick={() => pick(edgeHint, { edge: (e) => set(e) })}
          >
            Edge
          </Button>
        )}
        {field.parts?.includes("vertex") && (
          <Button
            size="small"
            type={waiting === cornerHint ? "primary" : "default"}
            title="a corner of a body"
            onClick={() => pick(cornerHint, { corner: (c) => set(c) })}
          >
            Corner
          </Button>
        )}
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
    </div>
  );
}

/** A single place on the scan. */
export function SpotField({ field, value, onChange }: Omit<Props, "spot" | "offers">) {
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
