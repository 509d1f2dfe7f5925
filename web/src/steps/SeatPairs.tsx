import { Button, Tooltip } from "antd";
import { useEffect, useRef, useState } from "react";
import { api, type FaceFacts, got } from "../api/client";
import type { FactsOf } from "../api/facts";
import { useBench } from "../job/context";
import { finished, useLive } from "../job/useTask";
import { useArmed } from "../pick/armed";
import type { FacePick } from "../pick/picks";
import { useTool } from "../sheets/tool";
import { Glyph } from "../ui/Glyph";
import { length, signed } from "../units";
import { usePointed } from "../view/pointed";
import { goTo } from "../view/stage";
import { faceRef } from "./stepValues";
import { useFaces } from "./useFaces";

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
type Row = Partial<Omit<FactsOf<"seat">["pairs"][number], "face">> & { face: string };
interface Props {
  /** The seat step; none while it is being prepared. */
  step: string | null;
  body: string;
  pairs: SeatPair[];
  /** How each pair came out; empty while the step is being prepared: then proposals say how they would. */
  rows: Row[];
  unseated: string[] | null;
  onChange: (pairs: SeatPair[]) => void;
}

/** Which face should lie on which region: proposed, thinned out, or paired by hand in either order. */
export function SeatPairs({ step, body, pairs, rows, unseated, onChange }: Props) {
  const { job, unit, scanKey, tell } = useBench();
  const set = usePointed((s) => s.set);
  const { armed, arm } = useArmed();
  const mend = useTool((s) => s.mend);
  const live = useLive();
  const [proposed, setProposed] = useState<Row[]>([]);
  const [looking, setLooking] = useState(false);
  const half = useRef<{ face?: FacePick; seed?: number }>({});
  const [said, setSaid] = useState("");

  const states = job.build.result?.steps ?? [];
  const at = step === null ? states.length : states.findIndex((s) => s.id === step);
  const before = states[Math.max(0, at - 1)];
  const key = before?.after[body] ?? null;
  const faces = useFaces(key);
  const known = new Map(faces.map((f) => [f.name, f]));
  const rowOf = (i: number): Row =>
    rows.find((r) => r.pair === i) ??
    proposed.find((r) => r.face === pairs[i]!.face.name) ?? { face: pairs[i]!.face.name };

  const propose = async (names: string[] | null) => {
    setLooking(true);
    const path = { job_id: job.id };
    try {
      const first = await got(
        api.POST("/api/jobs/{job_id}/seats", {
          params: { path },
          body: { body, faces: names, after: before?.id ?? null, tilt: "3 deg" },
        }),
      );
      const row = await finished(
        first,
        () => got(api.GET("/api/jobs/{job_id}/seats/{task_id}", { params: { path: { ...path, task_id: first.id } } })),
        live,
      );
      if (!live() || !row.result) return;
      const found = row.result.pairs;
      const taken = new Set(pairs.map((p) => p.face.name));
      const all = await got(
        api.GET("/api/jobs/{job_id}/products/{key}/faces", { params: { path: { ...path, key: key! } } }),
      );
      const more = found
        .filter((f) => !taken.has(f.face))
        .map((f) => {
          const face = all.find((x) => x.name === f.face) as FaceFacts;
          const region = f.region ? { id: f.region } : null;
          return { face: faceRef(body, face), region, seeds: region ? [] : [f.seed] } as SeatPair;
        });
      setProposed((old) => [...old, ...found]);
      onChange([...pairs, ...more]);
      setSaid(`${found.length} of ${names?.length ?? all.length} faces have a region opposite them`);
    } catch (e) {
      tell(e);
    } finally {
      if (live()) setLooking(false);
    }
  };
  // A new seat begins with the app's own proposal.
  const begun = useRef(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked for once, when the faces are known
  useEffect(() => {
    if (step !== null || begun.current || !key) return;
    begun.current = true;
    void propose(pairs.length ? pairs.map((p) => p.face.name) : null);
    if (pairs.length) onChange([]);
  }, [key]);

  const complete = async () => {
    const { face, seed } = half.current;
    if (!face || seed === undefined) return;
    half.current = {};
    arm(null);
    const kind = face.face.kind === "cylinder" ? "cylinder" : "plane";
    try {
      const grown = await got(
        api.POST("/api/jobs/{job_id}/grow", {
          params: { path: { job_id: job.id } },
          body: { scan: scanKey, seeds: [seed], removed: [], surface: kind },
        }),
      );
      const rest = pairs.filter((p) => p.face.name !== face.face.name);
      onChange([...rest, { face: faceRef(body, face.face), region: null, seeds: grown.source_seeds } as SeatPair]);
      setSaid("paired by hand");
    } catch (e) {
      tell(e);
    }
  };
  const byHand = (want: "face" | "facet") => {
    const other = want === "face" ? "facet" : "face";
    const needs = want === "face" ? half.current.face === undefined : half.current.seed === undefined;
    if (!needs) return void complete();
    arm({
      want,
      hint: want === "face" ? "Click the face to seat" : "Click the region of the scan it should lie on",
      onFace: (pick) => {
        half.current.face = pick;
        byHand(other);
      },
      onFacet: (facet) => {
        half.current.seed = facet;
        byHand(other);
      },
    });
  };

  const label = (name: string) => known.get(name)?.label ?? name.replace(/^[0-9a-f]{8}\./, "");
  const point = (name: string) => {
    set({ offered: { body, name } });
  };
  const seated = pairs.length - rows.filter((r) => r.status === "refused").length;
  const without =
    unseated ?? (faces.length ? faces.map((f) => f.name).filter((n) => !pairs.some((p) => p.face.name === n)) : []);
  return (
    <section className="seat" aria-label="Pairs" onMouseLeave={() => set({ offered: null })}>
      <div className="field-label">
        {pairs.length} {pairs.length === 1 ? "pair" : "pairs"}
        {rows.length > 0 && `, ${seated} seated`} · rms before → after
      </div>
      {looking && <p className="quiet">looking for the region opposite each face …</p>}
      <ul className="seat-list">
        {pairs.map((p, i) => {
          const row = rowOf(i);
          const refused = row.status === "refused";
          return (
            <li key={p.face.name} className={refused ? "refused" : ""} onMouseEnter={() => point(row.face)}>
              <Glyph kind={p.face.kind} />
              <button
                type="button"
                className="step-name"
                title={`${label(row.face)} → ${p.region ? (job.recipe.steps.find((s) => s.id === p.region?.id)?.name ?? "a region") : "a region grown from a pick"}`}
                onClick={() => p.face.place && goTo(p.face.place)}
              >
                {label(row.face)}
              </button>
              <Tooltip
                title={
                  row.offset == null
                    ? ""
                    : `moves ${signed(row.offset, unit, 1)}; left over: tilt ${row.tilt?.toFixed(2)} deg${row.shift ? `, shift ${length(row.shift, unit, 1)}` : ""}; ${row.facets} facets`
                }
              >
                <span className="figures seat-figures">
                  {row.before == null || refused
                    ? ""
                    : `${length(row.before, unit, 1).split(" ")[0]} → ${length(row.after ?? 0, unit, 1).split(" ")[0]}`}
                </span>
              </Tooltip>
              <Button
                size="small"
                type="text"
                aria-label={`Leave ${label(row.face)} out`}
                onClick={() => onChange(pairs.filter((q) => q !== p))}
              >
                ×
              </Button>
              {refused && (
                <div className="seat-reason">
                  refused: {row.reason}{" "}
                  {step && row.code?.startsWith("ref-") && (
                    <button type="button" className="link" onClick={() => mend(step, `pairs[${i}].face`)}>
                      repair
                    </button>
                  )}
                </div>
              )}
            </li>
          );
        })}
      </ul>
      {said && <p className="quiet small">{said}</p>}
      <div className="seat-actions">
        <Button size="small" loading={looking} onClick={() => void propose(null)}>
          Propose all
        </Button>
        <Button
          size="small"
          type={armed ? "primary" : "default"}
          onClick={() => {
            half.current = {};
            if (armed) arm(null);
            else byHand("face");
          }}
        >
          {armed ? "Stop pairing" : "Pair by hand"}
        </Button>
        {armed && armed.want === "face" && !half.current.face && half.current.seed === undefined && (
          <Button size="small" type="link" onClick={() => byHand("facet")}>
            region first
          </Button>
        )}
      </div>
      {without.length > 0 && (
        <details className="unseated">
          <summary>{without.length} faces stay as they are</summary>
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
