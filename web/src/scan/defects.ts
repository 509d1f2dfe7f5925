/** Defects of a scan in plain words, and the step that mends each. */
import type { DefectPlace } from "../api/client";

interface Words {
  one: string;
  many: string;
  /** What it keeps from working, or what it is, in half a sentence. */
  means: string;
}

const WORDS: Record<string, Words> = {
  hole: { one: "hole", many: "holes", means: "keeps the mesh from being closed; regions and sections work without" },
  "non-manifold-edge": {
    one: "junction edge",
    many: "junction edges",
    means: "more than two facets meet: no inside there",
  },
  "non-manifold-vertex": {
    one: "pinched point",
    many: "pinched points",
    means: "facets hang together by one point only",
  },
  duplicate: { one: "repeated facet", many: "repeated facets", means: "stand in the file twice; left out on reading" },
  degenerate: { one: "flat facet", many: "flat facets", means: "have no area, so that they face nowhere" },
  flipped: { one: "flipped facet", many: "flipped facets", means: "face inwards: volume and offsets go wrong" },
  island: { one: "island", many: "islands", means: "small pieces by themselves, often dust" },
  spike: { one: "spike", many: "spikes", means: "a vertex that sticks out like a needle" },
  fold: { one: "fold", many: "folds", means: "the surface turns back on itself" },
  piercing: { one: "piercing", many: "piercings", means: "facets pass through each other" },
  sliver: { one: "sliver", many: "slivers", means: "long thin facets; harmless" },
};

export function defectTitle(kind: string, count: number): string {
  const words = WORDS[kind];
  const name = words ? (count === 1 ? words.one : words.many) : kind;
  return `${count.toLocaleString("en")} ${name}`;
}

export const defectMeans = (kind: string): string => WORDS[kind]?.means ?? "";

/** The kind of step that mends a kind of defect, with its parameters; none where nothing needs to be done. */
export function mendOf(
  kind: string,
  scan: string,
  place?: DefectPlace,
): { kind: string; params: Record<string, unknown> } | null {
  const params: Record<string, unknown> = { scan: { id: scan } };
  if (kind === "hole")
    return {
      kind: "fill",
      params: place ? { ...params, which: "picked", rims: place.source } : { ...params, which: "all" },
    };
  if (kind.startsWith("non-manifold")) return { kind: "split", params };
  if (kind === "flipped") return { kind: "orient", params };
  if (kind === "island") return { kind: "drop", params: { ...params, repeated: false, flat: false } };
  if (kind === "degenerate") return { kind: "drop", params: { ...params, islands: false } };
  if (kind === "spike" || kind === "fold" || kind === "piercing")
    return {
      kind: "patch",
      params: { ...params, spikes: kind === "spike", folds: kind === "fold", piercings: kind === "piercing" },
    };
  return null;
}
