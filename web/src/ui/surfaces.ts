/** What surfaces are called, everywhere alike. No React. */

const OUTSIDE: Record<string, string> = {
  plane: "Plane",
  cylinder: "Outside cylinder",
  cone: "Cone",
  sphere: "Sphere",
  torus: "Torus",
  freeform: "Freeform",
};
const INSIDE: Record<string, string> = {
  cylinder: "Hole",
  cone: "Inside cone",
  sphere: "Inside sphere",
  torus: "Inside torus",
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
