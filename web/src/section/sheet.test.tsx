import { cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { SectionOut } from "../api/client";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { answering, onBench, sampleJob } from "../test/bench";
import { AlongFace } from "./AlongFace";
import { plainSection } from "./draft";
import { PlaneControls } from "./PlaneControls";
import { PutRight } from "./PutRight";
import { structureOf } from "./pieces";
import { Several } from "./Several";
import { TradeOff } from "./TradeOff";
import { WhereToCut } from "./WhereToCut";

const piece = (kind: "line" | "arc", part = {}) => ({ kind, start: [0, 0], end: [4, 0], mid: null, points: [], radius: null, length: 4, rms: 0.01, path: [], ...part }); // biome-ignore format: one object
const fitted = { offset_mm: 0, origin: [0, 0, 0], u_axis: [1, 0, 0], normal: [0, 0, 1], pose: [], tolerance: 0.08, cuts: [], loops: [{ closed: true, relations: [], length: 9, area: 4, pieces: [piece("line"), piece("line"), piece("arc", { mid: [2, 1] })] }], runout: null } as unknown as SectionOut; // biome-ignore format: one object
const open = (part = {}) =>
  useTool
    .getState()
    .openSection({ ...plainSection, region: null, origin: [0, 0, 0], normal: [0, 0, 1], offset: "0 mm", ...part });

beforeEach(() => {
  resetBench();
  open();
});

describe("what a section may be", () => {
  it("a dot of the trade-off curve sets the tolerance", async () => {
    answering(() => [
      { tolerance: 0.04, pieces: 20, free: 1, rms: 0.01 },
      { tolerance: 0.08, pieces: 9, free: 0, rms: 0.02 },
      { tolerance: 0.32, pieces: 5, free: 0, rms: 0.06 },
    ]);
    onBench(<TradeOff tolerance={0.08} />, sampleJob());
    const dots = await screen.findAllByRole("button", { name: /pieces at/ });
    expect(dots).toHaveLength(3);
    expect(dots[1]).toHaveClass("now");
    await userEvent.click(dots[2]!);
    expect(useTool.getState().section).toMatchObject({ tolerance: "0.32 mm", left: null, edited: null });
  });

  it("a plane in a face says so and moves beside it on a click", async () => {
    open({ turnU: 3, left: ["0-0"] });
    onBench(<AlongFace along={{ area: 7174, below: -10.15, above: -9.8 }} />, sampleJob());
    expect(screen.getByText(/runs along a face/)).toBeInTheDocument();
    expect(screen.getByText(/cuts noise/)).toHaveTextContent("7,174 mm²");
    await userEvent.click(screen.getByRole("button", { name: /9\.80/ }));
    expect(useTool.getState().section).toMatchObject({ offset: "-9.8 mm", left: null, edited: null });
    expect(screen.getByRole("button", { name: /10\.15/ })).toBeInTheDocument();
  });

  it("where nothing is left beside the face it says what else to do", () => {
    onBench(<AlongFace along={{ area: 12, below: null, above: null }} />, sampleJob());
    expect(screen.getByText(/move it into the part/)).toBeInTheDocument();
    expect(screen.queryByRole("button")).toBeNull();
  });

  it("a plane that belongs to nothing can stand across another of the part's directions", async () => {
    answering(() => []);
    open({ normal: [1, 0, 0], turnU: 3 });
    onBench(<PlaneControls />, sampleJob());
    await userEvent.click(screen.getByText("z"));
    expect(useTool.getState().section).toMatchObject({ normal: [0, 0, 1], turnU: 0 });
    cleanup();
    open({ region: "r" });
    onBench(<PlaneControls />, sampleJob());
    expect(screen.queryByText("across")).toBeNull();
  });

  it("a place to cut moves the plane there, square again", async () => {
    open({ turnU: 12 });
    answering(() => [{ offset: -6.234, steady: 7.5, pieces: 5, loops: 2, rms: 0.02, free: 0, leaning: 0.3, open_share: 0, paths: [[[0, 0], [4, 0], [4, 3]]] }]); // biome-ignore format: one row
    onBench(<WhereToCut />, sampleJob());
    await userEvent.click(screen.getByText("Where to cut"));
    const offer = await screen.findByRole("button", { name: /5 pieces in 2 loops/ });
    expect(offer).toHaveTextContent("alike over 7.50 mm");
    expect(offer).toHaveTextContent("30 % leans");
    await userEvent.click(offer);
    expect(useTool.getState().section).toMatchObject({ offset: "-6.23 mm", turnU: 0 });
  });

  it("several planes stand side by side, and the outline is taken from the one that is chosen", async () => {
    const planes = [0, 5, 10].map((z) => ({ origin: [0, 0, z], normal: [0, 0, 2], cuts: z < 10 ? [{ points: "", closed: true }] : [] })); // biome-ignore format: three planes
    const asked = answering(() => planes);
    onBench(<Several />, sampleJob());
    expect(screen.getByRole("radio", { name: "fan" })).toBeDisabled();
    await userEvent.click(screen.getByText("parallel"));
    await waitFor(() => expect(asked.at(-1)?.body).toMatchObject({ kind: "parallel", count: 5, step: 5 }));
    expect(await screen.findByRole("button", { name: "3" })).toBeDisabled();
    await userEvent.click(screen.getByRole("button", { name: "2" }));
    expect(useTool.getState().section).toMatchObject({
      region: null,
      origin: [0, 0, 5],
      normal: [0, 0, 1],
      offset: "0 mm",
      several: null,
    });
  });

  it("what nearly holds is held on request and let go again", async () => {
    answering(() => [
      { loop: 0, kind: "parallel", first: "e1", second: "e2", off: 0.4, rms: 0.02, rms_held: 0.021 },
      { loop: 0, kind: "square", first: "e1", second: "e2", off: 1.9, rms: 0.02, rms_held: null },
    ]);
    onBench(<PutRight fitted={fitted} />, sampleJob());
    await userEvent.click(screen.getByText("Put right"));
    expect(await screen.findByText(/off by 0\.40°, rms 0\.020 mm → 0\.021 mm/)).toBeInTheDocument();
    const [first, second] = screen.getAllByRole("button", { name: "Hold" });
    expect(second).toBeDisabled();
    await userEvent.click(first!);
    expect(useTool.getState().section!.edited![0]!.relations).toEqual([
      { kind: "parallel", first: "e1", second: "e2" },
    ]);
    expect(screen.getByText("Put right (1 held)")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "hold no more" }));
    expect(useTool.getState().section!.edited![0]!.relations).toEqual([]);
    expect(structureOf(fitted)[0]!.pieces.map((p) => p.id)).toEqual(["e1", "e2", "e3"]);
  });
});
