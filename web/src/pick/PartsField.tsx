import { Button } from "antd";
import { useEffect, useId, useState } from "react";
import { type Field, useDeclarations } from "../api/kinds";
import { useBench } from "../job/context";
import { useSeen } from "../job/seen";
import { faceRef } from "../steps/stepValues";
import { useArmed, useDisarmed } from "./armed";
import { PartsList } from "./PartsList";
import { edgeRef } from "./parts";

type PartValue = { body?: string; edge?: string; chain?: string; name?: string; kind?: string };

interface Props {
  field: Field;
  value: unknown;
  /** The step the field belongs to, when it stands in the job: parts are picked as it finds them. */
  step: string | null;
  own: boolean;
  onChange: (part: Record<string, unknown>) => void;
}

const said = (v: PartValue, edgesToo: boolean): string => {
  if (v.name)
    return edgesToo
      ? `all edges of a ${v.kind || "face"}`
      : v.kind === "plane"
        ? "flat face"
        : `${v.kind || ""} face`.trim();
  if (v.chain) return `${v.kind || "edge"} and what runs on from it`;
  return v.kind === "circle" ? "round edge" : v.kind === "line" ? "straight edge" : "edge";
};
const nameOf = (v: PartValue) => v.edge ?? v.chain ?? v.name ?? "";

/** Edges and faces of a body, in a list: picked in the view one after the other, a second click takes one out again. */
export function PartsField({ field, value, step, own, onChange }: Props) {
  const { job } = useBench();
  const { armed, arm } = useArmed();
  const me = useId();
  const [listed, setListed] = useState(false);
  const set = useSeen((s) => s.set);
  const wanted = useDeclarations().references[field.reference ?? ""];
  const parts = (Array.isArray(value) ? value : value ? [value] : []) as PartValue[];
  const label = field.label.toLowerCase();
  const edgesToo = field.parts?.includes("edge") ?? true;
  const hint = !edgesToo
    ? `Click faces for '${label}'`
    : field.parts?.includes("face")
      ? `Click edges for '${label}', or a face for all around it`
      : `Click the edge for '${label}'`;
  const waiting = armed?.of === me;
  useDisarmed((a) => a.of === me);
  const several = field.type === "refs";
  const toggle = (ref: PartValue) => {
    const rest = parts.filter((p) => nameOf(p) !== nameOf(ref));
    const next = rest.length < parts.length ? rest : several ? [...parts, ref] : [ref];
    onChange({ [field.name]: several ? next : (next[0] ?? null) });
  };
  const states = job.build.result?.steps ?? [];
  const above = own ? (states[states.findIndex((s) => s.id === step) - 1]?.id ?? null) : null;
  // What the step changes is picked as it was before it.
  useEffect(() => {
    if (!waiting || !above) return undefined;
    const { asOf } = useSeen.getState();
    set({ asOf: above });
    return () => set({ asOf });
  }, [waiting, above, set]);
  const ask = {
    hint,
    of: me,
    ...(edgesToo
      ? {
          onEdge: (pick: Parameters<NonNullable<NonNullable<typeof armed>["onEdge"]>>[0]) =>
            toggle(edgeRef(pick.body, pick.edge)),
          onEdges: (picks: Parameters<NonNullable<NonNullable<typeof armed>["onEdges"]>>[0]) => {
            const more = picks
              .map((p) => edgeRef(p.body, p.edge))
              .filter((r) => !parts.some((p) => nameOf(p) === r.edge));
            if (several && more.length) onChange({ [field.name]: [...parts, ...more] });
          },
        }
      : {}),
    ...(field.parts?.includes("face")
      ? {
          onFace: (pick: Parameters<NonNullable<NonNullable<typeof armed>["onFace"]>>[0]) =>
            toggle(faceRef(pick.body, pick.face)),
        }
      : {}),
  };
  // The list grows while it is being picked into: what is armed has to know the newest one.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only a changed list makes it new
  useEffect(() => {
    if (waiting) arm(ask);
  }, [value]);
  return (
    <div>
      <div className="field-label" title={field.help}>
        {field.label}
      </div>
      <ul className="parts" aria-label={field.label}>
        {parts.map((p) => (
          <li key={nameOf(p)} className="value-line">
            <span className="face-said">{said(p, edgesToo)}</span>
            <Button size="small" type="text" aria-label={`Remove ${said(p, edgesToo)}`} onClick={() => toggle(p)}>
              Remove
            </Button>
          </li>
        ))}
      </ul>
      <Button
        size="small"
        type={waiting ? "primary" : "default"}
        title={wanted?.needs}
        onClick={() => arm(waiting ? null : ask)}
      >
        {waiting ? "Done picking" : parts.length ? "Pick more" : "Pick in the view"}
      </Button>
      {waiting && (
        <Button size="small" type="text" aria-expanded={listed} onClick={() => setListed(!listed)}>
          {listed ? "Close the list" : "From a list"}
        </Button>
      )}
      {waiting && listed && <PartsList chosen={parts.map(nameOf)} />}
    </div>
  );
}
