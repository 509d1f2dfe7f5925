/** Colours of a whole scan's regions: a hue per kind, a shade per region, ink where two regions meet. No React, no requests. */
import type { Palette } from "../theme";
import type { Reduced } from "./reduced";

type Rgb = [number, number, number];

const rgb = (hex: string): Rgb => [1, 3, 5].map((k) => Number.parseInt(hex.slice(k, k + 2), 16)) as Rgb;
const mix = (a: Rgb, b: Rgb, t: number): Rgb => a.map((x, k) => Math.round(x + (b[k]! - x) * t)) as Rgb;
/** Vertex colours are linear light; the palette is what a screen shows. */
const linear = (c: Rgb): Rgb =>
  c.map((x) => {
    const s = x / 255;
    return Math.round(255 * (s <= 0.04045 ? s / 12.92 : ((s + 0.055) / 1.055) ** 2.4));
  }) as Rgb;

/** The hue of a kind; the glyph in the table says the same without colour. */
export function kindHue(kind: string, p: Palette): string {
  const hues: Record<string, string> = {
    plane: p.below,
    cylinder: p.plum,
    cone: p.above,
    sphere: "#5d7f3a",
    torus: "#b3587a",
    thread: "#a0852a",
    freeform: p.quiet,
  };
  return hues[kind] ?? p.quiet;
}

/** Shades repeat every five regions, so that neighbours hardly ever share one. */
export function regionShade(kind: string, id: number, p: Palette): Rgb {
  return mix(rgb(kindHue(kind, p)), [255, 255, 255], 0.28 + 0.1 * (id % 5));
}

export interface Shown {
  kind: string;
  hidden: boolean;
}

/** Three bytes per shown vertex. index: of the shown surface; labels: per facet of the whole scan. */
export function regionColours(
  index: ArrayLike<number>,
  vertices: number,
  labels: Int32Array,
  regions: readonly Shown[],
  reduced: Reduced | null,
  p: Palette,
): Uint8Array<ArrayBuffer> {
  const of = new Int32Array(vertices).fill(-2);
  for (let f = 0; f < index.length / 3; f++) {
    const label = labels[reduced ? reduced.facetOf[f]! : f] ?? -1;
    for (let k = 0; k < 3; k++) {
      const v = index[3 * f + k]!;
      of[v] = of[v] === -2 || of[v] === label ? label : -3;
    }
  }
  const bare = linear(rgb(p.scan));
  const edge = linear(mix(rgb(p.ink), rgb(p.scan), 0.25));
  const shades = regions.map((r, k) => (r.hidden ? bare : linear(regionShade(r.kind, k, p))));
  const out = new Uint8Array(vertices * 3);
  for (let v = 0; v < vertices; v++) {
    const at = of[v]!;
    out.set(at === -3 ? edge : at >= 0 ? (shades[at] ?? bare) : bare, 3 * v);
  }
  return out;
}
