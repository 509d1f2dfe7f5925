import { describe, expect, it } from "vitest";
import type { StepState } from "../api/build";
import type { Step } from "../api/client";
import { dependents, factRows, keyField } from "./stepValues";

const step = (id: string, kind: string, params: Record<string, unknown>): Step => ({
  id,
  kind,
  name: id,
  enabled: true,
  params,
});
const steps = [
  step("r", "region", { scan: { id: "s" } }),
  step("o", "outline", { plane: { id: "r" }, offset: { text: "-6 mm", mark: "intent" } }),
  step("x", "extrude", { sketch: { id: "o" }, distance: { text: "12 mm" } }),
  step("q", "region", { scan: { id: "s" } }),
];

describe("steps", () => {
  it("knows what hangs on a step", () => {
    expect(dependents(steps, "r").map((s) => s.id)).toEqual(["o", "x"]);
    expect(dependents(steps, "q")).toEqual([]);
  });
  it("shows the key value as typed, with its mark", () => {
    expect(keyField(steps[1]!, undefined, "mm")).toMatchObject({ text: "-6 mm", mark: "intent" });
    const state = { facts: { tolerance: 0.08 } } as unknown as StepState;
    expect(keyField(steps[0]!, state, "mm")).toMatchObject({ text: "", mark: "scan", placeholder: "0.080 mm" });
  });
  it("puts facts in words", () => {
    const state = {
      kind: "region",
      status: "ok",
      facts: { kind: "cylinder", inside: true, diameter: 18, facets: 1200, area: 10, rms: 0.03, largest: -0.1 },
    };
    expect(factRows(state as unknown as StepState, "mm")[0]).toEqual(["Surface", "bore Ø 18.00 mm"]);
    expect(factRows(undefined, "mm")).toEqual([]);
  });
});
