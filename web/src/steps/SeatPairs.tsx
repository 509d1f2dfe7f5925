import { Button } from "antd";
import type { FactsOf } from "../api/facts";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { usePointed } from "../view/pointed";
import { SeatPairRow } from "./SeatPairRow";
import { useFaces } from "./useFaces";
import { useHandPairing } from "./useHandPairing";
import { useSeatProposals } from "./useSeatProposals";

interface FaceRefOut {
  body: string;
  name: string;
  kind: string;
  beside: string[];
  place: [number, number, number] | null;
}
export interface SeatPair {
  face: FaceRefOut;
  region: { id: string } | null;
  seeds: number[];
}
/** How a pair came out, or would; of one that is only named, nothing is known. */
export type SeatRow = Partial<Omit<FactsOf<"seat">["pairs"][number], "face">> & { face: string };
interface Props {
  /** The seat step; none while it is being prepared. */
  step: string | null;
  body: string;
  pairs: SeatPair[];
  /** How each pair came out, or would; where there is none yet, what was proposed says it. */
  rows: SeatRow[];
  unseated: string[] | null;
  onChange: (pairs: SeatPair[]) => void;
}

/** How many pairs were seated, lie there as they are, and were refused. */
export function cameOutWords(statuses: readonly string[]): string {
  const count = (status: string) => statuses.filter((s) => s === status).length;
  const words = [`${count("seated")} seated`];
  if (count("stands")) words.push(`${count("stands")} as they are`);
  if (count("refused")) words.push(`${count("refused")} refused`);
  return words.join(", ");
}

/** Which face should lie on which region: proposed, thinned out, or paired by hand in either order. */
export function SeatPairs({ step, body, pairs, rows, unseated, onChange }: Props) {
  const { job } = useBench();
  const set = usePointed((s) => s.set);
  const mend = useTool((s) => s.mend);

  const states = job.build.result?.steps ?? [];
  const at = step === null ? states.length : states.findIndex((s) => s.id === step);
  const before = states[Math.max(0, at - 1)];
  const key = before?.after[body] ?? null;
  const faces = useFaces(key);
  const known = new Map(faces.map((f) => [f.name, f]));
  const { propose, proposed, looking, said, setSaid } = useSeatProposals({
    step,
    body,
    key,
    before: before?.id ?? null,
    pairs,
    onChange,
  });
  const { armed, begin, regionFirst } = useHandPairing(body, pairs, (next) => {
    onChange(next);
    setSaid("paired by hand");
  });
  const rowOf = (i: number): SeatRow =>
    // While pairs are still chosen their numbers change, and rows come late.
    rows.find((r) => (step === null ? r.face === pairs[i]!.face.name : r.pair === i)) ??
    proposed.find((r) => r.face === pairs[i]!.face.name) ?? { face: pairs[i]!.face.name };
  const label = (name: string) => known.get(name)?.label ?? name.replace(/^[0-9a-f]{8}\./, "");
  const point = (name: string) => {
    set({ offered: { body, name } });
  };
  const cameOut = pairs.map((_, i) => rowOf(i).status).filter((s) => s !== undefined);
  const paired = new Set([...pairs.map((p) => p.face.name), ...rows.map((r) => r.face)]);
  const without = (unseated ?? faces.map((f) => f.name)).filter((n) => !paired.has(n));
  return (
    <section className="seat" aria-label="Pairs" onMouseLeave={() => set({ offered: null })}>
      <div className="field-label">
        {pairs.length} {pairs.length === 1 ? "pair" : "pairs"}
        {rows.length > 0 && `, ${cameOutWords(cameOut)}`} · rms before → after
      </div>
      {looking && <p className="quiet">looking for the region opposite each face …</p>}
      <ul className="seat-list">
        {pairs.map((p, i) => {
          const row = rowOf(i);
          return (
            <SeatPairRow
              key={p.face.name}
              pair={p}
              row={row}
              name={label(row.face)}
              onPoint={() => point(row.face)}
              onLeave={() => onChange(pairs.filter((q) => q !== p))}
              onRepair={step && row.code?.startsWith("ref-") ? () => mend(step, `pairs[${i}].face`) : null}
            />
          );
        })}
      </ul>
      {said && <p className="quiet small">{said}</p>}
      <div className="seat-actions">
        <Button size="small" loading={looking} onClick={() => void propose(null)}>
          Propose all
        </Button>
        <Button size="small" type={armed ? "primary" : "default"} onClick={begin}>
          {armed ? "Stop pairing" : "Pair by hand"}
        </Button>
        {regionFirst && (
          <Button size="small" type="link" onClick={regionFirst}>
            region first
          </Button>
        )}
      </div>
      {without.length > 0 && (
        <details className="unseated">
          <summary>
            {without.length === 1 ? "1 face stays as it is" : `${without.length} faces stay as they are`}
          </summary>
          {without.map((n) => (
            <button
              type="button"
              key={n}
              className="link small"
              onMouseEnter={() => point(n)}
              onClick={() => void propose([n])}
              title="Look for its region again"
            >
              {label(n)}
            </button>
          ))}
        </details>
      )}
    </section>
  );
}
