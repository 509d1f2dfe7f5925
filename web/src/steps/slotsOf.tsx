import type { ReactNode } from "react";
import type { KindView, PartProps } from "./kindView";

/** The parts that a kind puts after single fields, for this step. */
export const slotsOf = (slots: KindView["slots"], props: PartProps): Record<string, ReactNode> =>
  Object.fromEntries(Object.entries(slots ?? {}).map(([name, Part]) => [name, <Part key={name} {...props} />]));
