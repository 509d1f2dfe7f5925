import { fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { MarkOut } from "../api/client";
import { resetBench } from "../shell/reset";
import { answering, onBench, sampleJob } from "../test/bench";
import { driftOf, figureOf, middleOf, outlineMm, outlinePath, traceHint } from "./marks";
import { PhotoDesk } from "./PhotoDesk";
import { usePhoto } from "./store";

const out = (part: Partial<MarkOut>): MarkOut => ({
  id: "m",
  points: [[10, 10], [60, 10]], // biome-ignore format: two ends
  found: [],
  value: 3.001,
  u: 0.004,
  dimension: "length",
  drift: null,
  u_drift: null,
  alike: null,
  doubled: false,
  problem: null,
  ...part,
});

describe("figures of marks", () => {
  it("say what they measure, with twice the standard uncertainty", () => {
    expect(figureOf("repeat", out({}), "mm")).toBe("pitch 3.001 mm ± 0.008");
    expect(figureOf("circle", out({ value: 6, u: 0.01 }), "mm")).toBe("Ø 6.000 mm ± 0.020");
    expect(figureOf("angle", out({ value: 60, u: 0.2, dimension: "angle" }), "mm")).toBe("60.00° ± 0.40");
    expect(figureOf("count", out({ value: 8, dimension: "number" }), "mm")).toBe("8 marked");
    expect(figureOf("distance", out({ value: null }), "mm")).toBe("needs a scale");
    expect(figureOf("distance", undefined, "mm")).toBe("…");
  });

  it("a drift counts when it is larger than its uncertainty", () => {
    expect(driftOf(out({ drift: 0.24, u_drift: 0.03 }), "mm")).toEqual({
      text: "drift at the last one 0.240 mm ± 0.060",
      far: true,
    });
    expect(driftOf(out({ drift: 0.02, u_drift: 0.03 }), "mm")?.far).toBe(false);
    expect(driftOf(out({}), "mm")).toBeNull();
  });

  it("three points make a circle unless they lie on a line", () => {
    expect(middleOf([5, 0], [0, 5], [-5, 0])).toEqual([0, 0]);
    expect(middleOf([0, 0], [1, 1], [2, 2])).toBeNull();
  });
});

describe("an outline with round sides", () => {
  it("is drawn over the points on its arcs", () => {
    const half = [[0, 0], [5, 5], [10, 0], [10, -8]] as [number, number][]; // biome-ignore format: points
    expect(outlinePath(half, [1], false)).toBe("M0,0A5,5 0 0 0 10,0L10,-8");
    expect(outlinePath(half, [1], true)).toBe("M0,0A5,5 0 0 0 10,0L10,-8L0,0");
    const most = [[0, 0], [2, 9], [4, 0]] as [number, number][]; // biome-ignore format: points
    expect(outlinePath(most, [1], false)).toMatch(/^M0,0A\S+ 0 1 0 4,0$/);
    expect(outlinePath(half, [], false)).toBe("M0,0L5,5L10,0L10,-8");
  });

  it("says what the next click is", () => {
    expect(traceHint(0, [], false)).toContain("corners");
    expect(traceHint(1, [], true)).toContain("on the arc");
    expect(traceHint(2, [1], false)).toContain("arc ends");
    expect(traceHint(3, [1], false)).toContain("next corner");
  });
});

describe("an outline in mm", () => {
  it("lies about its middle, with y upwards", () => {
    expect(outlineMm([[100, 200], [300, 200], [300, 100]], 0.1)).toEqual([[-10, -5], [10, -5], [10, 5]]); // biome-ignore format: corners
  });
});

const picture = {
  id: "p",
  kind: "picture",
  name: "nut.jpg",
  blob: "b",
  format: "jpeg",
  role: "photo",
  width: 400,
  height: 300,
  corners: null,
  aspect: null,
  bend: 0,
  turn_deg: 0,
  contrast: 1,
  crop: null,
  scale: null,
  check: null,
  marks: [{ id: "m", kind: "repeat", name: "crests", points: [[1, 1]], count: 8, closed: false, snapped: false, step: { text: "pitch" }, reading: null }], // biome-ignore format: one mark
};

const facts = {
  size: [400, 300],
  mm_per_px: 0.1,
  relative_u: 0.001,
  scale_line: [],
  check_line: [],
  check_error: 0.01,
  check_away: 3.1,
  marks: [out({ drift: 0.2, u_drift: 0.03 })],
  problems: [],
  pins: [],
};

function photoJob() {
  const job = sampleJob();
  return { ...job, recipe: { ...job.recipe, evidence: [picture] } } as unknown as ReturnType<typeof sampleJob>;
}

const ends = [[1, 2], [3, 4]]; // biome-ignore format: two points
const corners = [[1, 2], [9, 2], [9, 8], [1, 8]]; // biome-ignore format: four points

const reply = ({ url, body }: { url: string; body?: unknown }) => {
  if (url.endsWith("/pictures/p")) return facts;
  if (!url.endsWith("/snap")) return photoJob();
  return { points: (body as { kind: string }).kind === "corners" ? corners : ends, rms: 0.1, bend: 0.02 };
};

/** jsdom measures nothing: the picture is taken to be shown at its own size. */
function measured() {
  const svg = screen.getByRole("application") as unknown as SVGSVGElement & { setPointerCapture: () => void };
  svg.getScreenCTM = () => ({ inverse: () => ({}) }) as never;
  svg.setPointerCapture = () => undefined;
  globalThis.DOMPoint = class {
    x: number;
    y: number;
    constructor(x: number, y: number) {
      this.x = x;
      this.y = y;
    }
    matrixTransform() {
      return this;
    }
  } as never;
  return svg as unknown as Element;
}

const click = (svg: Element, x: number, y: number) => {
  fireEvent(svg, new MouseEvent("pointerdown", { bubbles: true, clientX: x, clientY: y }));
  fireEvent(svg, new MouseEvent("pointerup", { bubbles: true, clientX: x, clientY: y }));
};

describe("the photo desk", () => {
  beforeEach(() => {
    resetBench();
    usePhoto.setState({ picture: null, tool: "look", points: [], snap: true, count: 8, chosen: null });
  });

  it("shows a scale that a second length speaks against, and a drift", async () => {
    answering(reply);
    onBench(<PhotoDesk />, photoJob());
    expect(await screen.findByText(/3\.1 u off/)).toBeInTheDocument();
    expect(screen.getByText(/The two lengths do not agree/)).toBeInTheDocument();
    expect(screen.getByText(/drift at the last one 0\.200 mm/)).toBeInTheDocument();
    expect(screen.getByText("10.00 px/mm")).toBeInTheDocument();
  });

  it("two clicks measure a distance, put onto the edges first", async () => {
    const asked = answering(reply);
    onBench(<PhotoDesk />, photoJob());
    await userEvent.click(await screen.findByRole("button", { name: "Distance" }));
    const svg = measured();
    click(svg, 20, 30);
    click(svg, 120, 30);
    await waitFor(() => expect(asked.some((a) => a.url.endsWith("/marks"))).toBe(true));
    expect(asked.find((a) => a.url.endsWith("/snap"))!.body).toMatchObject({ kind: "ends", points: [[20, 30], [120, 30]] }); // biome-ignore format: two ends
    expect(asked.find((a) => a.url.endsWith("/marks"))!.body).toMatchObject({ kind: "distance", snapped: true, points: [[1, 2], [3, 4]] }); // biome-ignore format: two ends
  });

  it("a known length is typed after its ends are clicked", async () => {
    const asked = answering(reply);
    onBench(<PhotoDesk />, photoJob());
    await userEvent.click(await screen.findByRole("button", { name: "Set a known length" }));
    const svg = measured();
    click(svg, 20, 30);
    click(svg, 220, 30);
    await userEvent.type(await screen.findByRole("textbox", { name: "What it is long" }), "120 mm{Enter}");
    await waitFor(() => expect(asked.some((a) => a.url.endsWith("/known"))).toBe(true));
    expect(asked.find((a) => a.url.endsWith("/known"))!.body).toMatchObject({
      which: "scale",
      a: [20, 30],
      b: [220, 30],
    });
  });

  it("a mark becomes a reading by name", async () => {
    const asked = answering(reply);
    onBench(<PhotoDesk />, photoJob());
    await userEvent.click(await screen.findByRole("button", { name: /^crests/ }));
    await userEvent.type(await screen.findByRole("textbox", { name: "Name of the new reading" }), "pitch_p");
    await userEvent.click(screen.getByRole("button", { name: "Make it a reading" }));
    await waitFor(() => expect(asked.some((a) => a.url.endsWith("/marks/m/reading"))).toBe(true));
    expect(asked.find((a) => a.url.endsWith("/marks/m/reading"))!.body).toMatchObject({ name: "pitch_p" });
  });

  it("repeats are held against a step that is typed", async () => {
    answering(reply);
    const edit = onBench(<PhotoDesk />, photoJob());
    await userEvent.click(await screen.findByRole("button", { name: /^crests/ }));
    const field = await screen.findByRole("textbox", { name: "Step the repeats are held against" });
    await userEvent.clear(field);
    await userEvent.type(field, "3.2 mm{Enter}");
    expect(edit).toHaveBeenCalledTimes(1);
    expect(edit.mock.calls[0]![0]).toMatchObject({
      op: "set-mark",
      picture: "p",
      mark: { id: "m", step: { text: "3.2 mm" } },
    });
  });

  it("corners are found and kept with the lens", async () => {
    answering(reply);
    const edit = onBench(<PhotoDesk />, photoJob());
    await userEvent.click(await screen.findByRole("button", { name: "Square it up" }));
    await userEvent.click(screen.getByRole("button", { name: "Find its sides" }));
    await waitFor(() => expect(edit).toHaveBeenCalled());
    expect(edit.mock.calls[0]![0]).toMatchObject({ op: "set-picture", id: "p", bend: 0.02 });
  });
});
