import { useState } from "react";
import { api, type Candidate, got, type Mark } from "../api/client";
import type { Dimension } from "../api/kinds";
import { useBench } from "../job/context";
import type { ShownValue, Typed } from "../steps/stepValues";
import { Stamp } from "../ui/Stamp";
import { length, signed } from "../units";

/** Whose value it is, so that the server can say what it could be. */
export interface ValueOf {
  kind?: string | null;
  params?: Record<string, unknown>;
  place?: string;
  own?: string | null;
  dimension?: Dimension;
}

interface CandidatesProps {
  shown: ShownValue;
  of: ValueOf;
  onChoose: (value: Typed) => void;
}

const SAID: Mark[] = ["assumed", "intent", "drawing", "photo", "standard"];

/** What the value could be: by the scan, by readings, rounded; and what the person says of a figure typed by hand. */
export function Candidates({ shown, of, onChoose }: CandidatesProps) {
  const { job, unit, tell } = useBench();
  const [rows, setRows] = useState<Candidate[] | null>(null);
  const [now, setNow] = useState<number | null>(null);
  const [asked, setAsked] = useState(false);
  if (!asked) {
    setAsked(true);
    const body = {
      kind: of.kind ?? null,
      params: of.params ?? {},
      place: of.place ?? "",
      own: of.own ?? null,
      dimension: of.dimension ?? ("length" as const),
      text: shown.text,
    };
    got(api.POST("/api/jobs/{job_id}/candidates", { params: { path: { job_id: job.id } }, body }))
      .then((found) => {
        setRows(found.candidates);
        setNow(found.value);
      })
      .catch((e: unknown) => {
        setRows([]);
        tell(e);
      });
  }
  const figure = (v: number) => (of.dimension === "angle" ? `${v.toFixed(2)} deg` : length(v, unit, 1));
  return (
    <div className="candidates">
      <h3>What it could be</h3>
      {rows === null && <p className="quiet">looking …</p>}
      {rows?.length === 0 && (
        <p className="quiet">
          Nothing measured lies near. Grow a region where it should end, or add a reading, and it is offered here.
        </p>
      )}
      {rows?.map((c) => (
        <button
          type="button"
          className="candidate"
          key={c.label + c.text}
          title={c.note}
          onClick={() => onChoose({ text: c.text, mark: c.mark, note: c.note })}
        >
          <Stamp mark={c.mark} />
          <span className="candidate-name">{c.label}</span>
          <span className="figures">
            {figure(c.value)}
            {c.u !== null && Number.isFinite(c.u) && <small> ± {length(c.u, unit, 2).replace(` ${unit}`, "")}</small>}
          </span>
          <span className="figures candidate-off">{now === null ? "" : signed(c.value - now, unit, 1)}</span>
        </button>
      ))}
      {shown.text && (
        <>
          <h3>Or keep the figure, and say where it is from</h3>
          <div className="said">
            {SAID.map((mark) => (
              <button
                type="button"
                key={mark}
                aria-pressed={shown.mark === mark}
                onClick={() => onChoose({ text: shown.text, mark, note: "" })}
              >
                <Stamp mark={mark} /> {mark}
              </button>
            ))}
          </div>
        </>
      )}
    </div>
  );
}
