/** What a field for a plane, axis, point or place takes from the view, by its kind of reference. No React. */
import type { Field, ReferenceKind } from "../api/kinds";
import type { SpotMark } from "../pick/spots";

export interface Takes {
  /** A surface of the scan, kept as a region. */
  region: boolean;
  face: boolean;
  edge: boolean;
  spots: readonly SpotMark[];
  pieces: boolean;
  /** As it is asked for, after "click". */
  said: string;
}

const POINTS: readonly SpotMark[] = ["corner", "centre", "middle"];
const CORNERS: readonly SpotMark[] = ["corner"];
const NONE: readonly SpotMark[] = [];

/** "a, b or c" */
const anyOf = (words: string[]) =>
  words.length > 1 ? `${words.slice(0, -1).join(", ")} or ${words.at(-1)}` : (words[0] ?? "");

export function takesOf(field: Field, reference: ReferenceKind | undefined): Takes {
  const has = (part: string) => field.parts?.includes(part) ?? false;
  const surfaces = reference?.layer === "surfaces";
  // Where a point is wanted, an edge stands for its centre or middle, which then has a mark of its own.
  const spots = reference?.layer === "spots" ? POINTS : has("vertex") ? CORNERS : NONE;
  const spotSaid = spots === POINTS ? ["a corner", "a centre", "a middle"] : spots === CORNERS ? ["a corner"] : [];
  const words = [
    ...(surfaces ? ["a surface"] : []),
    ...(has("edge") && spots !== POINTS ? ["an edge"] : []),
    ...spotSaid,
    ...(has("entity") ? ["a line of a sketch"] : []),
  ];
  return {
    region: surfaces,
    face: has("face"),
    edge: has("edge"),
    spots,
    pieces: has("entity"),
    said: anyOf(words),
  };
}

/** What the value of such a field is, in words; `whole` names what it is part of. */
export function placeSaid(
  value: Record<string, unknown> | null | undefined,
  whole: (id: string) => string | undefined,
): string {
  if (!value) return "";
  const { body, sketch, kind } = value as { body?: string; sketch?: string; kind?: string };
  if (sketch) return `piece of ${whole(sketch) ?? "a sketch"}`;
  if (!body) return "";
  const edge = kind === "circle" ? "round edge" : kind === "line" ? "straight edge" : "edge";
  const what = value.vertex ? "corner" : value.edge ? edge : kind || "face";
  return `${what} of ${whole(body) ?? "a body"}`;
}
