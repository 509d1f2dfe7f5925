import { act, renderHook, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { useHideActions } from "../actions/useHideActions";
import { resetBench } from "../shell/reset";
import { onBench, sampleJob } from "../test/bench";
import { useAppearance } from "./appearance";
import { secondBox } from "./secondBox";
import { Things } from "./Things";
import { isOut, type Thing, useThings } from "./useThings";

let things: Thing[] = [];
let titles: string[] = [];
function Listed() {
  things = useThings();
  titles = useHideActions().map((a) => a.title);
  return null;
}

describe("what is in the view", () => {
  beforeEach(resetBench);

  it("is drawn, hidden and shown; what is quiet only when it is asked for", () => {
    const { result } = renderHook(() => useAppearance());
    const quiet = { id: "sketch", quiet: true };
    const loud = { id: "body", quiet: false };
    expect([isOut(quiet, result.current), isOut(loud, result.current)]).toEqual([true, false]);
    act(() => result.current.show(["sketch"]));
    act(() => result.current.hide(["body"]));
    expect([isOut(quiet, result.current), isOut(loud, result.current)]).toEqual([false, true]);
    act(() => result.current.hide(["sketch", "body"]));
    act(() => result.current.show(["body"]));
    expect([isOut(quiet, result.current), isOut(loud, result.current)]).toEqual([true, false]);
    expect(result.current.hidden).toEqual(["sketch"]);
  });

  it("holds scans and bodies, sketches, kept regions, and what is pinned", () => {
    const job = sampleJob();
    const steps = [
      { id: "r", kind: "region", name: "Top", enabled: true, params: {}, note: "", group: "" },
      { id: "o", kind: "sketch", name: "Rim", enabled: true, params: {}, note: "", group: "" },
      { id: "e", kind: "extrude", name: "Plate", enabled: true, params: { sketch: { id: "o" } }, note: "", group: "" },
      { id: "p", kind: "sketch", name: "Loose", enabled: true, params: {}, note: "", group: "" },
    ];
    const states = steps.map((s) => ({ ...job.build.result!.steps[0]!, id: s.id, name: s.name, kind: s.kind, status: "ok" as const, facts: null })); // biome-ignore format: one object
    const probes = [
      { id: "probe", name: "Rim", scan: "scan-1", facet: 1, point: [0, 0, 0] as [number, number, number] },
    ];
    onBench(<Listed />, {
      ...job,
      recipe: { ...job.recipe, steps, probes },
      build: { ...job.build, result: { ...job.build.result!, steps: states } },
    });
    const of = (kind: Thing["kind"]) => things.filter((t) => t.kind === kind).map((t) => [t.name, t.quiet]);
    // What something was made of has done its work; a sketch that waits is seen.
    expect(of("sketch")).toEqual([
      ["Rim", true],
      ["Loose", false],
    ]);
    expect(of("region")).toEqual([["Top", true]]);
    expect(of("pin")).toEqual([["Rim", false]]);
    expect(of("body")).toEqual([["Block", false]]);
    expect(titles).toContain("Show all kept regions");
    expect(titles).toContain("Hide all sketches");
    expect(titles).toContain("Hide all readings and probes");
  });

  it("is switched off in its list, and several things are taken together under a name", async () => {
    const edit = onBench(<Things />);
    const shown = screen.getAllByRole("switch", { name: /is shown/ });
    await userEvent.click(shown[0]!);
    expect(useAppearance.getState().hidden).toHaveLength(1);
    await userEvent.click(screen.getAllByRole("checkbox", { name: /into a group/ })[0]!);
    await userEvent.click(screen.getByRole("button", { name: "Group 1 under a name" }));
    await userEvent.type(screen.getByLabelText("Name of the choice"), "Blocks{Enter}");
    expect(edit).toHaveBeenCalledWith({
      op: "put-set",
      set: { id: expect.any(String), name: "Blocks", parts: [{ part: "body", id: "x" }] },
    });
  });
});

describe("two views side by side", () => {
  it("share the room evenly", () => {
    expect(secondBox({ width: 901, height: 700 }, true)).toEqual({ x: 450, y: 0, width: 451, height: 700 });
  });
});
