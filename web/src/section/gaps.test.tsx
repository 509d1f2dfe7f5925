import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { SectionOut } from "../api/client";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { onBench, sampleJob } from "../test/bench";
import { drawingOf } from "../view/paths";
import { plainSection } from "./draft";
import { Gaps } from "./Gaps";
import { structureOf } from "./pieces";
import { drawnPieces, takenLoops } from "./taken";

const line = { kind: "line", start: [0, 0], end: [9, 0], mid: null, points: [], radius: null, ellipse: null, length: 9, rms: 0.01, path: [[0, 0, 0], [9, 0, 0]] }; // biome-ignore format: one object
const partly = { ...line, assumed: false, unseen: [[[4, 0, 0], [6, 0, 0]]], seen: [[[0, 0, 0], [4, 0, 0]], [[6, 0, 0], [9, 0, 0]]] }; // biome-ignore format: one object
const wholly = { ...line, assumed: true, unseen: [line.path], seen: [] };
const gap = (x: number, part = {}) => ({ start: [x, 0], end: [x + 2, 0], middle: [x + 1, 0, 0], how: "one piece", options: ["one piece", "line"], length: 2, ...part }); // biome-ignore format: one object
const closed = { closed: true, explained: true, bridged: true, length: 40, area: 90, reach: null, pieces: [partly, wholly, { ...line, assumed: false, unseen: [], seen: [] }] }; // biome-ignore format: one object
const section = (part = {}) =>
  ({ offset_mm: 0, origin: [0, 0, 0], u_axis: [1, 0, 0], normal: [0, 0, 1], pose: [], tolerance: 0.08, cuts: [], loops: [closed], gaps: [gap(4), gap(20, { how: "line", length: 6 })], runout: null, ...part }) as unknown as SectionOut; // biome-ignore format: one object
const open = (part = {}) =>
  useTool
    .getState()
    .openSection({ ...plainSection, region: null, origin: [0, 0, 0], normal: [0, 0, 1], offset: "0 mm", ...part });
const draft = () => useTool.getState().section!;

beforeEach(() => {
  resetBench();
  open();
});

describe("gaps of a section", () => {
  it("tell how many there are, and what of the outline is assumed", () => {
    onBench(<Gaps fitted={section()} />, sampleJob());
    expect(screen.getByText(/2 gaps are bridged/)).toHaveTextContent("8.00 mm of the outline (20 %) is assumed");
    expect(screen.getByText(/Gap 2/)).toHaveTextContent("6.00 mm");
  });

  it("are bridged another way one by one, and what was chosen for others stays", async () => {
    open({ wishes: [{ near: [21, 0], how: "arc" }] });
    onBench(<Gaps fitted={section()} />, sampleJob());
    await userEvent.click(screen.getByRole("combobox", { name: "How gap 1 is bridged" }));
    await userEvent.click(await screen.findByTitle("stays open"));
    expect(draft().wishes).toEqual([
      { near: [21, 0], how: "arc" },
      { near: [5, 0], how: "open" },
    ]);
  });

  it("at a corner that was seen to turn go on square", () => {
    const gaps = [gap(4, { how: "square", options: ["square", "line"] })];
    onBench(<Gaps fitted={section({ gaps })} />, sampleJob());
    expect(screen.getByTitle("square corner")).toBeInTheDocument();
  });

  it("one left open is told, and proposed again on request", async () => {
    open({ wishes: [{ near: [5, 0], how: "open" }] });
    onBench(<Gaps fitted={section({ gaps: [] })} />, sampleJob());
    await userEvent.click(screen.getByRole("button", { name: "Propose again" }));
    expect(draft().wishes).toEqual([]);
  });

  it("are filled from where the part is alike, before it is cut", async () => {
    onBench(<Gaps fitted={section()} />, sampleJob());
    await userEvent.click(screen.getByRole("button", { name: /side that is alike/ }));
    expect(useTool.getState().draft).toMatchObject({
      kind: "counterpart",
      params: { scan: { id: "s" }, by: "mirror" },
    });
  });

  it("that a mend has closed are said to be made, not scanned", () => {
    const loops = [{ ...closed, bridged: false }];
    onBench(<Gaps fitted={section({ gaps: [], loops })} />, sampleJob());
    expect(screen.getByText(/dotted was not scanned/)).toBeInTheDocument();
    expect(screen.queryByRole("checkbox")).toBeNull();
  });

  it("are not spoken of where the scan has none", () => {
    onBench(<Gaps fitted={section({ gaps: [] })} />, sampleJob());
    expect(screen.queryByRole("checkbox")).toBeNull();
  });

  it("can be bridged again where nobody wanted it", async () => {
    open({ bridge: false });
    onBench(<Gaps fitted={section({ gaps: [], loops: [{ ...closed, closed: false }] })} />, sampleJob());
    await userEvent.click(screen.getByRole("checkbox", { name: "Bridge gaps in the scan" }));
    expect(draft().bridge).toBe(true);
  });

  it("that nothing bridges are told", () => {
    onBench(<Gaps fitted={section({ gaps: [], loops: [{ ...closed, closed: false }] })} />, sampleJob());
    expect(screen.getByText(/found nothing to be joined to/)).toBeInTheDocument();
  });

  it("what another plane shows has gaps of its own", () => {
    open({ wishes: [{ near: [5, 0], how: "open" }] });
    useTool.getState().recut({ offset: "3 mm" });
    expect(draft().wishes).toEqual([]);
  });
});

describe("assumed stretches", () => {
  it("are drawn apart from what was seen", () => {
    const drawing = drawingOf(drawnPieces(section(), []), 1);
    expect(drawing.assumed).toHaveLength(2 * 6);
    expect(drawing.line).toHaveLength(3 * 6);
    const left = drawingOf(drawnPieces(section(), ["0.0", "0.1"]), 1);
    expect(left.assumed).toHaveLength(0);
  });

  it("are taken as such, so that a rebuild knows what to leave alone", () => {
    const [loop] = takenLoops(section(), []);
    expect(loop!.bridged).toBe(true);
    expect(loop!.pieces.map((p) => p.assumed)).toEqual([false, true, false]);
    expect(structureOf(section())[0]!.pieces.map((p) => p.assumed)).toEqual([false, true, false]);
  });
});
