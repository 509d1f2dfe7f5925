/** What a step tells, as rows of words and figures. No React. */
import type { StepFacts } from "../api/build";
import { bodyFacts, type PlaceFacts, placeFacts, type SketchFacts, sketchFacts } from "../api/facts";
import { area, length, type Unit, volume } from "../units";
import { kindView } from "./kindViews";
import { type FactRow, some } from "./rows";

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
    "rms" in f && f.rms != null && ["Largest rms", length(f.rms, unit, 1)],
    "runout" in f && f.runout != null && ["Runout", length(f.runout, unit, 1)],
    "assumed" in f && f.assumed != null && f.assumed > 0 && ["Assumed over gaps", length(f.assumed, unit)],
  );

/** What a step tells: of its kind where that has words of its own, and of what it makes. */
export function factRows(facts: StepFacts | null, unit: Unit): FactRow[] {
  const own = (facts && kindView(facts.of).rows?.(facts, unit)) ?? [];
  const place = placeFacts(facts);
  if (place) return [...own, ...ofPlace(place, unit)];
  const sketch = sketchFacts(facts);
  if (sketch) return [...own, ...ofSketch(sketch, unit)];
  const body = bodyFacts(facts);
  if (body?.volume == null) return own;
  return some(
    ...own,
    ["Body volume", volume(body.volume, unit)],
    ["Faces", String(body.faces)],
    (body.solids ?? 0) > 1 && ["Pieces", String(body.solids)],
  );
}
