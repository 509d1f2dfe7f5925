/** What steps tell, by what the facts call themselves. No React. */
import type { StepFacts, StepState } from "./build";

type Told = StepFacts | null | undefined;
type With<K extends string> = Extract<StepFacts, { [key in K]?: unknown }>;

export type FactsOf<K extends StepFacts["of"]> = Extract<StepFacts, { of: K }>;
export type PlaceFacts = With<"shape">;
export type SketchFacts = With<"lines">;
export type ScanChange = With<"facets_before">;
export type BodyFacts = With<"solids">;

/** The facts if they are of this kind. */
export const factsOf = <K extends StepFacts["of"]>(facts: Told, of: K): FactsOf<K> | null =>
  facts?.of === of ? (facts as FactsOf<K>) : null;

/** Of a plane, an axis or a point. */
export const placeFacts = (facts: Told): PlaceFacts | null => (facts && "shape" in facts ? facts : null);

export const sketchFacts = (facts: Told): SketchFacts | null => (facts && "lines" in facts ? facts : null);

/** Of a step that has changed a scan. */
export const scanFacts = (facts: Told): ScanChange | null => (facts && "facets_before" in facts ? facts : null);

export const bodyFacts = (facts: Told): BodyFacts | null => (facts && "solids" in facts ? facts : null);

const ROUND = ["cylinder", "cone", "torus"];

/** A plane that a section can be cut along, or an axis that a turned profile goes around; none for what is neither. */
export function sectionBase(
  facts: Told,
): { shape: "plane" | "axis"; at: [number, number, number]; along: [number, number, number] } | null {
  const region = factsOf(facts, "region");
  if (region?.kind === "plane") return { shape: "plane", at: region.origin, along: region.axis };
  if (region && ROUND.includes(region.kind)) return { shape: "axis", at: region.origin, along: region.axis };
  const place = placeFacts(facts);
  if (place && place.shape !== "point" && place.direction)
    return { shape: place.shape, at: place.origin, along: place.direction };
  return null;
}

/** The same of a step that came out. */
export const baseOf = (state: StepState | undefined) => (state?.status === "ok" ? sectionBase(state.facts) : null);
