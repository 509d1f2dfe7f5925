/** Which of the things that can be brought in the pointer means, and what is said of it. No React. */
import { type Frame, footOn, gap, type XY } from "./drawing";
import type { Offer } from "./useLinkable";

export const BRING_IN = "bring-in";
export type BringWay = "edge" | "face" | "cut" | "silhouette" | "sketch";

export const BRING_WAYS: { id: BringWay; title: string; help: string }[] = [
  { id: "edge", title: "edge", help: "Click an edge of a body: it is brought in, and follows its body" },
  { id: "face", title: "face", help: "Click a face of a body: all edges around it are brought in" },
  { id: "cut", title: "cut", help: "Click where the plane cuts a body: the whole cut is brought in" },
  { id: "silhouette", title: "silhouette", help: "Click the border of a body's shadow on the plane" },
  { id: "sketch", title: "sketch", help: "Click another sketch: all of it is brought in" },
];

const WORDS: Record<BringWay, string> = {
  edge: "edge of",
  face: "all edges around a face of",
  cut: "cut through",
  silhouette: "silhouette of",
  sketch: "sketch",
};

export const saidOf = (o: Offer): string => `${WORDS[o.link.way]} ${o.name}`;

/** How far an edge lies off the plane, mm: of several seen in one place the nearest to the plane is meant. */
function depth(o: Offer, frame: Frame): number {
  const place = o.link.part?.place;
  return place ? Math.abs(place.reduce((sum, x, i) => sum + (x - frame.origin[i]!) * frame.normal[i]!, 0)) : 0;
}

const offOf = (path: readonly XY[], p: XY): number =>
  path.length === 1 ? gap(path[0]!, p) : (footOn(path, p)?.off ?? Number.POSITIVE_INFINITY);

/** The offer that is pointed at; none where nothing lies within reach (mm). */
export function offerNear(offers: readonly Offer[], frame: Frame, p: XY, within: number): number | null {
  const near = offers
    .map((o, k) => ({ k, off: Math.min(...o.paths.map((path) => offOf(path as XY[], p))), deep: depth(o, frame) }))
    .filter((r) => r.off <= within);
  const least = Math.min(...near.map((r) => r.off));
  const alike = near.filter((r) => r.off <= least + within / 4).sort((a, b) => a.deep - b.deep || a.off - b.off);
  return alike[0]?.k ?? null;
}

/** The offer for a face that is under the pointer. */
export function offerOfFace(offers: readonly Offer[], body: string, name: string | undefined): number | null {
  const k = offers.findIndex(
    (o) => o.source === body && o.link.part && "name" in o.link.part && o.link.part.name === name,
  );
  return k < 0 ? null : k;
}
