import { act, cleanup, screen } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import type { StepState } from "../api/build";
import type { Step } from "../api/client";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { answering, onBench } from "../test/bench";
import { formulaNameOf } from "../values/naming";
import { view as intent } from "./intent";
import { view as thread } from "./thread";

const step = (name: string, params: object): Step => ({ id: "t", kind: "any", name, enabled: true, note: "", group: "", params }) as unknown as Step; // biome-ignore format: one object
const told = (facts: object, after = {}): StepState => ({ status: "ok", facts, after }) as unknown as StepState;
const press = (name: RegExp) => act(() => screen.getByRole("button", { name }).click());
const draft = () => useTool.getState().draft;

describe("what follows from what the scan has shown", () => {
  beforeEach(() => {
    resetBench();
    answering(() => null);
  });

  it("a measured thread is made on a body: as its standard one, or by what was measured", () => {
    const found = { of: "thread", taken_as: "", hand: "left", starts: 2, major: 8, pitch: 1.25, near: [] };
    const Actions = thread.Actions!;
    onBench(<Actions step={step("Stud thread", {})} state={told(found)} />);
    press(/Make this thread/);
    expect(draft()?.kind).toBe("threaded");
    expect(draft()?.params).toMatchObject({
      size: "typed",
      major: { text: "stud_thread.major", mark: "scan" },
      pitch: { text: "stud_thread.pitch" },
      hand: "left",
      starts: { text: "2" },
    });
    cleanup();
    onBench(<Actions step={step("Stud thread", {})} state={told({ ...found, taken_as: "M8x1.25" })} />);
    press(/Make this thread/);
    expect(draft()?.params).toMatchObject({ size: "standard", thread: "M8x1.25" });
  });

  it("holes are drilled on a circle that was agreed on, with the place of a missing one", () => {
    const params = {
      regions: [{ id: "a" }, { id: "b" }, { id: "c" }, { id: "d" }],
      relations: [
        { kind: "parallel", members: [0, 1], count: 0 },
        { kind: "bolt-circle", members: [1, 2, 3], count: 5 },
      ],
    };
    const Actions = intent.Actions!;
    onBench(<Actions step={step("Agreed", params)} state={told({ of: "intent" }, { x: "k3" })} />);
    press(/Holes on its circle/);
    expect(draft()?.params).toMatchObject({
      by: "circle",
      axes: [{ id: "b" }, { id: "c" }, { id: "d" }],
      count: { text: "5", mark: "scan" },
    });
  });

  it("names are written as formulas write them", () => {
    expect(["Base plate (2nd)", "2nd boss", "Höhe", "  "].map(formulaNameOf)).toEqual(["base_plate_2nd", "_2nd_boss", "höhe", "_"]); // biome-ignore format: one list
  });
});
