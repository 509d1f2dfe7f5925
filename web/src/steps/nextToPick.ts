/** What a step that is being prepared still needs before it can be tried. No React. */
import type { Kind } from "../api/kinds";

type Params = Record<string, unknown>;

const needed = (kind: Kind | undefined) => (kind?.fields ?? []).filter((f) => f.needed);

/** The first part of a body that has to be picked, as a person is told to; none where all are there. */
export function nextToPick(kind: Kind | undefined, params: Params): string | null {
  const empty = needed(kind).find((f) =>
    f.type === "face"
      ? !params[f.name]
      : f.type === "refs" && !f.ids && !(params[f.name] as unknown[] | undefined)?.length,
  );
  return empty ? `pick '${empty.label.toLowerCase()}' in the view` : null;
}

/** The same of what is chosen from what stands above. */
export function nextToChoose(kind: Kind | undefined, params: Params): string | null {
  const empty = needed(kind).find((f) => f.type === "ref" && !params[f.name]);
  return empty ? `choose '${empty.label.toLowerCase()}'` : null;
}
