import { fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { onBench } from "../test/bench";
import { plate } from "../test/plate";
import { frameOf } from "./drawing";
import { FileFold } from "./FileFold";
import { AS_IT_IS, type FlatFile, layersTaken, toldOnce } from "./flatFile";
import { useHand } from "./store";
import { layWords, withSheets } from "./underSheets";

const FRAME = frameOf([0, 0, 0], [1, 0, 0], [0, 0, 1]);
const READ: FlatFile = {
  name: "plate.dxf",
  unit_mm: null,
  said: false,
  likely: "inch",
  size: [4, 2],
  layers: [
    { name: "rim", pieces: 4, hidden: false },
    { name: "axes", pieces: 2, hidden: true },
  ],
  pieces: 4,
  words: 1,
  strokes: 0,
  act: { act: "put-in", entities: {}, under: null, within: null },
  paths: [
    [
      [0, 0],
      [9, 0],
    ],
  ],
  left_out: [
    { kind: "LINE", layer: "0", why: "not flat", at: [1, 2], count: 1 },
    { kind: "LINE", layer: "0", why: "not flat", at: [5, 6], count: 1 },
    { kind: "HATCH", layer: "0", why: "not a kind that is drawn here", at: null, count: 3 },
  ],
  refused: null,
};

const answers = { asked: [] as Record<string, unknown>[], with: {} as object };

const bringIn = () => {
  const file = new File(["0"], "plate.dxf");
  fireEvent.change(screen.getByLabelText("DXF or SVG file"), { target: { files: [file] } });
};

describe("a file that is brought in", () => {
  beforeEach(() => {
    answers.asked = [];
    answers.with = READ;
    vi.stubGlobal("fetch", async () => new Response(JSON.stringify(answers.with)));
    vi.spyOn(FormData.prototype, "append").mockImplementation((name: string, value: unknown) => {
      if (name === "file") answers.asked.push({});
      else answers.asked.at(-1)![name] = value;
    });
    useHand.getState().leave();
  });

  it("is looked at first, and asked about its unit before it can be put in", async () => {
    const act = vi.fn(async () => plate());
    onBench(<FileFold frame={FRAME} shown={plate()} act={act} />);
    bringIn();
    expect(await screen.findByText(/It does not say its unit/)).toBeInTheDocument();
    expect(screen.getByText("101.60 mm × 50.80 mm large, if it is in inch")).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Choose its unit first" })).toBeDisabled();
    expect(useHand.getState().read?.name).toBe("plate.dxf");
    answers.with = { ...READ, unit_mm: 25.4 };
    fireEvent.click(screen.getByText("inch"));
    const put = await screen.findByRole("button", { name: "Put it in" });
    expect(answers.asked.at(-1)).toMatchObject({ unit: "inch", blocks: "false" });
    await waitFor(() => expect(put).toBeEnabled());
    fireEvent.click(put);
    expect(act).toHaveBeenCalledWith([{ ...READ.act, within: 0.05 }]);
    await waitFor(() => expect(useHand.getState().read).toBeNull());
  });

  it("comes along by layers, and tells once what was left out and how often", async () => {
    answers.with = { ...READ, unit_mm: 1, said: true };
    onBench(<FileFold frame={FRAME} shown={plate()} act={vi.fn()} />);
    bringIn();
    expect(await screen.findByText("5 left out")).toBeInTheDocument();
    expect(screen.getByText(/2 × line: not flat/)).toBeInTheDocument();
    fireEvent.click(screen.getByRole("checkbox", { name: /axes/ }));
    await waitFor(() => expect(answers.asked.at(-1)).toMatchObject({ layers: '["rim","axes"]' }));
    fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
    expect(screen.queryByText("5 left out")).toBeNull();
  });

  it("that has too much says what to do, and nothing is put in", async () => {
    const refused = {
      code: "bad-params",
      message: "a drawing cannot have that many entities",
      remedy: "let it lie under",
    };
    answers.with = { ...READ, unit_mm: 1, act: null, refused: { ...refused, got: null, need: null, where: {} } };
    onBench(<FileFold frame={FRAME} shown={plate()} act={vi.fn()} />);
    bringIn();
    expect(await screen.findByRole("alert")).toHaveTextContent("Try: let it lie under");
    expect(screen.getByRole("button", { name: "Put it in" })).toBeDisabled();
  });

  it("that lies under the sketch can be lifted", () => {
    const act = vi.fn(async () => plate());
    const shown = plate();
    const under = [
      { name: "print.svg", lines: [], texts: [{ at: [0, 0] as [number, number], text: "boss", height: 3, turn: 0 }] },
    ];
    onBench(<FileFold frame={FRAME} shown={{ ...shown, drawing: { ...shown.drawing, under } }} act={act} />);
    expect(screen.getByText(/print.svg lies under it: 0 lines, 1 text/)).toBeInTheDocument();
    fireEvent.click(screen.getByRole("button", { name: "Lift it" }));
    expect(act).toHaveBeenCalledWith([{ act: "lift", name: "print.svg" }]);
  });
});

it("layers are those that are switched on until somebody chooses", () => {
  expect(layersTaken(READ, AS_IT_IS)).toEqual(["rim"]);
  expect(layersTaken(READ, { ...AS_IT_IS, layers: ["axes"] })).toEqual(["axes"]);
  expect(toldOnce(READ.left_out).map((r) => [r.kind, r.count, r.at])).toEqual([
    ["LINE", 2, [1, 2]],
    ["HATCH", 3, null],
  ]);
});

it("sheets are snapped to, and words lie on the plane as they were written", () => {
  const lines: [number, number][][] = [
    [
      [0, 0],
      [5, 0],
    ],
    [[7, 7]],
  ];
  const under = withSheets({ paths: [], ends: [] }, [{ name: "a", lines, texts: [] }]);
  expect(under).toEqual({
    paths: [lines[0]],
    ends: [
      [0, 0],
      [5, 0],
    ],
  });
  // Seen square, up is up: a unit along is 5 pixels to the right, and what is under the words 5 pixels down.
  expect(layWords({ a: 5, b: 0, c: 0, d: -5, e: 100, f: 300 }, [2, 4], 0)).toBe(
    "matrix(5.0000 0.0000 0.0000 5.0000 110.0000 280.0000)",
  );
});
