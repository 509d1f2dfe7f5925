import type { ReactNode } from "react";
import type { KindView, PartProps } from "./kindView";
import { OperationWord } from "./OperationWord";

/** After fields of any kind of step that has them. */
const EVERYWHERE: KindView["slots"] = { operation: OperationWord };

/** The parts that a kind puts after single fields, and those that every kind has, for this step. */
export const slotsOf = (slots: KindView["slots"], props: PartProps): Record<string, ReactNode> =>
  Object.fromEntries(
    Object.entries({ ...EVERYWHERE, ...slots }).map(([name, Part]) => [name, <Part key={name} {...props} />]),
  );
