import { act, cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { StepFacts, StepState } from "../api/build";
import { useArmed } from "../pick/armed";
import { useOffered } from "../pick/offered";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { answering, declared, field, onBench, sampleJob } from "../test/bench";
import { measured, planeFacts } from "../test/facts";
import { inchFraction } from "../units";
import { FromRegion } from "./FromRegion";
import { MeasureSheet } from "./MeasureSheet";
import { PlaceField } from "./PlaceField";
import { placeSaid, takesOf } from "./placePick";
import { factsOf, figuresOf, mainFigure, measuresOf, type Placed, placesOf, planeCorners } from "./places";

const state = (id: string, facts: StepFacts, part: Partial<StepState> = {}): StepState => ({ id, kind: "x", name: id.toUpperCase(), status: "ok", key: id, facts, problems: [], values: {}, after: {}, scans: {}, cached: false, seconds: 0, ...part }) as StepState; // biome-ignore format: one object

beforeEach(resetBench);

describe("figures of a measurement", () => {
  it("come with their expanded uncertainty, the main one first", () => {
    const rows = figuresOf(
      measured({ distance: 12.034, u: 0.004, angle: 0.02, u_angle: 0.01, dx: 0, dy: -5, dz: 1 }),
      "mm",
    );
    expect(rows[0]).toEqual(["distance", "12.034 mm", "± 0.008 mm"]);
    expect(rows.map((r) => r[0])).toEqual(["distance", "angle", "along x", "along y", "along z"]);
    expect(mainFigure(measured({ diameter: 8, u_diameter: 0.01 }), "mm")).toBe("Ø 8.000 mm ± 0.020 mm");
    expect(mainFigure(measured(), "mm")).toBe("");
  });

  it("in inches stand beside the nearest fraction and what is left over", () => {
    expect(inchFraction(12.7)).toEqual({ text: "1/2 inch", rest: 0 });
    expect(inchFraction(25.4 * 1.375)!.text).toBe("1 3/8 inch");
    expect(inchFraction(0.05)).toBeNull();
    expect(inchFraction(-25.4 / 64)!.text).toBe("−1/64 inch");
    const rows = figuresOf(measured({ distance: 12.75 }), "inch");
    expect(rows[1]![0]).toBe("nearest fraction");
    expect(rows[1]![1]).toBe("1/2 inch");
    expect(rows[1]![2]).toMatch(/^\+0\.0020 inch$/);
  });

  it("areas, volumes, turns and pitch have their own units", () => {
    expect(figuresOf(measured({ area: 200 }), "mm")[0]![1]).toBe("200.0 mm²");
    expect(figuresOf(measured({ volume: 25.4 ** 3 }), "inch")[0]![1]).toBe("1 inch³");
    expect(figuresOf(measured({ pitch: 1.5, u: 0.001, turns: 4.25 }), "mm").map((r) => r[1])).toEqual([
      "1.500 mm",
      "4.25",
    ]);
  });
});

describe("places", () => {
  const steps = [
    state("a", planeFacts({ origin: [0, 0, 5] })),
    state("b", planeFacts({ shape: "axis", origin: [1, 0, 0], direction: [0, 1, 0], reach: 4 })),
    state("c", measured({ distance: 3, start: [0, 0, 0], end: [0, 0, 3] })),
    state("d", planeFacts({ shape: "point", origin: [9, 9, 9] }), { status: "failed" }),
  ];

  it("are those of finished steps up to the one that is looked at, and of what is being prepared", () => {
    expect(placesOf(factsOf(steps, {}, null)).map((p) => p.id)).toEqual(["a", "b"]);
    expect(placesOf(factsOf(steps, {}, "a")).map((p) => p.id)).toEqual(["a"]);
    const moved = placesOf(factsOf(steps, { a: planeFacts({ origin: [0, 0, 7] }) }, null));
    expect(moved.find((p) => p.id === "a")).toMatchObject({ origin: [0, 0, 7], passing: true });
    expect(measuresOf(factsOf(steps, {}, null), "mm")).toEqual([{ id: "c", name: "C", passing: false, text: "3.000 mm", from: [0, 0, 0], to: [0, 0, 3] }]); // biome-ignore format: one row
  });

  it("a plane is drawn as a square of its reach in itself", () => {
    const corners = planeCorners({ id: "", name: "", shape: "plane", origin: [0, 0, 5], direction: [0, 0, 1], reach: 2, passing: false } as Placed); // biome-ignore format: one object
    for (const c of corners) expect(c[2]).toBe(5);
    const [p, q] = [corners[0]!, corners[1]!];
    expect(Math.hypot(p[0] - q[0], p[1] - q[1])).toBeCloseTo(4);
  });
});

describe("on the bench", () => {
  it("a measurement begins with what is measured, and the unit can be switched", async () => {
    const edit = onBench(<MeasureSheet />, sampleJob());
    expect(screen.getByText(/Nothing is measured yet/)).toBeInTheDocument();
    await userEvent.click(screen.getByText("inch"));
    await waitFor(() => expect(edit).toHaveBeenCalledWith({ op: "set-job", unit: "inch" }));
    await userEvent.click(screen.getByRole("button", { name: "Wall" }));
    expect(useTool.getState().draft).toMatchObject({ kind: "measurement", params: { what: "thickness" } });
  });

  it("a region offers what it can give", async () => {
    onBench(<FromRegion region="r" shape="cylinder" diameter={null} />, sampleJob());
    await userEvent.click(screen.getByRole("button", { name: "Axis" }));
    expect(useTool.getState().draft).toMatchObject({ kind: "axis", params: { by: "round", axis: { id: "r" } } });
    await userEvent.click(screen.getByRole("button", { name: "Measurement" }));
    expect(useTool.getState().draft?.params).toMatchObject({ what: "size", first: { id: "r" } });
    // As wide and as long as it was found, and on the body that is there.
    await userEvent.click(screen.getByRole("button", { name: "Cylinder" }));
    expect(useTool.getState().draft).toMatchObject({
      kind: "primitive",
      params: { as_found: true, axis: { id: "r" }, operation: "add" },
    });
    expect(screen.queryByRole("button", { name: "Hole" })).toBeNull();
    cleanup();
    onBench(<FromRegion region="r" shape="hole" diameter="10.17 mm" />, sampleJob());
    await userEvent.click(screen.getByRole("button", { name: "Hole" }));
    expect(useTool.getState().draft).toMatchObject({
      kind: "hole",
      params: { by: "axes", axes: [{ id: "r" }], diameter: { text: "10.17 mm", mark: "scan" } },
    });
  });

  it("a place is chosen from the list, or waits for one pick in the view and takes it", async () => {
    const given: Record<string, unknown>[] = [];
    const asked = answering(({ url }) => (url.includes("/spot") ? { facet: 7, weights: [1, 0, 0] } : []));
    const first = field("first", { type: "ref", reference: "place", optional: true, ids: true, parts: ["face"] });
    onBench(
      <PlaceField
        field={first}
        value={null}
        spot={{ name: "first_spot", value: null }}
        offers={[{ value: "p", label: "Base top" }]}
        step={null}
        onChange={(part) => given.push(part)}
      />,
      sampleJob(),
    );
    await userEvent.click(screen.getByRole("button", { name: "Spot" }));
    expect(useArmed.getState().armed).toMatchObject({ hint: "Click a spot on the scan for 'first'" });
    expect(useArmed.getState().armed?.onFace).toBeUndefined();
    useArmed.getState().armed!.onFacet!(3, [1, 2, 3]);
    await waitFor(() => expect(given.at(-1)).toEqual({ first: null, first_spot: { facet: 7, weights: [1, 0, 0] } }));
    expect(asked.at(-1)?.body).toMatchObject({ facet: 3, point: [1, 2, 3] });
    expect(useArmed.getState().armed).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: /^Pick / }));
    const { armed } = useArmed.getState();
    expect(armed?.hint).toBe("Click a surface for 'first'");
    expect([armed?.onFace, armed?.onFacet].every(Boolean)).toBe(true);
    expect(armed?.onEdge).toBeUndefined();
  });

  it("a place takes an edge of a body where its kind of reference does", async () => {
    const given: Record<string, unknown>[] = [];
    const first = field("first", { type: "ref", reference: "place", ids: true, parts: ["face", "edge"] });
    onBench(
      <PlaceField
        field={first}
        value={null}
        spot={null}
        offers={[]}
        step={null}
        onChange={(part) => given.push(part)}
      />,
    );
    await userEvent.click(screen.getByRole("button", { name: /^Pick / }));
    const { armed } = useArmed.getState();
    expect(armed).toMatchObject({ hint: "Click a surface or an edge for 'first'" });
    const edge = { name: "a|b", kind: "circle", ends: [], centre: [1, 2, 3] };
    armed!.onEdge!({ body: "x", key: "k", index: 0, edge: edge as never });
    expect(given).toEqual([{ first: { body: "x", edge: "a|b", kind: "circle", ends: [], place: [1, 2, 3] } }]);
    expect(useArmed.getState().armed).toBeNull();
  });

  it("a point takes corners, centres and middles; what a reference is, is said in words", () => {
    const { references } = declared;
    const point = field("point", { type: "ref", reference: "point", parts: ["face", "edge", "vertex", "entity"] });
    const takes = takesOf(point, references.point);
    expect(takes).toMatchObject({ region: false, spots: ["corner", "centre", "middle"], pieces: true });
    expect(takes.said).toBe("a corner, a centre, a middle or a line of a sketch");
    const axis = field("axis", { type: "ref", reference: "axis", parts: ["face", "edge", "entity"] });
    expect(takesOf(axis, references.axis)).toMatchObject({ region: true, edge: true, spots: [], pieces: true });
    const whole = (id: string) => (id === "x" ? "Block" : undefined);
    expect(placeSaid({ body: "x", vertex: "a" }, whole)).toBe("corner of Block");
    expect(placeSaid({ body: "x", edge: "a", kind: "circle" }, whole)).toBe("round edge of Block");
    expect(placeSaid({ body: "y", name: "f", kind: "plane" }, whole)).toBe("plane of a body");
    expect(placeSaid({ sketch: "x", entity: "e1" }, whole)).toBe("piece of Block");
    expect(placeSaid({ id: "x" }, whole)).toBe("");
  });

  it("the corner of a list is taken by the keyboard, shown before in the view", async () => {
    const given: Record<string, unknown>[] = [];
    const point = field("point", { type: "ref", reference: "point", parts: ["edge", "vertex"] });
    onBench(
      <PlaceField field={point} value={null} spot={null} offers={[]} step={null} onChange={(p) => given.push(p)} />,
    );
    await userEvent.click(screen.getByRole("button", { name: /^Pick / }));
    const ref = { body: "x", vertex: "a|b|c", place: [1, 2, 3] as [number, number, number] };
    act(() => useOffered.getState().offer([{ key: "s", mark: "corner", at: [1, 2, 3], said: "corner", ref }], []));
    await userEvent.click(screen.getByRole("button", { name: "From a list" }));
    await userEvent.click(screen.getByText("spots"));
    expect(useOffered.getState().over?.key).toBe("s");
    screen.getByRole("listbox", { name: "Spots" }).focus();
    await userEvent.keyboard("{Enter}");
    expect(given).toEqual([{ point: ref }]);
    expect(useOffered.getState().over).toBeNull();
  });
});
