import { describe, expect, it } from "vitest";
import { contrast, dark, light } from "./theme";

describe("text contrast", () => {
  for (const [name, p] of Object.entries({ light, dark })) {
    for (const text of ["ink", "quiet", "active", "below", "above", "plum"] as const) {
      for (const ground of ["paper", "sheet"] as const) {
        it(`${name}: ${text} on ${ground} is readable`, () => {
          expect(contrast(p[text], p[ground])).toBeGreaterThanOrEqual(4.5);
        });
      }
    }
  }
});
