/** How the front end is built: what a reviewer would otherwise have to count. */
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";

const SRC = join(__dirname, "..");
const sources = (readdirSync(SRC, { recursive: true }) as string[])
  .filter((f) => /\.tsx?$/.test(f) && !/\.test\.|^test\/|schema\.d\.ts$/.test(f))
  .map((file) => ({ file, text: readFileSync(join(SRC, file), "utf8") }));

/** Kinds of steps may be named where a step of that kind is made, and in the file of that kind. */
const NAMES_A_KIND = /\b(?:step|draft|state|s|t)\.kind\s*[!=]==\s*"(\w[\w-]*)"/g;
const MAY_NAME: Record<string, string[]> = {
  region: ["regions", "desk", "photo", "pick"],
  intent: ["regions"],
  measurement: ["construct"],
  rescale: ["desk"],
  sketch: ["sketch"],
  // A kind of size, not of steps.
  angle: ["sketch"],
  // Kinds of evidence, not of steps.
  scan: ["job", "scan", "shell", "steps", "view"],
  reading: ["job"],
};

describe("the front end", () => {
  it("was found", () => {
    expect(sources.length).toBeGreaterThan(150);
  });

  it("has no component of more than 150 lines, and no other file of more than 400", () => {
    const long = sources
      .map(({ file, text }) => ({ file, lines: text.split("\n").length - 1 }))
      .filter(({ file, lines }) => lines > (file.endsWith(".tsx") ? 150 : 400));
    expect(long).toEqual([]);
  });

  it("casts nothing past its type", () => {
    expect(sources.filter(({ text }) => /\bas (?:never|unknown as)\b/.test(text)).map(({ file }) => file)).toEqual([]);
  });

  it("compares kinds of steps only in the houses that are about them", () => {
    const named = sources.flatMap(({ file, text }) =>
      [...text.matchAll(NAMES_A_KIND)]
        .filter(([, kind]) => !MAY_NAME[kind!]?.includes(file.split("/")[0]!))
        .map(([what]) => `${file}: ${what}`),
    );
    expect(named).toEqual([]);
  });

  it("ships no tests: what is gathered by name leaves them out", () => {
    const asPattern = (glob: string) => new RegExp(`^${glob.replace(/[.]/g, "\\.").replace(/\*/g, "[^/]*")}$`);
    const gathered = sources.flatMap(({ file, text }) =>
      [...text.matchAll(/import\.meta\.glob[^(]*\(\s*(\[(?:\s*"[^"]*",?)+\s*\]|"[^"]*")/g)].map(([, list]) => {
        const globs = [...list!.matchAll(/"(!?)\.\/([^"]*)"/g)].map(([, not, glob]) => ({ not, of: asPattern(glob!) }));
        const beside = readdirSync(join(SRC, file, ".."));
        const taken = beside.filter(
          (f) => globs.some((g) => !g.not && g.of.test(f)) && !globs.some((g) => g.not && g.of.test(f)),
        );
        return { file, taken };
      }),
    );
    expect(gathered.length).toBeGreaterThan(1);
    for (const { file, taken } of gathered) {
      expect(taken.length, file).toBeGreaterThan(0);
      expect(
        taken.filter((f) => f.includes(".test.")),
        file,
      ).toEqual([]);
    }
  });
});
