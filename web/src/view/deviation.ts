/** Colour of a deviation: neutral inside the acceptance, then teal below and amber above, in steps like a legend's. */
import type { Palette } from "../theme";

export interface Band {
  from: number;
  to: number;
  colour: string;
}

function mix(a: string, b: string, t: number): string {
  const part = (at: number) => {
    const x = Number.parseInt(a.slice(at, at + 2), 16);
    const y = Number.parseInt(b.slice(at, at + 2), 16);
    return Math.round(x + (y - x) * t)
      .toString(16)
      .padStart(2, "0");
  };
  return `#${part(1)}${part(3)}${part(5)}`;
}

/** Bands in units of the acceptance: ±1 is neutral, beyond ±4 the colour is full. */
export function bands(p: Palette): Band[] {
  const edges = [1, 1.5, 2, 3, 4, Number.POSITIVE_INFINITY];
  const side = (colour: string, sign: 1 | -1): Band[] =>
    edges.slice(0, -1).map((e, i) => {
      const far = edges[i + 1]!;
      const shade = mix(p.inside, colour, 0.35 + (0.65 * i) / (edges.length - 2));
      return sign > 0 ? { from: e, to: far, colour: shade } : { from: -far, to: -e, colour: shade };
    });
  return [...side(p.below, -1).reverse(), { from: -1, to: 1, colour: p.inside }, ...side(p.above, 1)];
}

export function bandOf(all: Band[], deviation: number, acceptance: number): Band {
  const x = deviation / acceptance;
  return all.find((b) => x >= b.from && x < b.to) ?? (x < 0 ? all[0]! : all[all.length - 1]!);
}

/** Vertex colours are multiplied with light, so they have to be linear; the table is in sRGB. */
function linear(colour: string): [number, number, number] {
  return [1, 3, 5].map((at) => {
    const c = Number.parseInt(colour.slice(at, at + 2), 16) / 255;
    return Math.round(255 * (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
  }) as [number, number, number];
}

/** Linear RGB bytes for every value. */
export function colourise(values: Float32Array, acceptance: number, p: Palette): Uint8Array<ArrayBuffer> {
  const all = bands(p).map((b) => ({
    to: b.to,
    rgb: linear(b.colour),
  }));
  const out = new Uint8Array(values.length * 3);
  for (let i = 0; i < values.length; i++) {
    const x = values[i]! / acceptance;
    let k = 0;
    while (k < all.length - 1 && x >= all[k]!.to) k++;
    out.set(all[k]!.rgb, i * 3);
  }
  return out;
}
