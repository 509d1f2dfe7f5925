/** What surfaces are called, everywhere alike. No React. */
import { sized, type Unit } from "../units";

const OUTSIDE: Record<string, string> = {
  plane: "Plane",
  cylinder: "Outside cylinder",
  cone: "Cone",
  sphere: "Sphere",
  torus: "Torus",
  freeform: "Freeform",
  thread: "Threaded stud",
};
const INSIDE: Record<string, string> = {
  cylinder: "Hole",
  cone: "Inside cone",
  sphere: "Inside sphere",
  torus: "Inside torus",
  thread: "Threaded hole",
};

/** inside: the material lies outside of it. */
export function surfaceName(kind: string, inside: boolean): string {
  const name = (inside ? INSIDE[kind] : undefined) ?? OUTSIDE[kind];
  return name ?? kind.replace(/^./, (c) => c.toUpperCase());
}

/** Several of them, as they stand within a sentence. */
export const plural = (name: string): string =>
  `${name.replace(/^./, (c) => c.toLowerCase())}${/s$/.test(name) ? "" : "s"}`
    .replace("torus", "tori")
    .replace("freeforms", "freeform faces");

interface Sized {
  kind: string;
  radius?: number | null;
  /** Of the ring of a torus, mm. */
  minor?: number | null;
  /** Of a cone, degrees. */
  half_angle?: number | null;
}

const SIZES: Record<string, (s: Sized, unit: Unit) => string> = {
  cylinder: (s, unit) => `Ø ${sized(2 * (s.radius ?? 0), unit)}`,
  sphere: (s, unit) => `R ${sized(s.radius ?? 0, unit)}`,
  torus: (s, unit) => `R ${sized(s.minor ?? 0, unit)}`,
  cone: (s) => `${(s.half_angle ?? 0).toFixed(2)}° to axis`,
};

/** The size that tells surfaces of a kind apart; none of a plane or a freeform face. */
export const surfaceSize = (s: Sized, unit: Unit): string => SIZES[s.kind]?.(s, unit) ?? "";
