import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { onBench } from "../test/bench";
import { plate } from "../test/plate";
import { toScreen, type XY } from "./drawing";
import { FigureBeside } from "./FigureBeside";
import { PhotoRow } from "./PhotoRow";
import {
  type Beside,
  figureText,
  LAY,
  type LaidPicture,
  type Laying,
  laidFirst,
  laidSaid,
  pictureTransform,
  type UnderPicture,
} from "./pictures";
import { useHand } from "./store";

const mm = (n: number, digits = 0) => `${n.toFixed(2 + digits)} mm`;
const UNDER: UnderPicture = { picture: "p", px: [800, 600], at: [1, 2], turn: 0, mirrored: false };
const LAID: LaidPicture = {
  picture: "p",
  name: "plate.jpg",
  size: [1600, 1200],
  matrix: [0.1, 0, 0, -0.1, -80, 60],
  mm_per_px: 0.1,
  figures: [],
  problem: null,
};
const laying: Laying = { under: UNDER, larger: 1.0004, doubted: false, rms: 0.021, edges: 1240 };

const sketch = { id: "k", kind: "sketch", name: "Sketch", params: {}, enabled: true, note: "", group: "" };

describe("a picture under a drawing", () => {
  it("lies on the screen where its pixels lie in the plane", () => {
    const sheet = { a: 3, b: 0.5, c: -0.5, d: -3, e: 100, f: 50 };
    const [a, b, c, d, e, f] = pictureTransform(sheet, LAID.matrix!).slice(7, -1).split(" ").map(Number) as [
      number,
      number,
      number,
      number,
      number,
      number,
    ];
    const [px, py] = [200, 300];
    const there = toScreen(sheet, [0.1 * px - 80, -0.1 * py + 60]);
    expect(a * px + c * py + e).toBeCloseTo(there[0], 1);
    expect(b * px + d * py + f).toBeCloseTo(there[1], 1);
  });

  it("begins in the middle of what is drawn, or where one looks", () => {
    const picture = { id: "p", width: 1601, height: 1201 };
    expect(laidFirst(picture, [], [7, 8])).toMatchObject({ px: [800, 600], at: [7, 8] });
    const paths: XY[][] = [
      [
        [0, 0],
        [40, 20],
      ],
      [[10, 30]],
    ];
    const drawn = laidFirst(picture, paths, [7, 8]);
    expect(drawn.at).toEqual([20, 15]);
  });

  it("says how it was laid, and whether its scale agrees", () => {
    expect(laidSaid(laying, mm)).toBe(
      "Laid by 1,240 places of its edges, rms 0.021 mm. Its scale agrees with the sketch (0.04 % apart).",
    );
    const doubted = laidSaid({ ...laying, larger: 0.98, doubted: true, edges: null, rms: null }, mm);
    expect(doubted).toContain("Laid by two places. The sketch is 2.00 % smaller");
    expect(doubted).toContain("known length");
  });

  it("is moved by numbers, turned over, taken in hand by two places, and taken away", () => {
    const does = { pictures: [UNDER], busy: false, put: vi.fn(), lift: vi.fn(), change: vi.fn(), lay: vi.fn() };
    useHand.getState().leave();
    onBench(<PhotoRow under={UNDER} laid={LAID} laying={does} />);
    expect(screen.getByText("10.0 pixels per mm")).toBeInTheDocument();
    fireEvent.change(screen.getByLabelText("2nd, mm"), { target: { value: "7.5" } });
    expect(does.change).toHaveBeenCalledWith("p", { at: [1, 7.5] });
    fireEvent.click(screen.getByRole("checkbox", { name: "Seen from behind" }));
    expect(does.change).toHaveBeenLastCalledWith("p", { mirrored: true });
    fireEvent.click(screen.getByRole("button", { name: "By its edges" }));
    expect(does.lay).toHaveBeenCalledWith({ id: "p" });
    fireEvent.click(screen.getByRole("button", { name: "By two places" }));
    expect(useHand.getState()).toMatchObject({ tool: LAY, way: "p" });
    fireEvent.click(screen.getByRole("button", { name: "By two places" }));
    expect(useHand.getState().tool).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Take it away" }));
    expect(does.lift).toHaveBeenCalledWith("p");
  });

  it("that has no scale says so, and can be opened or taken away", () => {
    const does = { pictures: [UNDER], busy: false, put: vi.fn(), lift: vi.fn(), change: vi.fn(), lay: vi.fn() };
    const where = {
      step: null,
      param: null,
      value: null,
      entity: null,
      facets: [],
      point: null,
      file: null,
      line: null,
    };
    const problem = {
      offer: null,
      code: "bad-params" as const,
      message: "it has no scale yet",
      got: null,
      need: null,
      remedy: "give it one",
      where,
    };
    onBench(<PhotoRow under={UNDER} laid={{ ...LAID, matrix: null, mm_per_px: null, problem }} laying={does} />);
    expect(screen.getByRole("alert")).toHaveTextContent("it has no scale yet");
    expect(screen.queryByRole("button", { name: "By its edges" })).toBeNull();
    expect(screen.getByRole("button", { name: "Open the picture" })).toBeInTheDocument();
  });
});

describe("a figure beside a size", () => {
  const beside: Beside = {
    size: "width",
    reading: "long",
    source: "drawing",
    text: "long",
    value: 40.5,
    tolerance: 0.2,
    off: -0.5,
    allowed: false,
  };
  it("is written with its tolerance, and an angle in degrees", () => {
    expect(figureText({ value: 40.5, tolerance: 0.2 }, mm)).toBe("40.50 mm ±0.20");
    expect(figureText({ value: 45, angle: true, tolerance: null }, mm)).toBe("45.00°");
  });

  it("says whether the drawing would pass the size, and holds it once it is taken", async () => {
    const edit = onBench(<FigureBeside beside={beside} kept={plate().drawing} step={sketch} />);
    expect(screen.getByText(/outside its tolerance/)).toBeInTheDocument();
    fireEvent.click(screen.getByRole("button", { name: "Take it" }));
    await waitFor(() => expect(edit).toHaveBeenCalled());
    expect(edit).toHaveBeenCalledWith({
      op: "set-params",
      step: "k",
      params: { lengths: { width: { text: "long", mark: "drawing", note: "as long states it" } } },
    });
  });

  it("that holds the size already is not offered", () => {
    const kept = { ...plate().drawing, lengths: { width: { text: "long", mark: "drawing" as const, note: "" } } };
    onBench(<FigureBeside beside={beside} kept={kept} step={sketch} />);
    expect(screen.getByText("holds it")).toBeInTheDocument();
    expect(screen.queryByRole("button", { name: "Take it" })).toBeNull();
  });
});
