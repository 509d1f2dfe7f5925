import type { StepFacts } from "../api/build";
import { factsOf } from "../api/facts";
import { Figures } from "../construct/Figures";
import { useBench } from "../job/context";
import { FactList } from "../ui/FactList";
import { factRows } from "./factRows";

/** What a step measured, in words and figures. */
export function Facts({ facts }: { facts: StepFacts | null }) {
  const { unit } = useBench();
  const measured = factsOf(facts, "measurement");
  if (measured) return <Figures facts={measured} unit={unit} />;
  const rows = factRows(facts, unit);
  if (rows.length === 0) return null;
  return <FactList name="facts" rows={rows} />;
}
