import { describe, expect, it } from "vitest";
import { isTyping } from "./typing";

const input = (type: string) => Object.assign(document.createElement("input"), { type });

describe("whether something is being typed", () => {
  it("is so in fields, and not on what a letter means nothing to", () => {
    expect(["text", "search", "number", "password"].map((t) => isTyping(input(t)))).toEqual([true, true, true, true]);
    expect(["radio", "checkbox", "range", "file"].map((t) => isTyping(input(t)))).toEqual([false, false, false, false]);
    expect(isTyping(document.createElement("textarea"))).toBe(true);
    expect(isTyping(document.createElement("button"))).toBe(false);
    expect(isTyping(null)).toBe(false);
  });
});
