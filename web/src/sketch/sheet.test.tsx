import { act, fireEvent, render, screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { onBench } from "../test/bench";
import { plate } from "../test/plate";
import { Chips } from "./Chips";
import { HoldTools } from "./HoldTools";
import { chipPlaces } from "./places";
import { broughtIn, RedrawIt } from "./RedrawIt";
import { SizeLabels } from "./SizeLabels";
import { useHand } from "./store";
import { WaysOut } from "./WaysOut";

const SHEET = { a: 5, b: 0, c: 0, d: -5, e: 100, f: 300 };
const NONE: ReadonlySet<string> = new Set();

describe("ways out of a contradiction", () => {
  it("are offered for everything that takes part, sizes as something that only reads", () => {
    const act = vi.fn();
    onBench(<WaysOut shown={plate({ solved: false, conflicts: [["c:0", "d:0"]] })} act={act} />);
    expect(screen.getByRole("alert")).toHaveTextContent("These cannot all hold: level (l1) · width = 40 mm");
    fireEvent.click(screen.getByRole("button", { name: "Let width only read" }));
    expect(act).toHaveBeenCalledWith([expect.objectContaining({ act: "change-size", demand: "d:0", reference: true })]);
    fireEvent.click(screen.getByRole("button", { name: "Take away level (l1)" }));
    expect(act).toHaveBeenLastCalledWith([{ act: "release", demands: ["c:0"] }]);
  });
  it("say so where nothing contradicts itself and yet nothing was found", () => {
    onBench(<WaysOut shown={plate({ solved: false })} act={vi.fn()} />);
    expect(screen.getByRole("alert")).toHaveTextContent("could not be solved");
  });
});

describe("chips", () => {
  it("show what is asked of what is chosen, and take it away", () => {
    const act = vi.fn();
    useHand.getState().drop();
    useHand.getState().set({ chosen: ["l3"] });
    render(<Chips shown={plate()} sheet={SHEET} torn={NONE} act={act} />);
    fireEvent.click(screen.getByRole("button", { name: "Take away equal of l1, l3" }));
    expect(act).toHaveBeenCalledWith([{ act: "release", demands: ["c:1"] }]);
    fireEvent.click(screen.getByRole("button", { name: "equal" }));
    expect(useHand.getState().chosen).toEqual(["c:1"]);
  });
  it("of many pieces show only what holds the one that is pointed at", () => {
    useHand.getState().drop();
    useHand.getState().set({ chosen: ["l1", "l2", "l3", "l4"] });
    render(<Chips shown={plate()} sheet={SHEET} torn={NONE} act={vi.fn()} />);
    expect(screen.queryByRole("button", { name: "equal" })).toBeNull();
    act(() => useHand.getState().set({ over: "l3" }));
    expect(screen.getByRole("button", { name: "equal" })).toBeInTheDocument();
    act(() => useHand.getState().drop());
  });
  it("stand one below the other where they would cover each other", () => {
    const shown = plate();
    const chips = ["c:0", "c:1", "c:2"].map((id) => ({ id, of: ["l1"] }));
    const [a, b, c] = chipPlaces(shown, SHEET, chips);
    expect(b![1] - a![1]).toBeGreaterThan(20);
    expect(c![1] - b![1]).toBeGreaterThan(20);
  });
});

describe("sizes on the drawing", () => {
  it("are typed anew where they stand", () => {
    const act = vi.fn();
    onBench(<SizeLabels shown={plate()} sheet={SHEET} torn={NONE} act={act} />);
    fireEvent.click(screen.getByRole("button", { name: "40.00 mm" }));
    const box = screen.getByLabelText("Value of width");
    fireEvent.change(box, { target: { value: "45 mm" } });
    fireEvent.keyDown(box, { key: "Enter" });
    expect(act).toHaveBeenCalledWith([expect.objectContaining({ demand: "d:0", value: "45 mm" })]);
  });
  it("stand in brackets where they only read", () => {
    const shown = plate();
    const sizes = shown.drawing.sizes!.map((s) => ({ ...s, reference: true }));
    onBench(
      <SizeLabels shown={{ ...shown, drawing: { ...shown.drawing, sizes } }} sheet={SHEET} torn={NONE} act={vi.fn()} />,
    );
    expect(screen.getByRole("button", { name: "(40.00 mm)" })).toBeInTheDocument();
  });
});

describe("what was brought in", () => {
  const linked = () => {
    const { drawing, ...rest } = plate();
    const entities = Object.fromEntries(Object.entries(drawing.entities!).map(([id, e]) => [id, { ...e, linked: id !== "c1" }])); // biome-ignore format: one line
    return { ...rest, drawing: { ...drawing, entities } };
  };
  it("is redrawn as a whole, or as far as it is chosen", () => {
    const act = vi.fn(async () => plate());
    useHand.getState().set({ chosen: [] });
    onBench(<RedrawIt shown={linked()} act={act} />);
    fireEvent.click(screen.getByRole("button", { name: "Redraw the 4 with sizes" }));
    expect(act).toHaveBeenCalledWith([{ act: "redraw", of: ["l1", "l2", "l3", "l4"] }]);
    expect(broughtIn(linked(), ["l2", "c1"])).toEqual(["l2"]);
  });
  it("is left out where a piece of the drawing's own lies on it already, whichever way it runs", () => {
    const shown = linked();
    const { entities } = shown.drawing;
    const own = { ...entities, m1: { ...entities.l1!, linked: false } };
    const paths = { ...shown.paths, m1: [...shown.paths.l1!].reverse() };
    expect(broughtIn({ ...shown, paths, drawing: { ...shown.drawing, entities: own } }, [])).toEqual([
      "l2",
      "l3",
      "l4",
    ]);
  });
  it("is not offered where there is nothing of it", () => {
    onBench(<RedrawIt shown={plate()} act={vi.fn()} />);
    expect(screen.queryByRole("button")).toBeNull();
  });
});

describe("holding", () => {
  it("offers what makes sense for just what is chosen", () => {
    const act = vi.fn();
    useHand.getState().set({ chosen: ["l1", "l2"] });
    onBench(<HoldTools shown={plate()} act={act} />);
    expect(screen.queryByRole("button", { name: "touch" })).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "square" }));
    expect(act).toHaveBeenCalledWith([{ act: "relate", kind: "perpendicular", of: ["l1", "l2"], value: null }]);
  });
});
