/** Steps as the list gathers them: those of one group, and kept regions that follow each other. No React. */
import type { StepState } from "../api/build";
import type { Step } from "../api/client";
import { factsOf } from "../api/facts";
import type { Kind } from "../api/kinds";
import { plural, surfaceName } from "../ui/surfaces";

export interface Gathered {
  /** What the fold remembers it by; "" for a step that stands alone. */
  key: string;
  title: string;
  /** Folded until somebody opens it: nobody asked for this group. */
  own: boolean;
  steps: { step: Step; index: number }[];
}

/** From so many on, regions in a row are one line until somebody wants to see them. */
const MANY = 3;

/** What there is of each kind, the most first: "4 planes, 2 holes". */
export function counted(names: string[]): string {
  const count = new Map<string, number>();
  for (const n of names) count.set(n, (count.get(n) ?? 0) + 1);
  return [...count]
    .sort((a, b) => b[1] - a[1])
    .map(([name, n]) => `${n} ${n === 1 ? name.replace(/^./, (c) => c.toLowerCase()) : plural(name)}`)
    .join(", ");
}

export function gathered(
  steps: Step[],
  states: Map<string, StepState>,
  kinds: Record<string, Pick<Kind, "makes">>,
): Gathered[] {
  const out: Gathered[] = [];
  const isRegion = (s: Step) => kinds[s.kind]?.makes === "region" && !s.group;
  steps.forEach((step, index) => {
    const group = step.group ?? "";
    const last = out.at(-1);
    const before = last?.steps.at(-1)?.step;
    const joins = before && (group !== "" ? before.group === group : isRegion(step) && isRegion(before));
    if (last && joins) last.steps.push({ step, index });
    else out.push({ key: group, title: group, own: false, steps: [{ step, index }] });
  });
  for (const g of out) {
    if (g.title || g.steps.length < MANY) continue;
    const names = g.steps.flatMap(({ step }) => {
      const facts = factsOf(states.get(step.id)?.facts, "region");
      return facts ? [surfaceName(facts.kind, facts.inside === true)] : [];
    });
    g.key = `regions ${g.steps[0]!.step.id}`;
    g.title = `${g.steps.length} regions${names.length ? `: ${counted(names)}` : ""}`;
    g.own = true;
  }
  return out;
}
