/** What a kind of step adds to its schema in the browser: a file `steps/<kind>.tsx` that exports `view`, and nothing else. */
import type { ComponentType } from "react";
import type { StepFacts, StepState } from "../api/build";
import type { Problem, Step } from "../api/client";
import type { Unit } from "../units";
import type { FactRow } from "./rows";

export interface PartProps {
  params: Record<string, unknown>;
  /** The step; none while it is being prepared. */
  step: Step | null;
  state: StepState | undefined;
  onChange: (part: Record<string, unknown>) => void;
}

export interface KindView {
  /** In the place of the form that the schema gives. */
  Form?: ComponentType<PartProps>;
  /** Right after a field of the form. */
  slots?: Record<string, ComponentType<PartProps>>;
  /** Under the form: what no form can hold. */
  Below?: ComponentType<PartProps>;
  /** What usually comes next, once the step is there. */
  Actions?: ComponentType<{ step: Step; state: StepState }>;
  /** What it tells in its sheet, before what is told of everything that makes such a product. */
  rows?: (facts: StepFacts, unit: Unit) => FactRow[];
  /** A few words in the step's row. */
  Word?: ComponentType<{ state: StepState }>;
  /** Its row says these words in the place of its main value. */
  wordAlone?: boolean;
  /** What its row says in the place of its main value, where that plays no part. */
  instead?: (params: Record<string, unknown>, nameOf: (id: string) => string) => string | null;
  /** A draft that waits for a pick cannot be tried yet: true, or what to do about it, as it goes on after "To go on,". */
  waits?: (params: Record<string, unknown>) => boolean | string;
  /** A problem that the view's own part shows: it is not said twice while the step works. */
  shows?: (problem: Problem) => boolean;
  /** Its sheet needs more room. */
  wide?: boolean;
  /** Its draft is looked at before it is kept, though it makes a scan. */
  looks?: boolean;
  /** Why a draft is refused is told by a part of its own. */
  tells?: boolean;
  /** What a draft has found is listed in its sheet. */
  lists?: boolean;
  /** What it makes lies just where another thing does: it is hidden until somebody wants to see it. */
  hidden?: boolean;
  /** It is drawn on its own plane while it is open: nothing is drawn on it. */
  draws?: boolean;
  /** Where keeping it leads, in the place of its own sheet. */
  kept?: "measure";
}
