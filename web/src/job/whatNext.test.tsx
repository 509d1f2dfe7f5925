import { act, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { StepState } from "../api/build";
import type { Job } from "../api/queries";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { declared, onBench, sampleJob } from "../test/bench";
import { drawnFacts } from "../test/facts";
import { useAppearance } from "../view/appearance";
import { PutDown } from "./PutDown";
import { WhatNext } from "./WhatNext";
import { whatNext } from "./whatNext";

const SCAN = { id: "s", kind: "scan", name: "bracket.stl", blob: "b", format: "stl", unit: "mm" };

/** The sample job with the first so many of its steps (a region, an outline of it, a block), on a scan unless it is to be without. */
function job(
  count: number,
  { scan = true, states = {} }: { scan?: boolean; states?: Record<string, Partial<StepState>> } = {},
): Job {
  const whole = sampleJob();
  const result = whole.build.result!;
  const steps = result.steps.slice(0, count).map((s) => ({ ...s, ...states[s.id] }));
  return {
    ...whole,
    recipe: { ...whole.recipe, evidence: scan ? [SCAN] : [], steps: whole.recipe.steps.slice(0, count) },
    build: { ...whole.build, result: { ...result, steps, bodies: count > 2 ? result.bodies : [] } },
  } as unknown as Job;
}
const next = (of: Job, coloured = false) => whatNext(of, declared.kinds, coloured);

describe("what comes next", () => {
  it("follows the order of the work", () => {
    expect(next(job(0))).toEqual({ what: "align" });
    expect(next(job(1))).toMatchObject({ what: "section", region: "r" });
    expect(next(job(2))).toMatchObject({ what: "extrude", sketch: "o" });
    expect(next(job(3))).toMatchObject({ what: "seat", body: "x" });
    expect(next(job(3, { scan: false }))).toMatchObject({ what: "check" });
    expect(next(job(3, { scan: false }), true)).toEqual({ what: "deliver" });
  });

  it("makes a mesh that was modelled a solid at once, and not what else was brought in beside it", () => {
    const told = (made: string, more = 0) => {
      const bare = job(0);
      const evidence = [SCAN, ...Array.from({ length: more }, (_, k) => ({ ...SCAN, id: `s${k}` }))];
      return { ...bare, recipe: { ...bare.recipe, evidence }, evidence_facts: evidence.map((e) => ({ id: e.id, facts: { made } })) } as unknown as Job; // biome-ignore format: one object
    };
    expect(next(told("modelled"))).toEqual({ what: "solidify" });
    expect(next(told("scanned"))).toEqual({ what: "align" });
    expect(next(told("mixed"))).toEqual({ what: "align" });
    expect(next(told("modelled", 1))).toEqual({ what: "align" });
  });

  it("puts what does not come out first, and an open outline before a block of it", () => {
    expect(next(job(3, { states: { o: { status: "failed" } } }))).toMatchObject({ what: "mend", step: "o" });
    const open = { o: { facts: drawnFacts({ profiles: 0 }) } };
    expect(next(job(2, { states: open }))).toMatchObject({ what: "close", sketch: "o" });
  });

  it("says nothing while a build runs, and asks for regions where none is flat", () => {
    const busy = job(3);
    expect(next({ ...busy, build: { ...busy.build, status: "running" } })).toBeNull();
    expect(next(job(1, { states: { r: { facts: null } } }))).toEqual({ what: "regions" });
  });
});

describe("its line", () => {
  beforeEach(() => {
    resetBench();
    window.localStorage.clear();
  });

  it("does what it says, and can be folded for good", async () => {
    onBench(<WhatNext />, job(2));
    await userEvent.click(screen.getByRole("button", { name: "Make it a block" }));
    expect(useTool.getState().draft).toMatchObject({ kind: "extrude", params: { sketch: { id: "o" } } });
    resetBench();
    await userEvent.click(await screen.findByRole("button", { name: "Fold what comes next" }));
    expect(screen.queryByRole("button", { name: "Make it a block" })).toBeNull();
    expect(window.localStorage.getItem("what-comes-next-folded")).toBe("yes");
    await userEvent.click(screen.getByRole("button", { name: "What comes next" }));
    expect(screen.getByRole("button", { name: "Make it a block" })).toBeInTheDocument();
  });

  it("leads to the colours, then to the delivery", async () => {
    onBench(<WhatNext />, job(3, { scan: false }));
    await userEvent.click(screen.getByRole("button", { name: "See where" }));
    expect(useAppearance.getState().coloured).toBe(true);
    await userEvent.click(screen.getByRole("button", { name: "Make the files" }));
    expect(useTool.getState().panel).toBe("deliver");
  });
});

describe("a step that is put down half done", () => {
  beforeEach(resetBench);
  const begun = { kind: "extrude", params: { distance: { text: "5 mm", mark: "assumed" } } };

  it("is taken up again as it was", async () => {
    onBench(<PutDown />);
    useTool.getState().openDraft(begun);
    useTool.getState().setDraft({ both: true });
    expect(screen.queryByRole("button", { name: "Take it up again" })).toBeNull();
    act(() => useTool.getState().close());
    expect(screen.getByText("'Extrude' was put down half done.")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Take it up again" }));
    expect(useTool.getState().draft).toEqual({ kind: "extrude", params: { ...begun.params, both: true } });
    // Looked at and closed again it is still there, until it is let go.
    act(() => useTool.getState().close());
    await userEvent.click(screen.getByRole("button", { name: "Let 'Extrude' go" }));
    expect(useTool.getState().putDown).toBeNull();
  });

  it("is nothing where nothing had been chosen, or it is in the job now", () => {
    useTool.getState().openDraft(begun);
    useTool.getState().select("x");
    expect(useTool.getState().putDown).toBeNull();
    useTool.getState().openDraft(begun);
    useTool.getState().setDraft({ both: true });
    useTool.getState().kept();
    useTool.getState().select("x");
    expect(useTool.getState().putDown).toBeNull();
  });
});
