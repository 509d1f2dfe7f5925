/** What a file is, by its name: which door it goes through. No React. */

export type Sort = "mesh" | "solid" | "picture" | "table" | "flat";

const ENDINGS: Record<Sort, string[]> = {
  mesh: [".stl", ".obj", ".ply", ".3mf", ".wrl", ".wrz", ".gz", ".zip"],
  solid: [".step", ".stp", ".iges", ".igs"],
  picture: [".png", ".jpg", ".jpeg", ".pdf"],
  table: [".csv"],
  flat: [".dxf", ".svg"],
};

/** For a file input: the endings that these sorts have. */
export const accept = (...sorts: Sort[]): string => sorts.flatMap((s) => ENDINGS[s]).join(",");

export const ANY_FILE = accept("mesh", "solid", "picture", "table", "flat");

/** None for what no door takes. */
export function sortOf(name: string): Sort | null {
  const low = name.toLowerCase();
  const found = Object.entries(ENDINGS).find(([, endings]) => endings.some((e) => low.endsWith(e)));
  return (found?.[0] as Sort | undefined) ?? null;
}

/** The file that a new job begins with, and those that follow it onto the bench; none where no scan or solid is among them. */
export function firstOf(files: File[]): { first: File | null; rest: File[] } {
  const first = files.find((f) => ["mesh", "solid"].includes(sortOf(f.name) ?? "")) ?? null;
  return { first, rest: files.filter((f) => f !== first) };
}
