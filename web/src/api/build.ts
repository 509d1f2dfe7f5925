/** A build's result as the API declares it: what has a default is always there. */
import type { components } from "./schema";

type Schemas = components["schemas"];

export type Vec3 = [number, number, number];
export type ValueState = Required<Schemas["ValueState"]>;
export type StepFacts = NonNullable<Schemas["StepState"]["facts"]>;
export type StepState = Required<Omit<Schemas["StepState"], "facts" | "values">> & {
  /** None of a step that did not come out. */
  facts: StepFacts | null;
  values: Record<string, ValueState>;
};
export type BodyState = Required<Schemas["BodyState"]>;
export type Figures = Schemas["Figures"];
export type FitState = Schemas["FitState"];
export type BuildResult = Required<Omit<Schemas["BuildResult"], "steps" | "bodies" | "values">> & {
  steps: StepState[];
  bodies: BodyState[];
  values: Record<string, ValueState>;
};
export type Build = Omit<Schemas["BuildOut"], "result" | "progress"> & {
  progress: { event: string; name?: string; index?: number; count?: number } | null;
  result: BuildResult | null;
};
