import { fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Vec3 } from "../api/build";
import { resetBench } from "../shell/reset";
import { answering, onBench, sampleJob } from "../test/bench";
import { addBlock, addScan, blockFaces, boxed, setStage } from "../test/staged";
import { project } from "../view/stage";
import { LassoLayer } from "./LassoLayer";
import { usePicks } from "./picks";
import { useSelecting } from "./selecting";

const told = vi.fn();

function layer() {
  onBench(<LassoLayer />, sampleJob(), told);
  const found = screen.getByLabelText(/^Draw around/);
  boxed(found, 10, 20, 800, 600);
  found.setPointerCapture = vi.fn();
  return found;
}
/** A stroke through places in space. */
function draw(on: Element, places: Vec3[], more: { shiftKey?: boolean; altKey?: boolean } = {}) {
  const [first, ...rest] = places.map((p) => project(p));
  fireEvent.pointerDown(on, { clientX: first!.x, clientY: first!.y, button: 0, pointerId: 1, ...more });
  for (const p of rest) fireEvent.pointerMove(on, { clientX: p.x, clientY: p.y });
  fireEvent.pointerUp(on, {});
}
const around = (x0: number, x1: number, y0: number, y1: number, z = 10): Vec3[] => [[x0, y0, z], [x1, y0, z], [x1, y1, z], [x0, y1, z]]; // biome-ignore format: corners
const hand = () => [...(usePicks.getState().hand ?? [])];

describe("drawing around facets", () => {
  beforeEach(() => {
    resetBench();
    setStage();
    told.mockReset();
    answering(({ url }) => (url.includes("/faces") ? blockFaces : null));
    useSelecting.setState({ by: "lasso", what: "facets", through: true, whole: true });
    addScan(20, 10, 2); // four squares of 10 mm, two facets each; the upper left ones are 0 and 1
  });

  it("takes those whose middles lie inside, and says where", () => {
    const on = layer();
    draw(on, around(-10, 0, 0, 10));
    expect(hand()).toEqual([0, 1]);
    const { anchor } = usePicks.getState();
    expect(anchor![0]).toBeLessThan(0);
    expect(anchor![1]).toBeGreaterThan(0);
    expect(anchor![2]).toBeCloseTo(10);
  });

  it("with Shift more of them, with Alt fewer; anew without", () => {
    const on = layer();
    draw(on, around(-10, 0, 0, 10));
    draw(on, around(0, 10, 0, 10), { shiftKey: true });
    expect(hand()).toEqual([0, 1, 2, 3]);
    draw(on, around(-10, 0, 0, 10), { altKey: true });
    expect(hand()).toEqual([2, 3]);
    draw(on, around(-10, 0, -10, 0));
    expect(hand()).toEqual([4, 5]);
  });

  it("a shape with nothing inside leaves nothing picked; two places are no shape", () => {
    const on = layer();
    draw(on, around(-10, 0, 0, 10));
    draw(on, around(20, 30, 20, 30));
    expect(usePicks.getState().hand).toBeNull();
    draw(on, around(-10, 0, 0, 10));
    draw(on, around(20, 30, 20, 30).slice(0, 2));
    expect(hand()).toEqual([0, 1]);
  });

  it("shows the shape while it is drawn, and no longer", () => {
    const on = layer();
    const [a, b, c] = around(-10, 0, 0, 10).map((p) => project(p));
    fireEvent.pointerDown(on, { clientX: a!.x, clientY: a!.y, button: 0, pointerId: 1 });
    for (const p of [b, c]) fireEvent.pointerMove(on, { clientX: p!.x, clientY: p!.y });
    expect(on.querySelector(".lasso-line")?.getAttribute("d")).toMatch(/^M[\d. ]+ L[\d. ]+ L[\d. ]+ Z$/);
    fireEvent.pointerUp(on, {});
    expect(on.querySelector(".lasso-line")).toBeNull();
  });

  it("another button draws nothing", () => {
    const on = layer();
    fireEvent.pointerDown(on, { clientX: 400, clientY: 300, button: 2, pointerId: 1 });
    fireEvent.pointerMove(on, { clientX: 500, clientY: 300 });
    fireEvent.pointerMove(on, { clientX: 500, clientY: 400 });
    fireEvent.pointerUp(on, {});
    expect(usePicks.getState().hand).toBeNull();
  });

  it("a brush takes what it passes, without gaps however fast, and goes on adding", () => {
    useSelecting.setState({ by: "brush" });
    const on = layer();
    // One quick move from left to right across the middles of the upper squares.
    draw(on, [[-7, 6.6, 10], [7, 6.6, 10]]); // biome-ignore format: two places
    const upper = hand();
    expect(upper).toContain(0);
    expect(upper).toContain(2);
    draw(on, [[-7, -3.4, 10], [-6.5, -3.4, 10]]); // biome-ignore format: two places
    expect(hand()).toEqual(expect.arrayContaining([...upper]));
    expect(hand().length).toBeGreaterThan(upper.length);
  });
});

describe("drawing around parts of bodies", () => {
  beforeEach(() => {
    resetBench();
    setStage();
    told.mockReset();
    answering(({ url }) => (url.includes("/faces") ? blockFaces : null));
    addBlock("x", 10);
    addBlock("y", 10, [30, 0, 0]);
  });

  it("takes bodies that lie inside as a whole", () => {
    useSelecting.setState({ by: "lasso", what: "bodies", through: true, whole: true });
    const on = layer();
    expect(on).toHaveAccessibleName("Draw around bodies");
    draw(on, around(-9, 9, -9, 9, 0));
    return waitFor(() => expect(usePicks.getState().bodies).toEqual([{ body: "x", key: "key-x" }]));
  });

  it("takes faces, and those of several bodies", async () => {
    useSelecting.setState({ by: "lasso", what: "faces", through: true, whole: true });
    const on = layer();
    draw(on, around(-20, 50, -20, 20, 0));
    await waitFor(() => expect(usePicks.getState().faces.length).toBe(12));
    expect(new Set(usePicks.getState().faces.map((f) => f.body))).toEqual(new Set(["x", "y"]));
  });

  it("tells what cannot be known, and picks nothing", async () => {
    useSelecting.setState({ by: "lasso", what: "faces", through: true, whole: true });
    vi.stubGlobal("fetch", () => Promise.resolve(new Response("no", { status: 500 })));
    const on = layer();
    draw(on, around(-20, 50, -20, 20, 0));
    await waitFor(() => expect(told).toHaveBeenCalled());
    expect(usePicks.getState().faces).toEqual([]);
  });
});
