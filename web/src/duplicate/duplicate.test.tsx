import { act, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { Step } from "../api/client";
import { takeNow } from "../sheets/taking";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { answering, declared, emptyPreview, onBench, problem, result, sampleJob } from "../test/bench";
import { DuplicateSheet } from "./DuplicateSheet";
import { asked } from "./inputs";

const step = (id: string, kind: string, params: Record<string, unknown>): Step => ({
  id,
  kind,
  name: id,
  enabled: true,
  params,
  note: "",
  group: "",
});
const sketch = step("sketch00-1", "traced", {
  plane: { body: "base0000-1", name: "base0000.end[p1]" },
  points: [[0, 0]],
});
const boss = step("boss0000-1", "extrude", {
  sketch: { id: "sketch00-1" },
  distance: { text: "6 mm" },
  extent: "distance",
  operation: "add",
  bodies: [{ id: "base0000-1" }],
});
const edge = (named: string) => ({ body: "base0000-1", edge: named, kind: "line", ends: [] });
const fillet = (named: string) =>
  step("round000-1", "fillet", { edges: [edge(named)], radius: { text: "1 mm" }, more: [] });
const of = (s: Step, ids: string[]) => asked(s, declared.kinds[s.kind]!, ids);

describe("what a copy takes from other steps", () => {
  it("is what is not copied with it, and its main value", () => {
    expect(of(sketch, [sketch.id, boss.id])).toContain("plane");
    expect(of(boss, [sketch.id, boss.id])).toEqual(["distance", "bodies"]);
    expect(of(boss, [boss.id])).toEqual(["sketch", "distance", "bodies"]);
  });

  it("is not an edge that one of the copied steps has made", () => {
    const ids = [sketch.id, boss.id, "round000-1"];
    expect(of(fillet("boss0000.end[p1]|boss0000.side[e1]"), ids)).toEqual(["radius"]);
    expect(of(fillet("base0000.end[p1]|base0000.side[e1]"), ids)).toEqual(["edges", "radius"]);
  });
});

describe("the sheet for duplicating", () => {
  beforeEach(resetBench);
  const job = () => {
    const plain = sampleJob();
    const other = { ...plain.recipe.steps[0]!, id: "r2", name: "Other top" };
    return { ...plain, recipe: { ...plain.recipe, steps: [other, ...plain.recipe.steps] } };
  };

  it("asks step by step, shows what would come of it, and keeps all copies at once", async () => {
    const log = answering(() => emptyPreview);
    const edit = onBench(<DuplicateSheet ids={["o", "x"]} />, job());
    expect(screen.getByRole("heading", { name: "Duplicate 2 steps" })).toBeInTheDocument();
    const height = screen.getByRole("textbox", { name: "Distance" });
    await userEvent.clear(height);
    await userEvent.type(height, "25 mm{Enter}");
    await waitFor(() => {
      const last = log.filter((a) => a.url.endsWith("/preview")).at(-1)?.body as { edit: { steps: unknown[] } };
      expect(last.edit.steps[1]).toMatchObject({ step: "x", params: { distance: { text: "25 mm" } } });
    });
    expect(edit).not.toHaveBeenCalled();
    act(() => takeNow());
    act(() => takeNow());
    await waitFor(() => expect(useTool.getState().step).not.toBeNull());
    expect(edit).toHaveBeenCalledTimes(1);
    const done = edit.mock.calls[0]![0] as unknown as {
      op: string;
      steps: { step: string; id: string; params: object }[];
    };
    expect(done.op).toBe("duplicate-steps");
    expect(done.steps.map((s) => s.step)).toEqual(["o", "x"]);
    expect(done.steps[0]!.params).toEqual({});
    await waitFor(() => expect(useTool.getState().step).toBe(done.steps[1]!.id));
  });

  it("says why a copy cannot be", async () => {
    const refused = problem({ code: "not-found", message: "the plane has gone", remedy: "choose another" });
    answering(() => ({ ...emptyPreview, problems: [refused] }));
    onBench(<DuplicateSheet ids={["o"]} />, job());
    expect(screen.getByRole("heading", { name: "Duplicate Plate" })).toBeInTheDocument();
    expect(await screen.findByText(/the plane has gone/)).toBeInTheDocument();
  });

  it("lists nothing of a step that is not there any more", () => {
    answering(() => emptyPreview);
    onBench(<DuplicateSheet ids={["gone"]} />, { ...job(), build: { ...job().build, result } });
    expect(screen.queryByRole("textbox")).toBeNull();
  });
});
