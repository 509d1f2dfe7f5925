import { factsOf } from "../api/facts";
import type { KindView, PartProps } from "./kindView";
import { MergePairs, type Other } from "./MergePairs";

function Below({ params, step, state, onChange }: PartProps) {
  return (
    <MergePairs
      into={(params.scan as { id: string }).id}
      others={params.others as Other[]}
      rows={factsOf(state?.facts, "merge")?.scans}
      // A merge that is kept needs at least one other scan.
      onChange={(others) => (step === null || others.length > 0) && onChange({ others })}
    />
  );
}

export const view: KindView = { Below, waits: (params) => !(params.others as unknown[] | undefined)?.length };
