import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useEffect } from "react";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { useSeen } from "../job/seen";
import { useArmed } from "../pick/armed";
import { withPlace } from "../steps/stepValues";
import { useFaces } from "../steps/useFaces";
import { Glyph } from "../ui/Glyph";
import { area, length, type Unit } from "../units";
import { usePointed } from "../view/pointed";
import { goTo } from "../view/stage";
import { useTool } from "./tool";

/** "pairs[16].face" in words. */
function said(place: string): string {
  const found = /^(\w+)\[(\d+)\]\.?(\w*)$/.exec(place);
  if (!found) return place.replaceAll("_", " ");
  const one = found[1]!.replace(/s$/, "");
  return `${found[3] ? `${found[3]} of ` : ""}${one} ${Number(found[2]) + 1}`;
}

type Spot = [number, number, number];

/** How large a part is: a face by its area, an edge by its length. */
function sizeOf(part: { area?: number | null; length?: number | null }, unit: Unit): string {
  if (part.area != null) return area(part.area, unit);
  return part.length != null ? length(part.length, unit) : "";
}

/** A lost or ambiguous reference: where it pointed, and what can be meant instead. */
export function RepairSheet({ step: id, place }: { step: string; place: string }) {
  const { job, unit, edit } = useBench();
  const select = useTool((s) => s.select);
  const set = usePointed((s) => s.set);
  const see = useSeen((s) => s.set);
  const { armed, arm } = useArmed();
  const step = job.recipe.steps.find((s) => s.id === id);
  const { data, error } = useQuery({
    queryKey: ["repair", job.id, job.revision, id, place],
    queryFn: () =>
      got(
        api.GET("/api/jobs/{job_id}/steps/{step}/repair", {
          params: { path: { job_id: job.id, step: id }, query: { place } },
        }),
      ),
  });
  const states = job.build.result?.steps ?? [];
  const before = states[states.findIndex((s) => s.id === id) - 1];
  const key = data?.whole ? (before?.after[data.whole] ?? null) : null;
  const faces = useFaces(key);
  // The step chooses among what stands above it: that is what should be seen.
  const above = before?.id ?? null;
  useEffect(() => {
    const { asOf } = useSeen.getState();
    see({ asOf: above });
    return () => see({ asOf });
  }, [above, see]);
  if (!step) return null;
  const use = async (value: unknown) => {
    set({ offered: null });
    arm(null);
    if (await edit({ op: "set-params", step: id, params: withPlace(step.params, place, value) })) select(id);
  };
  const face = (name: string) => {
    const f = faces.find((x) => x.name === name);
    return f && { body: data!.whole!, name: f.name, kind: f.kind, beside: f.beside, place: f.centre };
  };
  const hint = `Click the face that '${step.name}' should use`;
  return (
    <section className="sheet" aria-label="Repair" onMouseLeave={() => set({ offered: null })}>
      <h2>Repair '{step.name}'</h2>
      <p className="quiet">
        Its {said(place)} no longer points to one thing. Everything else of the step is as it was. The job is shown as
        the step finds it.
      </p>
      {error && <p className="quiet">{error.message}</p>}
      {data && (
        <>
          <div className="field-label">It pointed to</div>
          <div className="value-line">
            <span className="face-said">{data.old}</span>
            {data.place && (
              <Button size="small" onClick={() => goTo(data.place as [number, number, number])}>
                Show the old place
              </Button>
            )}
          </div>
          <div className="field-label">It could be</div>
          {data.parts.length + data.steps.length === 0 && <p className="quiet">Nothing above this step fits.</p>}
          <ul className="offers">
            {data.parts.map((f) => (
              <li key={f.name} onMouseEnter={() => set({ offered: { body: data.whole!, name: f.name } })}>
                <Glyph kind={f.kind} />
                <button type="button" className="step-name" onClick={() => f.centre && goTo(f.centre as Spot)}>
                  {f.label}
                  {f.kin && <small className="quiet"> · comes from it</small>}
                </button>
                <span className="figures">{sizeOf(f, unit)}</span>
                <Button size="small" onClick={() => void use(f.ref)}>
                  Use
                </Button>
              </li>
            ))}
            {data.steps.map((s) => (
              <li key={s.id}>
                <Glyph kind={data.wanted} />
                <span className="step-name">{s.name}</span>
                <Button size="small" onClick={() => void use({ id: s.id })}>
                  Use
                </Button>
              </li>
            ))}
          </ul>
          {data.wanted === "face" && (
            <Button
              size="small"
              type={armed ? "primary" : "default"}
              onClick={() => arm(armed ? null : { hint, onFace: (pick) => void use(face(pick.face.name)) })}
            >
              {armed ? "click it in the view" : "Pick another in the view"}
            </Button>
          )}
        </>
      )}
      <div className="sheet-actions">
        <Button onClick={() => select(id)}>Back to the step</Button>
      </div>
    </section>
  );
}
