/** The words of the interface: one list that can be read from top to bottom, and none of those that nobody in a workshop would use. */
import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { asPage, labels } from "./labels";

const PAGE = join(__dirname, "../../../docs/labels.md");
const all = labels();
const texts = [...all].flatMap(([house, rows]) => rows.map((text) => ({ house, text })));

/** Words that were riddles, and what is said in their place. */
const RIDDLES: [RegExp, string][] = [
  [/\bballs?\b(?! (bearing|end))/i, "sphere"],
  [/\bbeads?\b/i, "torus"],
  [/\btapers?\b/i, "cone, or draft"],
  [/\bball seat\b/i, "inside sphere"],
  [/\bgrooves?\b/i, "inside torus"],
  [/\buntil (?!then|nobody|somebody|it|the|a )/i, "ends at"],
  [/\bput away\b/i, "Cancel"],
  [/\blet go\b/i, "Clear selection"],
  [/\bnever mind\b/i, "Cancel"],
  [/^Whole$/, "Fit view"],
  [/^shown …$/i, "Show / hide"],
  [/^construct\b/i, "Planes, axes, points"],
  [/^part( it)?( by .*)?$/i, "Split"],
  [/\brounds\b(?! per)/i, "fillets, or passes"],
  [/\bdearest\b/i, "Costliest"],
  [/^largest$/i, "Largest deviation"],
  [/\bless the scan\b/i, "Minus scan"],
  [/does not give a closed, valid solid/i, "leaves the solid open or invalid"],
  [/^(By|To|At|Of|Also|Most|Back)$/, "a written-out label"],
];

describe("the words of the interface", () => {
  it("were found, wherever they stand", () => {
    expect(texts.length).toBeGreaterThan(500);
    const said = texts.map((t) => t.text);
    for (const known of ["Fit view", "Show / hide", "Keep a copy", "Take as a sketch", "Bring in", "Choose a scan"])
      expect(said).toContain(known);
  });

  it("are none of those that were riddles", () => {
    const found = texts.flatMap(({ house, text }) =>
      RIDDLES.filter(([word]) => word.test(text)).map(([, better]) => `${house}: '${text}' should say ${better}`),
    );
    expect(found).toEqual([]);
  });

  it("neither shout nor plead", () => {
    expect(texts.filter(({ text }) => /!$|\bplease\b|\boops\b/i.test(text))).toEqual([]);
  });

  it("stand in docs/labels.md as they are now", () => {
    const page = asPage(all);
    if (process.env.LABELS === "write") writeFileSync(PAGE, page);
    expect(readFileSync(PAGE, "utf8")).toBe(page);
  });
});
