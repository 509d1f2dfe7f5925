/** What a step tells, as rows of words and figures. No React. */
import type { StepFacts } from "../api/build";
import {
  bodyFacts,
  type FactsOf,
  factsOf,
  type PlaceFacts,
  placeFacts,
  type SketchFacts,
  sketchFacts,
} from "../api/facts";
import { surfaceName, surfaceSize } from "../ui/surfaces";
import { area, count, length, type Unit, volume } from "../units";
import { inSentence } from "./stepValues";

type Row = [string, string];

/** A fitted surface in the words of the bench. */
export function surfaceSaid(f: FactsOf<"region">, unit: Unit): string {
  const name = inSentence(surfaceName(f.kind, Boolean(f.inside)));
  const size = surfaceSize(f, unit);
  return size ? `${name} ${size}` : name;
}

const some = (...rows: (Row | null | false | undefined | 0)[]): Row[] => rows.filter((r): r is Row => Boolean(r));

const ofRegion = (f: FactsOf<"region">, unit: Unit) =>
  some(
    ["Surface", surfaceSaid(f, unit)],
    ["Facets", count(f.facets)],
    ["Area", area(f.area, unit)],
    ["Rms", length(f.rms, unit, 1)],
    ["Largest deviation", length(Math.abs(f.largest), unit, 1)],
    f.u != null && ["Uncertainty", `± ${length(f.u, unit, 2)}`],
    f.left_out > 0 && ["Left out as worn", `${count(f.left_out)} facets`],
  );

const ofIntent = (f: FactsOf<"intent">, unit: Unit) =>
  some(
    ["Agreed", String(f.agreed)],
    ["Costliest", `${f.dearest.toFixed(1)} u`],
    ["Largest shift", length(f.largest_shift, unit, 1)],
  );

const ofPlace = (f: PlaceFacts, unit: Unit) =>
  some(
    ["At", f.origin.map((x) => length(x, unit)).join(", ")],
    f.direction != null && ["Direction", f.direction.map((x) => x.toFixed(4)).join(", ")],
    f.u != null && ["Position", `± ${length(2 * f.u, unit, 2)}`],
    f.u_tilt != null && ["Tilt", `± ${(2 * f.u_tilt).toFixed(3)}°`],
    "agree" in f &&
      f.agree != null && [
        "Scan that agrees",
        `${(100 * f.agree).toFixed(0)} % closely, ${(100 * (f.near ?? 0)).toFixed(0)} % nearby`,
      ],
    "miss" in f && f.miss != null && f.miss > 0 && ["Miss each other by", length(f.miss, unit, 1)],
  );

const ofSketch = (f: SketchFacts, unit: Unit) =>
  some(
    [
      "Pieces",
      [
        f.lines && `${f.lines} lines`,
        f.arcs && `${f.arcs} arcs`,
        f.ellipses && `${f.ellipses} ${f.ellipses === 1 ? "ellipse" : "ellipses"}`,
        f.free && `${f.free} free`,
      ]
        .filter(Boolean)
        .join(", "),
    ],
    ["Profiles", f.profiles ? String(f.profiles) : "none closed"],
    f.area != null && f.area > 0 && ["Profile area", area(f.area, unit)],
    "rms" in f && ["Largest rms", length(f.rms, unit, 1)],
  );

const KINDS = ["planes", "cylinders", "cones", "spheres", "tori"] as const;

const ofSolidified = (f: FactsOf<"solidify">, unit: Unit) =>
  some(
    ["Closed", f.closed && f.valid ? "yes, a valid solid" : f.gaps ? `no, ${f.gaps} open places` : "no"],
    [
      "Faces by kind",
      KINDS.filter((k) => f[k] > 0)
        .map((k) => `${f[k]} ${f[k] === 1 ? ONE[k] : k}`)
        .join(", "),
    ],
    f.flat_facets > 0 && ["Facets left flat", count(f.flat_facets)],
    ["Vertices within", length(f.tolerance, unit, 3)],
  );
const ONE = { planes: "plane", cylinders: "cylinder", cones: "cone", spheres: "sphere", tori: "torus" };

export function factRows(facts: StepFacts | null, unit: Unit): Row[] {
  const region = factsOf(facts, "region");
  if (region) return ofRegion(region, unit);
  const intent = factsOf(facts, "intent");
  if (intent) return ofIntent(intent, unit);
  const place = placeFacts(facts);
  if (place) return ofPlace(place, unit);
  const sketch = sketchFacts(facts);
  if (sketch) return ofSketch(sketch, unit);
  const body = bodyFacts(facts);
  if (body?.volume == null) return [];
  const solid = factsOf(facts, "solidify");
  return some(
    ...(solid ? ofSolidified(solid, unit) : []),
    ["Body volume", volume(body.volume, unit)],
    ["Faces", String(body.faces)],
    (body.solids ?? 0) > 1 && ["Pieces", String(body.solids)],
  );
}
