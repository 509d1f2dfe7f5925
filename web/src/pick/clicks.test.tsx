import { act, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { SectionOut } from "../api/client";
import { useRegions } from "../regions/store";
import { plainSection } from "../section/draft";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { answering, onBench, result, sampleJob } from "../test/bench";
import { addBlock, addScan, blockFaces, setStage } from "../test/staged";
import { useAppearance } from "../view/appearance";
import { usePointed } from "../view/pointed";
import { project } from "../view/stage";
import { useArmed } from "./armed";
import { usePicks } from "./picks";
import type { Click } from "./pointer";
import { useClicks } from "./useClicks";

const borders = { corners: [], edges: [] };
const reply = ({ url }: { url: string }): unknown =>
  url.includes("/faces") ? blockFaces : url.includes("/borders") ? borders : url.includes("/brush") ? [7, 8] : null;

const told = vi.fn();
/** What a click at a place in space does. */
function clicker(fitted?: SectionOut, job = sampleJob()) {
  let click: (c: Click) => void = () => undefined;
  const Probe = () => {
    click = useClicks(fitted);
    return null;
  };
  onBench(<Probe />, job, told);
  return (p: [number, number, number], more: Partial<Click> = {}) => {
    const { x, y } = project(p);
    act(() => click({ x, y, shift: false, alt: false, ...more }));
  };
}
const picks = () => usePicks.getState();
const look = (part: Partial<ReturnType<typeof useAppearance.getState>>) => act(() => useAppearance.setState(part));

describe("a click in the view", () => {
  beforeEach(() => {
    resetBench();
    setStage();
    told.mockReset();
    answering(reply);
  });

  it("on the scan begins a region there; Shift adds, Alt takes a dab away, and a click beside it lets go", async () => {
    addScan(20, 10);
    const click = clicker();
    click([4, 4, 10]);
    expect(picks().seeds).toHaveLength(1);
    expect(picks().anchor![2]).toBeCloseTo(10);
    click([-4, -4, 10], { shift: true });
    expect(picks().seeds).toHaveLength(2);
    click([4, -4, 10], { alt: true });
    await waitFor(() => expect(picks().removed).toEqual([7, 8]));
    expect(picks().seeds).toHaveLength(2);
    click([40, 0, 10]);
    expect(picks().seeds).toEqual([]);
  });

  it("on a body picks the face that is met, and Shift another beside it", async () => {
    addBlock("x", 20);
    const click = clicker();
    click([0, 0, 10]);
    await waitFor(() => expect(picks().faces.map((f) => f.face.name)).toEqual(["+z"]));
    expect(picks().faces[0]).toMatchObject({ body: "x", key: "key-x", index: 4 });
    click([0, 0, 10], { shift: true }); // once more: it goes again
    await waitFor(() => expect(picks().faces).toEqual([]));
  });

  it("where scan and body lie within the noise of each other, what is less see-through is meant", async () => {
    addScan(20, 10.2);
    addBlock("x", 20);
    const click = clicker();
    look({ scanOpacity: 0.3, bodyOpacity: 1 });
    click([0, 0, 10]);
    await waitFor(() => expect(picks().faces).toHaveLength(1));
    look({ scanOpacity: 1, bodyOpacity: 0.3 });
    click([0, 0, 10]);
    expect(picks()).toMatchObject({ faces: [], seeds: [expect.any(Number)] });
  });

  it("what clearly lies before the other is meant, however see-through it is", () => {
    addScan(20, 14);
    addBlock("x", 20);
    look({ scanOpacity: 0.2, bodyOpacity: 1 });
    clicker()([0, 0, 14]);
    expect(picks().seeds).toHaveLength(1);
  });

  it("a scan that is hidden, see-through altogether or not to be picked lets the body be met", async () => {
    addScan(20, 14);
    addBlock("x", 20);
    const click = clicker();
    for (const part of [{ hidden: ["s"] }, { scanOpacity: 0 }, { unpickable: ["scan" as const] }]) {
      look({ hidden: [], scanOpacity: 1, unpickable: [], ...part });
      act(() => picks().clear());
      click([0, 0, 14]);
      await waitFor(() => expect(picks().faces).toHaveLength(1));
    }
  });

  it("what waits for a pick is given it, and meets nothing it has no answer for", async () => {
    addScan(20, 14);
    addBlock("x", 20);
    const click = clicker();
    const onFace = vi.fn();
    act(() => useArmed.getState().arm({ hint: "Pick a face", onFace }));
    click([0, 0, 14]);
    await waitFor(() => expect(onFace).toHaveBeenCalledWith(expect.objectContaining({ body: "x", index: 4 })));
    expect(picks().faces).toEqual([]);
    const onFacet = vi.fn();
    act(() => useArmed.getState().arm({ hint: "Pick the scan", onFacet }));
    click([4, 4, 14]);
    expect(onFacet).toHaveBeenCalledTimes(1);
    click([60, 0, 14]); // nothing there: it goes on waiting
    expect(useArmed.getState().armed).not.toBeNull();
    expect(picks().seeds).toEqual([]);
  });

  it("picking closes the sheet of a step that was open", () => {
    addScan(20, 10);
    const click = clicker();
    act(() => useTool.getState().select("x"));
    click([4, 4, 10]);
    expect(useTool.getState().step).toBeNull();
  });

  it("while regions are found a click chooses the region there, and Shift chooses more of them", () => {
    addScan(20, 10);
    const click = clicker();
    act(() => {
      useTool.setState({ panel: "regions" });
      useRegions.getState().set({ scan: "k0", labels: Int32Array.from([0, 0, 1, 1, 2, 2, -1, -1]), chosen: [] });
    });
    click([-4, 4, 10]);
    expect(useRegions.getState().chosen).toEqual([0]);
    click([4, 4, 10], { shift: true });
    expect(useRegions.getState().chosen).toEqual([0, 1]);
    click([-4, 4, 10], { shift: true });
    expect(useRegions.getState().chosen).toEqual([1]);
    click([4, -4, 10]); // belongs to none
    expect(useRegions.getState().chosen).toEqual([1]);
    expect(picks().seeds).toEqual([]);
  });

  it("in colours of deviation it asks how far that place is off", async () => {
    addScan(20, 10);
    const asked = answering(() => ({ deviation: -0.31, source_facet: 12 }));
    look({ coloured: true });
    clicker()([4, 4, 10]);
    await waitFor(() => expect(usePointed.getState().probe).toMatchObject({ deviation: -0.31, facet: 12 }));
    expect(asked.at(-1)).toMatchObject({ method: "POST", body: { fit: "f1" } });
    expect(picks().seeds).toEqual([]);
  });

  it("where deviations are known of some places only, it picks as ever", () => {
    addScan(20, 10);
    look({ coloured: true });
    const job = sampleJob();
    const fit = { ...result.fit!, figures: { ...result.fit!.figures, sampled: true } };
    clicker(undefined, { ...job, build: { ...job.build, result: { ...result, fit } } } as typeof job)([4, 4, 10]);
    expect(picks().seeds).toHaveLength(1);
  });

  it("a failed answer is told, and nothing is picked", async () => {
    addBlock("x", 20);
    vi.stubGlobal("fetch", () => Promise.resolve(new Response("no", { status: 500 })));
    clicker()([0, 0, 10]);
    await waitFor(() => expect(told).toHaveBeenCalled());
    expect(picks().faces).toEqual([]);
  });
});

describe("a click while a section lies in the view", () => {
  const path = (x: number) => [[x, -5, 0], [x, 5, 0]]; // biome-ignore format: a line
  const loop = (...xs: number[]) => ({ closed: true, length: 1, area: 1, pieces: xs.map((x) => ({ path: path(x), kind: "line" })) }); // biome-ignore format: one object
  const fitted = { loops: [loop(-8, -4), loop(6)] } as unknown as SectionOut;

  beforeEach(() => {
    resetBench();
    setStage();
    answering(reply);
  });

  const open = () => act(() => useTool.getState().openSection({ ...plainSection, region: "r", offset: "0 mm", origin: [0, 0, 0], normal: [0, 0, 1] })); // biome-ignore format: one act
  const left = () => useTool.getState().section!.left;

  it("leaves the piece that is nearest and takes it again, with Shift its whole loop", () => {
    const click = clicker(fitted);
    open();
    click([-4, 0, 0]);
    expect(left()).toEqual(["0.1"]);
    click([6, 1, 0]);
    expect(left()).toEqual(["0.1", "1.0"]);
    click([-4, 2, 0]);
    expect(left()).toEqual(["1.0"]);
    click([-8, 1, 0], { shift: true });
    expect([...left()!].sort()).toEqual(["0.0", "0.1", "1.0"]);
    expect(picks().seeds).toEqual([]);
  });

  it("far from every piece it changes nothing, and picks nothing behind the section", () => {
    addScan(80, 0);
    const click = clicker(fitted);
    open();
    click([25, 15, 0]);
    expect(left()).toBeNull();
    expect(picks().seeds).toEqual([]);
  });
});
