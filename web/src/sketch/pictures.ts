/** Pictures under a drawing: how they lie on the screen, and what is said of how they were laid. No React. */
import type { components } from "../api/schema";
import type { Kept, Sheet, XY } from "./drawing";

export type UnderPicture = NonNullable<Kept["pictures"]>[number];
export type LaidPicture = components["schemas"]["LaidOut"];
export type Beside = components["schemas"]["SizeFigure"];
export type Laying = components["schemas"]["LayOut"];
export type Figure = LaidPicture["figures"][number];

/** The tool that two places of a picture are pointed at with: where something is seen, and where it belongs. */
export const LAY = "lay";
export const LAY_WORDS = [
  "Click something in the picture that you know the place of",
  "Click where that belongs in the sketch",
  "Click a second thing in the picture, far from the first",
  "Click where that belongs: the picture is moved and turned",
] as const;

type Six = readonly [number, number, number, number, number, number];

/** From a flat picture's pixels over the plane to the screen, as SVG says it. */
export function pictureTransform(sheet: Sheet, [a, b, c, d, e, f]: Six): string {
  const way = (x: number, y: number) => [sheet.a * x + sheet.c * y, sheet.b * x + sheet.d * y];
  const end = [sheet.a * e + sheet.c * f + sheet.e, sheet.b * e + sheet.d * f + sheet.f];
  return `matrix(${[...way(a, b), ...way(c, d), ...end].map((n) => n.toFixed(5)).join(" ")})`;
}

/** A picture that has just been chosen: its middle in the middle of what is drawn, or where one looks while nothing is. */
export function laidFirst(
  picture: { id: string; width: number; height: number },
  paths: readonly XY[][],
  looked: XY,
): UnderPicture {
  const all = paths.flat();
  const middle = (k: 0 | 1) => {
    const along = all.map((p) => p[k]);
    return along.length ? (Math.min(...along) + Math.max(...along)) / 2 : looked[k];
  };
  return {
    picture: picture.id,
    px: [(picture.width - 1) / 2, (picture.height - 1) / 2],
    at: [middle(0), middle(1)],
    turn: 0,
    mirrored: false,
  };
}

/** A figure as it is written under the drawing and beside its size. */
export function figureText(
  of: { value: number; angle?: boolean; tolerance: number | null },
  mm: (n: number) => string,
): string {
  if (of.angle) return `${of.value.toFixed(2)}°`;
  const [bare] = of.tolerance === null ? [] : mm(of.tolerance).split(" ");
  return bare ? `${mm(of.value)} ±${bare}` : mm(of.value);
}

/** What was found when a picture was laid. */
export function laidSaid(of: Laying, mm: (n: number, digits?: number) => string): string {
  const by =
    of.edges === null
      ? "Laid by two places."
      : `Laid by ${of.edges.toLocaleString("en")} places of its edges, rms ${mm(of.rms ?? 0, 1)}.`;
  const share = Math.abs(of.larger - 1) * 100;
  if (!of.doubted) return `${by} Its scale agrees with the sketch (${share.toFixed(2)} % apart).`;
  const way = of.larger > 1 ? "larger" : "smaller";
  return `${by} The sketch is ${share.toFixed(2)} % ${way} than the picture says: more than its scale allows for. Either the sketch or the picture's known length is off.`;
}
