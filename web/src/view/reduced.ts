/** A huge scan is shown with fewer facets than it is computed with; picks and colours pass through this relation. */
import type { BufferGeometry } from "three";
import type { Buffers } from "./buffers";

export interface Reduced {
  /** Vertex of the scan that each shown vertex is. */
  vertexOf: Uint32Array;
  /** A facet of the scan that each shown facet stands for. */
  facetOf: Uint32Array;
  /** The shown facet at each facet of the scan; as many as there are for crumbs that are not shown. */
  shownBy: Uint32Array;
}

export function readReduced(buffers: Buffers): Reduced | null {
  if (!buffers.has("shown_by")) return null;
  return { vertexOf: buffers.u4("vertex_of"), facetOf: buffers.u4("facet_of"), shownBy: buffers.u4("shown_by") };
}

export const reducedOf = (surface: BufferGeometry) => (surface.userData.reduced as Reduced | null | undefined) ?? null;

/** All facets of the scan that the shown ones stand for, ascending. */
export function wholeFacets(reduced: Reduced, shown: Uint32Array): Uint32Array {
  const marked = new Uint8Array(reduced.facetOf.length + 1);
  for (const f of shown) marked[f] = 1;
  const { shownBy } = reduced;
  let n = 0;
  for (let f = 0; f < shownBy.length; f++) n += marked[shownBy[f]!]!;
  const out = new Uint32Array(n);
  n = 0;
  for (let f = 0; f < shownBy.length; f++) if (marked[shownBy[f]!]) out[n++] = f;
  return out;
}

/** The shown facets at facets of the scan, each once. */
export function shownFacets(reduced: Reduced, whole: Uint32Array): Uint32Array {
  const seen = new Uint8Array(reduced.facetOf.length);
  const out = new Uint32Array(Math.min(whole.length, reduced.facetOf.length));
  let n = 0;
  for (const f of whole) {
    const at = reduced.shownBy[f]!;
    if (at === reduced.facetOf.length || seen[at]) continue;
    seen[at] = 1;
    out[n++] = at;
  }
  return out.slice(0, n);
}

/** Colours of the scan's vertices, three bytes each, for those that are shown. */
export function shownColours(reduced: Reduced, colours: Uint8Array<ArrayBuffer>): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(reduced.vertexOf.length * 3);
  for (let v = 0; v < reduced.vertexOf.length; v++)
    for (let k = 0; k < 3; k++) out[3 * v + k] = colours[3 * reduced.vertexOf[v]! + k]!;
  return out;
}
