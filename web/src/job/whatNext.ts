/** What usually comes next in a job, from its state. No React. */
import { fileOf, meshFile } from "../api/evidence";
import { factsOf, sketchFacts } from "../api/facts";
import type { Kind } from "../api/kinds";
import type { Job } from "../api/queries";

export type Next =
  | { what: "mend"; step: string; name: string }
  | { what: "align" | "regions" | "solidify" | "deliver" }
  | { what: "section"; region: string; name: string }
  | { what: "close" | "extrude"; sketch: string; name: string }
  | { what: "seat"; body: string; name: string }
  | { what: "across"; axis: string; middle: number }
  | { what: "whole"; sector: string }
  | { what: "repeat"; axis: string; body: string; alike: number }
  | { what: "check"; share: number };

const referred = (params: Record<string, unknown>, name: string) =>
  (params[name] as { id: string } | null | undefined)?.id;

/** From this share inside the tolerance on there is nothing left to seat: a solid made of a modelled mesh. */
const FITS = 0.999;

/** Whether all that is brought in is one mesh that a modeller wrote: its faces are exact, and can become a solid at once. */
const modelled = (job: Job) =>
  job.recipe.evidence.length === 1 &&
  job.recipe.evidence.every((e) => meshFile(fileOf(job, e.id))?.made === "modelled");

/** One thing, the first that is missing in the order of the work; none while a build runs, or where nothing is there to begin with. */
export function whatNext(job: Job, kinds: Record<string, Kind>, coloured: boolean): Next | null {
  const { steps, evidence } = job.recipe;
  const { result, status } = job.build;
  if (status !== "done" || !result) return null;
  const state = new Map(result.steps.map((s) => [s.id, s]));
  const makes = (what: string) => steps.filter((s) => kinds[s.kind]?.makes === what);
  const broken = steps.find((s) => state.get(s.id)?.status === "failed");
  if (broken) return { what: "mend", step: broken.id, name: broken.name };
  const scans = evidence.some((e) => e.kind === "scan");
  const bodies = result.bodies.length > 0;
  if (scans && steps.length === 0) return { what: modelled(job) ? "solidify" : "align" };
  const used = new Set(steps.map((s) => referred(s.params, "sketch")));
  const sketch = makes("sketch").find((s) => !used.has(s.id) && state.get(s.id)?.status === "ok");
  if (sketch) {
    const closed = (sketchFacts(state.get(sketch.id)?.facts)?.profiles ?? 0) > 0;
    return { what: closed ? "extrude" : "close", sketch: sketch.id, name: sketch.name };
  }
  const sector = steps.find((s) => s.enabled && factsOf(state.get(s.id)?.facts, "sector"));
  const around = sector && referred(sector.params, "axis");
  const one = factsOf(sector && state.get(sector.id)?.facts, "sector");
  if (around && one && !bodies) return { what: "across", axis: around, middle: one.middle };
  if (scans && !bodies) {
    const plane = steps.find((s) => factsOf(state.get(s.id)?.facts, "region")?.kind === "plane");
    return plane ? { what: "section", region: plane.id, name: plane.name } : { what: "regions" };
  }
  const body = result.bodies.find((b) => b.role === "material" && !b.open);
  if (!body) return null;
  const repeated = steps.some((s) => factsOf(state.get(s.id)?.facts, "repeat"));
  if (around && one && !repeated) return { what: "repeat", axis: around, body: body.id, alike: one.alike };
  const whole = steps.some((s) => s.enabled && referred(s.params, "before") === sector?.id);
  if (sector && repeated && !whole) return { what: "whole", sector: sector.id };
  const share = result.fit?.figures.inside_share;
  const seated = steps.some((s) => factsOf(state.get(s.id)?.facts, "seat")) || (share ?? 0) > FITS;
  if (scans && !seated) return { what: "seat", body: body.id, name: body.name };
  if (share !== undefined && !coloured) return { what: "check", share };
  return { what: "deliver" };
}
