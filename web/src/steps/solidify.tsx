import type { StepFacts, StepState } from "../api/build";
import { factsOf } from "../api/facts";
import { count, type Unit, workedOut } from "../units";
import type { KindView } from "./kindView";
import { some } from "./rows";

/** How many faces the solid has, or what keeps it from being one. */
function Word({ state }: { state: StepState }) {
  const facts = factsOf(state.facts, "solidify");
  if (!facts) return null;
  if (facts.gaps) return <>{facts.gaps === 1 ? "open in one place" : `open in ${facts.gaps} places`}</>;
  return <>{facts.faces} faces</>;
}

const ONE = {
  planes: "plane",
  cylinders: "cylinder",
  cones: "cone",
  spheres: "sphere",
  tori: "torus",
  freeform: "freeform",
};
const KINDS = ["planes", "cylinders", "cones", "spheres", "tori", "freeform"] as const;

function rows(facts: StepFacts, unit: Unit) {
  const f = factsOf(facts, "solidify");
  if (!f) return [];
  const places = f.gaps === 1 ? "one open place" : `${f.gaps} open places`;
  return some(
    ["Closed", f.closed && f.valid ? "yes, a valid solid" : f.gaps ? `no, ${places}` : "no"],
    [
      "Faces by kind",
      KINDS.filter((k) => f[k] > 0)
        .map((k) => `${f[k]} ${f[k] === 1 ? ONE[k] : k}`)
        .join(", "),
    ],
    f.flat_facets > 0 && ["Facets left flat", count(f.flat_facets)],
    ["Vertices within", workedOut(f.tolerance, unit)],
  );
}

export const view: KindView = { rows, Word, wordAlone: true };
