import { beforeEach, describe, expect, it } from "vitest";
import type { Job } from "../api/queries";
import { resetBench } from "../shell/reset";
import { answering, onBench, result, sampleJob } from "../test/bench";
import { boxed, setStage } from "../test/staged";
import { useAppearance } from "./appearance";
import { PinLabels } from "./PinLabels";
import { project } from "./stage";

const frame = { current: (): void => undefined };
const reading = (id: string, name: string, at: [number, number, number], on = "s") => ({ id, name, kind: "reading", quantity: "length", takes: [], pin: { on, at }, unit: "mm" }); // biome-ignore format: one object
const facts = { mean: 12.03, U95: 0.004, tolerance: null, dimension: "length", unit: "mm" };

/** The sample job with two readings on its scan, one on another, and a probe. */
function pinned(): Job {
  const job = sampleJob();
  const evidence = [
    { id: "s", kind: "scan", name: "Scan", unit: "mm" },
    reading("a", "Width", [5, 0, 0]),
    reading("b", "Bore", [-5, 3, 0]),
    reading("c", "Elsewhere", [0, 0, 0], "other"),
  ];
  const probes = [{ id: "p", name: "A", point: [0, -6, 0], facet: 3 }];
  return {
    ...job,
    readings: { a: facts },
    recipe: { ...job.recipe, evidence, probes },
    build: { ...job.build, result: { ...result, fit: { ...result.fit!, probes: { p: -0.31 } } } },
  } as unknown as Job;
}
const labels = () => [...document.querySelectorAll<HTMLElement>(".pin span")].map((s) => s.textContent);
/** Lays the labels out as a screen would: each 90 by 18 pixels in a view of 800 by 600. */
function laid() {
  boxed(document.querySelector(".pins")!, 10, 20, 800, 600);
  for (const span of document.querySelectorAll(".pin span")) {
    Object.defineProperty(span, "offsetWidth", { configurable: true, value: 90 });
    Object.defineProperty(span, "offsetHeight", { configurable: true, value: 18 });
  }
  frame.current();
}
const shift = (el: HTMLElement) => el.style.transform.match(/-?[\d.]+/g)!.map(Number) as [number, number];

describe("what is pinned on the scan", () => {
  beforeEach(() => {
    resetBench();
    setStage();
    answering(() => null);
  });

  it("are the readings taken on it, with what they say; of another scan's nothing", () => {
    onBench(<PinLabels gaps={[]} coloured={false} onFrame={frame} />, pinned());
    expect(labels()).toEqual(["Width 12.030 mm ± 0.0040", "Bore no takes yet"]);
  });

  it("probes say how far the place is off, while that is shown in colours", () => {
    onBench(<PinLabels gaps={[]} coloured onFrame={frame} />, pinned());
    expect(labels()).toContain("A −0.310 mm");
  });

  it("gaps that a section is closed over say which they are in its sheet, and how wide", () => {
    const gap = { start: [0, 0], end: [2, 0], middle: [1, 0, 0], how: "meet", options: ["meet"], length: 2 } as never;
    onBench(<PinLabels gaps={[gap]} coloured={false} onFrame={frame} />, pinned());
    expect(labels()).toContain("Gap 1 2.00 mm");
  });

  it("stand at their places, with labels beside each other and leaders to them", () => {
    onBench(<PinLabels gaps={[]} coloured={false} onFrame={frame} />, pinned());
    laid();
    const pins = [...document.querySelectorAll<HTMLElement>(".pin")];
    const seen = project([5, 0, 0]);
    expect(shift(pins[0]!)).toEqual([seen.x - 10, seen.y - 20].map((v) => expect.closeTo(v, 3)));
    const boxes = pins.map((pin) => {
      const [x, y] = shift(pin);
      const [dx, dy] = shift(pin.lastElementChild as HTMLElement);
      return { left: x + dx, top: y + dy };
    });
    const apart = Math.abs(boxes[0]!.left - boxes[1]!.left) >= 90 || Math.abs(boxes[0]!.top - boxes[1]!.top) >= 18;
    expect(apart).toBe(true);
    const line = document.querySelector(".pin-leaders line")!;
    expect(Number(line.getAttribute("x1"))).toBeCloseTo(seen.x - 10, 1);
  });

  it("what lies behind the camera has no label", () => {
    const { camera } = setStage();
    onBench(<PinLabels gaps={[]} coloured={false} onFrame={frame} />, pinned());
    laid();
    camera.position.set(0, 0, -100); // still looking down
    camera.updateMatrixWorld();
    frame.current();
    expect([...document.querySelectorAll<HTMLElement>(".pin")].every((p) => p.hidden)).toBe(true);
  });

  it("what is hidden has none either", () => {
    useAppearance.setState({ hidden: ["b"] });
    onBench(<PinLabels gaps={[]} coloured={false} onFrame={frame} />, pinned());
    expect(labels()).toEqual(["Width 12.030 mm ± 0.0040"]);
  });

  it("where there is no room for all, it says how many are left out", () => {
    const job = pinned();
    const many = Array.from({ length: 120 }, (_, k) => reading(`m${k}`, `M${k}`, [0.01 * k, 0, 0]));
    const evidence = [...job.recipe.evidence, ...many];
    onBench(<PinLabels gaps={[]} coloured={false} onFrame={frame} />, {
      ...job,
      recipe: { ...job.recipe, evidence },
    } as Job);
    laid();
    expect(document.querySelector(".pins-folded")).toHaveTextContent(/^\d+ more labels than there is room for$/);
  });
});
