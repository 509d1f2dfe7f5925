/** What is chosen as text that another drawing, of this job or another, can take in. No React. */
import { type Act, type Kept, pointsOf } from "./drawing";

const MARK = "contour-drawing";

type Paste = Extract<Act, { act: "paste" }>;

/** The chosen entities with their points, and what is asked within them; none where nothing is chosen. */
export function copied(kept: Kept, chosen: readonly string[]): string | null {
  const ids = new Set(chosen.filter((id) => kept.entities?.[id]).flatMap((id) => [id, ...pointsOf(kept, id)]));
  if (!ids.size) return null;
  const within = (of: readonly string[]) => of.every((id) => ids.has(id));
  const entities = Object.fromEntries(Object.entries(kept.entities ?? {}).filter(([id]) => ids.has(id)));
  const sizes = (kept.sizes ?? [])
    .filter((s) => within(s.of))
    .map((s) => ({
      ...s,
      value: (s.kind === "angle" ? kept.angles : kept.lengths)?.[s.name]?.text ?? null,
    }));
  const constraints = (kept.constraints ?? []).filter((c) => within(c.of));
  return JSON.stringify({ [MARK]: 1, entities, constraints, sizes });
}

/** The act that takes such a text in, a little beside where it was; none for any other text. */
export function pasted(text: string, by: [number, number]): Paste | null {
  try {
    const found = JSON.parse(text);
    if (found?.[MARK] !== 1 || typeof found.entities !== "object") return null;
    return { act: "paste", entities: found.entities, constraints: found.constraints, sizes: found.sizes, by };
  } catch {
    return null;
  }
}
