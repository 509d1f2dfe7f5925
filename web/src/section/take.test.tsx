import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { SectionOut } from "../api/client";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { type Asked, answering, onBench, sampleJob } from "../test/bench";
import { useAppearance } from "../view/appearance";
import { plainSection } from "./draft";
import { Related } from "./Related";
import { useTakeSection } from "./useTakeSection";

const piece = (part = {}) => ({ kind: "line", start: [0, 0], end: [4, 0], mid: null, points: [], ellipse: null, ...part }); // biome-ignore format: one object
const fitted = (part = {}) =>
  ({ offset_mm: 0, origin: [0, 0, 2], u_axis: [1, 0, 0], normal: [0, 0, 1], pose: [], tolerance: 0.08, cuts: [], loops: [{ closed: true, bridged: false, length: 9, area: 4, pieces: [piece(), piece(), piece()], ...part }], gaps: [] }) as unknown as SectionOut; // biome-ignore format: one object
const drawing = { entities: { e1: { kind: "circle" } }, made: 4 };

function Take({ of }: { of: SectionOut }) {
  const take = useTakeSection(of);
  return (
    <>
      <Related />
      <button type="button" onClick={() => void take()}>
        take
      </button>
    </>
  );
}

interface Acts {
  acts: { relate?: boolean; loops?: { pieces: { taken: boolean }[] }[] }[];
}

/** The first act that the server was asked for. */
const asked = (log: Asked[]) => (log.find((a) => a.url.endsWith("/drawing"))!.body as Acts).acts[0]!;

const begun = (part = {}) =>
  useTool.getState().openSection({ ...plainSection, region: "r", origin: [0, 0, 2], normal: [0, 0, 1], offset: "-4 mm", ...part }); // biome-ignore format: one call

describe("a section that is taken", () => {
  beforeEach(() => resetBench());

  it("is drawn by the server and becomes a sketch on its plane that follows the scan", async () => {
    begun();
    const log = answering(() => ({ drawing }));
    const edit = onBench(<Take of={fitted()} />, sampleJob());
    await userEvent.click(screen.getByRole("button", { name: "take" }));
    const act = asked(log);
    expect(act).toMatchObject({ act: "take", within: 0.08, relate: true });
    expect(act.loops?.flatMap((l) => l.pieces.map((p) => p.taken))).toEqual([true, true, true]);
    const params = { scan: { id: "s" }, source: "section", plane: { id: "r" }, offset: { text: "-4 mm" }, ...drawing };
    expect(edit).toHaveBeenCalledWith(expect.objectContaining({ op: "add-step", kind: "sketch", params: expect.objectContaining({ ...params, offset: expect.objectContaining(params.offset) }) })); // biome-ignore format: one call
    expect(useTool.getState().draft).toMatchObject({ kind: "extrude" });
  });

  it("makes a plane that belongs to nothing a step of its own, which does not cover the part", async () => {
    begun({ region: null });
    answering(() => ({ drawing }));
    const edit = onBench(<Take of={fitted()} />, sampleJob());
    await userEvent.click(screen.getByRole("button", { name: "take" }));
    await waitFor(() => expect(edit).toHaveBeenCalled());
    const { steps } = edit.mock.calls[0]![0] as unknown as { steps: { id: string; kind: string }[] };
    expect(steps.map((s) => s.kind)).toEqual(["plane", "sketch"]);
    expect(useAppearance.getState().hidden).toEqual([steps[0]!.id]);
  });

  it("holds nothing but what was fitted so where that is switched off", async () => {
    begun();
    const log = answering(() => ({ drawing }));
    onBench(<Take of={fitted()} />, sampleJob());
    await userEvent.click(screen.getByRole("checkbox"));
    await userEvent.click(screen.getByRole("button", { name: "take" }));
    expect(asked(log).relate).toBe(false);
  });

  it("goes on to a turn about its axis where a turned profile closes, and is drawn on where it does not", async () => {
    for (const closed of [true, false]) {
      begun({ source: "radial", left: [] });
      answering(() => ({ drawing }));
      const edit = onBench(<Take of={fitted({ closed })} />, sampleJob());
      await userEvent.click(screen.getByRole("button", { name: "take" }));
      expect(edit).toHaveBeenCalledWith(expect.objectContaining({ params: expect.objectContaining({ source: "radial", axis: { id: "r" } }) })); // biome-ignore format: one call
      expect(useTool.getState().draft?.kind).toBe(closed ? "revolve" : undefined);
      cleanup();
      resetBench();
    }
  });

  it("is left as it is where the drawing could not be made", async () => {
    begun();
    vi.stubGlobal("fetch", async () => new Response("{}", { status: 500, headers: { "content-type": "application/json" } })); // biome-ignore format: one call
    const tell = vi.fn();
    const edit = onBench(<Take of={fitted()} />, sampleJob(), tell);
    await userEvent.click(screen.getByRole("button", { name: "take" }));
    expect(tell).toHaveBeenCalled();
    expect(edit).not.toHaveBeenCalled();
  });
});
