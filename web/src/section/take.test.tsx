import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { SectionOut, Step } from "../api/client";
import type { Kind } from "../api/kinds";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { type Asked, answering, onBench, sampleJob } from "../test/bench";
import declarations from "../test/declarations.json";
import { alignFacts } from "../test/facts";
import { isUnderSketch } from "../view/useThings";
import { nearlyAcross, plainSection } from "./draft";
import { Related } from "./Related";
import { useOpenSection } from "./useOpenSection";
import { useTakeSection } from "./useTakeSection";

const piece = (part = {}) => ({ kind: "line", start: [0, 0], end: [4, 0], mid: null, points: [], ellipse: null, ...part }); // biome-ignore format: one object
const fitted = (part = {}) =>
  ({ offset_mm: 0, origin: [0, 0, 2], u_axis: [1, 0, 0], normal: [0, 0, 1], pose: [], tolerance: 0.08, cuts: [], loops: [{ closed: true, bridged: false, relations: [], length: 9, area: 4, pieces: [piece(), piece(), piece()], ...part }], gaps: [] }) as unknown as SectionOut; // biome-ignore format: one object
const drawing = { entities: { e1: { kind: "circle" } }, made: 4 };

function Take({ of }: { of: SectionOut }) {
  const take = useTakeSection(of);
  return (
    <>
      <Related fitted={of} />
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

/** No edge of a body lies on the plane. */
const alone = (a: Asked) => (a.url.endsWith("/linkable") ? [] : { drawing });

describe("a section that is taken", () => {
  beforeEach(() => resetBench());

  it("is drawn by the server and becomes a sketch on its plane that follows the scan", async () => {
    begun();
    const log = answering(alone);
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
    answering(alone);
    const edit = onBench(<Take of={fitted()} />, sampleJob());
    await userEvent.click(screen.getByRole("button", { name: "take" }));
    await waitFor(() => expect(edit).toHaveBeenCalled());
    const { steps } = edit.mock.calls[0]![0] as unknown as { steps: { id: string; kind: string }[] };
    expect(steps.map((s) => s.kind)).toEqual(["plane", "sketch"]);
    expect(
      isUnderSketch(steps as unknown as Step[], declarations.kinds as unknown as Record<string, Kind>, steps[0]!.id),
    ).toBe(true); // drawn only where it is asked for
  });

  it("is laid on the edges of what stands, as they are seen on its plane, unless that is switched off", async () => {
    const link = { way: "edge", part: { body: "b", edge: "rim" } };
    const rim = { key: "edge0", kind: "circle", points: [[0, 0]], size: 17 };
    const wave = { key: "edge0", kind: "spline", points: [[0, 0]], size: 0 };
    for (const on of [true, false]) {
      begun();
      const log = answering((a) => (a.url.endsWith("/linkable") ? [{ link, pieces: [rim, wave], paths: [] }] : { drawing })); // biome-ignore format: one answer
      onBench(<Take of={fitted()} />, sampleJob());
      if (!on) await userEvent.click(screen.getByRole("checkbox", { name: /Lay pieces on walls/ }));
      expect(screen.getByText(/nearer than 0\.027 mm/)).toBeInTheDocument();
      await userEvent.click(screen.getByRole("button", { name: "take" }));
      await waitFor(() => expect(useTool.getState().draft?.kind).toBe("extrude"));
      const { acts } = log.find((a) => a.url.endsWith("/drawing"))!.body as { acts: unknown[] };
      expect(acts[0]).toMatchObject({ act: "take" });
      expect(acts[1]).toEqual(on ? { act: "lie-flush", walls: [{ link, piece: rim }], within: 0.08 / 3 } : undefined);
      const asked = log.find((a) => a.url.endsWith("/linkable"))?.body;
      if (on) expect(asked).toMatchObject({ source: "x", way: "edge", origin: [0, 0, 2], normal: [0, 0, 1] });
      else expect(asked).toBeUndefined();
      cleanup();
      resetBench();
    }
  });

  it("stands exactly across a direction of the part where its face nearly does, on a plane of its own", async () => {
    const found = nearlyAcross([0.0003, -0.0002, -1])!;
    expect(found).toMatchObject({ axis: [0, 0, -1], nearly: { across: "z" } });
    expect(found.nearly.off).toBeCloseTo(0.0207, 3);
    for (const square of [true, false]) {
      begun({ nearly: found.nearly, normal: square ? found.axis : found.nearly.normal });
      answering(alone);
      const edit = onBench(<Take of={fitted()} />, sampleJob());
      await userEvent.click(screen.getByRole("button", { name: "take" }));
      await waitFor(() => expect(edit).toHaveBeenCalled());
      if (square) {
        const { steps } = edit.mock.calls[0]![0] as unknown as { steps: { kind: string; params: unknown }[] };
        expect(steps.map((s) => s.kind)).toEqual(["plane", "sketch"]);
        expect(steps[0]!.params).toMatchObject({ by: "parallel", plane: { id: "r" }, square: true });
      } else expect(edit.mock.calls[0]![0]).toMatchObject({ op: "add-step", params: { plane: { id: "r" } } });
      cleanup();
      resetBench();
    }
  });

  it("begins so only on a part that was put on its axes: how a scan lay by itself says nothing", async () => {
    function Open() {
      const section = useOpenSection();
      return (
        <button type="button" onClick={() => section.onFace("r", [0, 0, 2], [0, 0.0004, 1], [5, 5, 2])}>
          open
        </button>
      );
    }
    for (const aligned of [true, false]) {
      const job = sampleJob();
      const result = job.build.result!;
      const align = { ...result.steps[0]!, id: "a", kind: "align", facts: alignFacts() };
      const steps = aligned ? [align, ...result.steps] : result.steps;
      onBench(<Open />, { ...job, build: { ...job.build, result: { ...result, steps } } });
      await userEvent.click(screen.getByRole("button", { name: "open" }));
      const { normal, nearly, origin } = useTool.getState().section!;
      expect([normal, nearly?.across]).toEqual(aligned ? [[0, 0, 1], "z"] : [[0, 0.0004, 1], undefined]);
      expect(origin[2]).toBeCloseTo(aligned ? 1.998 : 2, 4); // turned about the face's middle
      cleanup();
      resetBench();
    }
  });

  it("leans as it does where it leans on purpose, or not at all", () => {
    expect(nearlyAcross([0.001, 0, 1])).toBeNull();
    expect(nearlyAcross([0, 1, 0])).toBeNull();
  });

  it("holds nothing but what was fitted so where that is switched off", async () => {
    begun();
    const log = answering(alone);
    onBench(<Take of={fitted()} />, sampleJob());
    await userEvent.click(screen.getByRole("checkbox", { name: /nearly holds/ }));
    await userEvent.click(screen.getByRole("button", { name: "take" }));
    expect(asked(log).relate).toBe(false);
  });

  it("goes on to a turn about its axis where a turned profile closes, and is drawn on where it does not", async () => {
    for (const closed of [true, false]) {
      begun({ source: "radial", left: [] });
      answering(alone);
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
