import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { StepState } from "../api/build";
import type { SectionOut } from "../api/client";
import type { Job } from "../api/queries";
import { MendOutcome } from "../scan/MendOutcome";
import { PutRight } from "../section/PutRight";
import { takenLoops } from "../section/taken";
import { useTakeSection } from "../section/useTakeSection";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { NextSteps } from "../steps/NextSteps";
import { answering, declared, onBench, sampleJob } from "../test/bench";
import { regionFacts, sectorFacts } from "../test/facts";
import { WhatNext } from "./WhatNext";
import { whatNext } from "./whatNext";

const bore = regionFacts({ kind: "cylinder", origin: [1, 2, 3], axis: [0, 0, 1], radius: 6 });
const state = (id: string, kind: string, facts: unknown) =>
  ({ id, kind, name: id, status: "ok", facts, problems: [], values: {}, scans: { s: "now" } }) as unknown as StepState;
const step = (id: string, kind: string, params: Record<string, unknown>) =>
  ({ id, kind, name: id, enabled: true, params, note: "", group: "" }) as Job["recipe"]["steps"][number];

const SECTOR = { scan: { id: "s" }, axis: { id: "bore" } };
const ALL: [string, string, Record<string, unknown>, unknown][] = [
  ["bore", "region", { scan: { id: "s" } }, bore],
  ["one", "sector", SECTOR, sectorFacts()],
  ["o", "sketch", {}, sampleJob().build.result!.steps.find((s) => s.id === "o")?.facts],
  ["x", "extrude", { sketch: { id: "o" } }, sampleJob().build.result!.steps.find((s) => s.id === "x")?.facts],
  ["all", "repeat", { body: { id: "x" } }, { of: "repeat", members: 12 }],
  ["whole", "earlier", { scan: { id: "s" }, before: { id: "one" } }, { of: "scan" }],
];

/** A wheel's job with the first so many steps: its bore, one sector, an outline, a block of it, all around, the whole scan again. */
function wheel(count: number): Job {
  const whole = sampleJob();
  const result = whole.build.result!;
  const rows = ALL.slice(0, count);
  return {
    ...whole,
    recipe: {
      ...whole.recipe,
      evidence: [{ id: "s", kind: "scan", name: "wheel.stl", blob: "b", format: "stl", unit: "mm" }],
      steps: rows.map(([id, kind, params]) => step(id, kind, params)),
    },
    build: {
      ...whole.build,
      result: {
        ...result,
        steps: rows.map(([id, kind, , facts]) => state(id, kind, facts)),
        bodies: count > 3 ? result.bodies : [],
      },
    },
  } as unknown as Job;
}
const next = (count: number) => whatNext(wheel(count), declared.kinds, false);

const SPOT = { start: [0, 0], end: [4, 0], mid: null, points: [], ellipse: null, path: [] };
const loop = (relations: object[]) => ({ closed: true, bridged: false, relations, length: 9, area: 4, pieces: [0, 1, 2].map(() => ({ ...SPOT, kind: "line" })) }); // biome-ignore format: one object
const fitted = { offset_mm: -4.5, origin: [1, 2, -1.5], u_axis: [1, 0, 0], normal: [0, 0, 1], pose: [], tolerance: 0.08, cuts: [], gaps: [], loops: [loop([{ kind: "turned", first: "e1", second: "e3" }])] } as unknown as SectionOut; // biome-ignore format: one object

function Take() {
  const take = useTakeSection(fitted);
  return (
    <button type="button" onClick={() => void take()}>
      take
    </button>
  );
}

describe("one sector of a wheel", () => {
  beforeEach(() => resetBench());

  it("leads to its outline, to all around the axis, and to the whole scan again", () => {
    expect(next(2)).toEqual({ what: "across", axis: "bore", middle: -4.5 });
    expect(next(3)).toMatchObject({ what: "extrude", sketch: "o" });
    expect(next(4)).toMatchObject({ what: "repeat", axis: "bore", body: "x", alike: 12 });
    expect(next(5)).toEqual({ what: "whole", sector: "one" });
    expect(next(6)).toMatchObject({ what: "seat" });
  });

  it("each of which one button begins", async () => {
    onBench(<WhatNext />, wheel(2));
    await userEvent.click(screen.getByRole("button", { name: "Cut across it" }));
    expect(useTool.getState().section).toMatchObject({
      source: "section",
      region: "bore",
      acrossAxis: true,
      origin: [1, 2, 3],
      normal: [0, 0, 1],
      offset: "-4.5 mm",
    });
    cleanup();
    resetBench();
    onBench(<WhatNext />, wheel(4));
    await userEvent.click(screen.getByRole("button", { name: "Repeat it" }));
    const { kind, params } = useTool.getState().draft!;
    expect(kind).toBe("repeat");
    expect(params).toMatchObject({ body: { id: "x" }, operation: "add", by: "circle", axis: { id: "bore" }, count: { text: "12" } }); // biome-ignore format: one object
    cleanup();
    resetBench();
    onBench(<WhatNext />, wheel(5));
    await userEvent.click(screen.getByRole("button", { name: "Show all of it" }));
    expect(useTool.getState().draft).toMatchObject({ kind: "earlier", params: { scan: { id: "s" }, before: { id: "one" } } }); // biome-ignore format: one object
  });

  it("is cut square to its axis from its own sheet, and so is anything round", async () => {
    for (const at of [0, 1]) {
      const job = wheel(2);
      onBench(<NextSteps step={job.recipe.steps[at]!} state={job.build.result!.steps[at]!} />, job);
      await userEvent.click(screen.getByRole("button", { name: "Cut across it" }));
      expect(useTool.getState().section).toMatchObject({ acrossAxis: true, offset: at ? "-4.5 mm" : "0 mm" });
      cleanup();
      resetBench();
    }
  });

  it("is taken with a plane of its own across the axis, and with its ends held", async () => {
    const job = wheel(2);
    onBench(<NextSteps step={job.recipe.steps[1]!} state={job.build.result!.steps[1]!} />, job);
    await userEvent.click(screen.getByRole("button", { name: "Cut across it" }));
    cleanup();
    const log = answering((a) => (a.url.endsWith("/linkable") ? [] : { drawing: { entities: {}, made: 3 } }));
    const edit = onBench(<Take />, job);
    await userEvent.click(screen.getByRole("button", { name: "take" }));
    await waitFor(() => expect(edit).toHaveBeenCalled());
    const { steps } = edit.mock.calls[0]![0] as unknown as { steps: { id: string; kind: string; params: object }[] };
    expect(steps.map((s) => s.kind)).toEqual(["plane", "sketch"]);
    expect(steps[0]!.params).toMatchObject({ by: "across axis", axis: { id: "bore" } });
    expect(steps[1]!.params).toMatchObject({ plane: { id: steps[0]!.id }, offset: { text: "-4.5 mm" } });
    const sent = log.find((a) => a.url.endsWith("/drawing"))!.body as { acts: { loops: { relations: object[] }[] }[] };
    expect(sent.acts[0]!.loops[0]!.relations).toEqual([{ kind: "turned", first: "e1", second: "e3" }]);
  });

  it("says what is held from the start, and lets go of it", async () => {
    useTool.getState().openSection({ source: "section" } as never);
    answering(() => []);
    onBench(<PutRight fitted={fitted} />, wheel(2));
    expect(screen.getByText("one sector, its ends e1 and e3 alike")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "hold no more" }));
    const { edited } = useTool.getState().section!;
    expect(edited![0]!.relations).toEqual([]);
    expect(takenLoops(fitted, [], edited)[0]!.relations).toEqual([]);
  });

  it("has moved nothing of the scan, and does not say so", () => {
    const told = wheel(2).build.result!.steps[1]!;
    onBench(<MendOutcome state={told} facts={sectorFacts()} />, wheel(2));
    expect(screen.getByText("900 → 80")).toBeInTheDocument();
    expect(screen.queryByText("largest movement")).toBeNull();
  });
});
