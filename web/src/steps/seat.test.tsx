import { act, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { FaceFacts } from "../api/client";
import { useArmed } from "../pick/armed";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { type Asked, answering, onBench, sampleJob } from "../test/bench";
import { setStage } from "../test/staged";
import { usePointed } from "../view/pointed";
import { stage } from "../view/stage";
import { type SeatPair, SeatPairs, type SeatRow } from "./SeatPairs";

const face = (name: string, kind = "plane"): FaceFacts => ({ name, label: `face ${name}`, kind, beside: [], area: 9, centre: [4, 5, 6], axis: [0, 0, 1] }) as FaceFacts; // biome-ignore format: one object
const faces = [face("top"), face("bore", "cylinder"), face("rim"), face("wave", "freeform")];
const found = [
  { face: "top", region: "r", seed: 0, offset: 0.21, tilt: 0.1, shift: 0, facets: 900, before: 0.22, after: 0.02 },
  { face: "bore", region: null, seed: 31, offset: -0.1, tilt: 0.4, shift: 0.05, facets: 300, before: 0.11, after: 0.03 },
]; // biome-ignore format: a table
const pair = (name: string): SeatPair => ({ face: { body: "x", name, kind: "plane", beside: [], place: [4, 5, 6] }, region: { id: "r" }, seeds: [] }); // biome-ignore format: one object

const answers = () =>
  answering((a) => {
    if (a.method === "POST" && a.url.endsWith("/seats")) return { id: "q", status: "queued", problem: null, result: null }; // biome-ignore format: one answer
    if (a.url.includes("/seats/q")) {
      const wanted = (asked.at(-1)?.faces as string[] | null) ?? null;
      return { id: "q", status: "done", problem: null, result: { pairs: found.filter((f) => !wanted || wanted.includes(f.face)) } }; // biome-ignore format: one answer
    }
    if (a.url.includes("/faces")) return faces;
    if (a.url.endsWith("/grow")) return { source_seeds: [77], facets: "" };
    return null;
  });
const asked: { faces: unknown }[] = [];
const orders = (log: Asked[]) => log.filter((a) => a.method === "POST" && a.url.endsWith("/seats")).map((a) => a.body as { faces: unknown; after: string }); // biome-ignore format: one line

/** Keeps the pairs as the sheet does. */
function Sheet({
  step,
  start,
  rows = [],
  unseated = null,
}: {
  step: string | null;
  start: SeatPair[];
  rows?: SeatRow[];
  unseated?: string[] | null;
}) {
  // biome-ignore format: one line
  const [pairs, set] = useState(start);
  return (
    <>
      <SeatPairs step={step} body="x" pairs={pairs} rows={rows} unseated={unseated} onChange={set} />
      <output>{JSON.stringify(pairs)}</output>
    </>
  );
}
const kept = () => JSON.parse(screen.getByRole("status").textContent!) as SeatPair[];
const names = () => kept().map((p) => p.face.name);

describe("pairs of a seat", () => {
  beforeEach(() => {
    resetBench();
    setStage();
    asked.length = 0;
    asked.push({ faces: null });
  });

  it("begin with the tool's own proposal, on the regions that are kept or grown from a pick", async () => {
    const log = answers();
    onBench(<Sheet step={null} start={[]} />);
    await waitFor(() => expect(names()).toEqual(["top", "bore"]));
    expect(kept()[0]).toMatchObject({ region: { id: "r" }, seeds: [] });
    expect(kept()[1]).toMatchObject({ region: null, seeds: [31], face: { kind: "cylinder" } });
    expect(orders(log)).toHaveLength(1);
    expect(orders(log)[0]).toMatchObject({ faces: null, after: "x" });
    expect(screen.getByText("2 of 4 faces have a region opposite them")).toBeInTheDocument();
    expect(screen.getByText("0.220 → 0.020")).toBeInTheDocument();
  });

  it("of a step that stands nothing is proposed until that is asked for", async () => {
    const log = answers();
    onBench(<Sheet step="x" start={[pair("top")]} />);
    await screen.findByText("1 pair · rms before → after");
    expect(orders(log)).toEqual([]);
    await userEvent.click(screen.getByRole("button", { name: "Propose all" }));
    await waitFor(() => expect(names()).toEqual(["top", "bore"])); // what was paired stays as it was
    expect(kept()[0]).toEqual(pair("top"));
  });

  it("a face left out is among those that stay, and is looked for again by a click on it", async () => {
    const log = answers();
    onBench(<Sheet step={null} start={[]} />);
    await waitFor(() => expect(names()).toEqual(["top", "bore"]));
    await userEvent.click(screen.getByRole("button", { name: "Leave face bore out" }));
    expect(names()).toEqual(["top"]);
    expect(screen.getByText("3 faces stay as they are")).toBeInTheDocument();
    asked.push({ faces: ["bore"] });
    await userEvent.click(screen.getByText("3 faces stay as they are"));
    await userEvent.click(screen.getByRole("button", { name: "face bore" }));
    await waitFor(() => expect(names()).toEqual(["top", "bore"]));
    expect(orders(log).at(-1)).toMatchObject({ faces: ["bore"] });
  });

  it("how they came out is said: seated or refused, and why; a lost one can be repaired", async () => {
    answers();
    const rows: SeatRow[] = [
      { face: "top", pair: 0, status: "seated", before: 0.3, after: 0.01, offset: 0.3, tilt: 0, shift: 0, facets: 12 },
      { face: "gone", pair: 1, status: "refused", reason: "the face is no longer there", code: "ref-lost" },
    ] as SeatRow[]; // biome-ignore format: a table
    onBench(<Sheet step="x" start={[pair("top"), pair("gone")]} rows={rows} unseated={["rim"]} />);
    expect(await screen.findByText(/2 pairs, 1 seated/)).toBeInTheDocument();
    expect(screen.getByText(/refused: the face is no longer there/)).toBeInTheDocument();
    expect(screen.getByText("1 face stays as it is")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "repair" }));
    expect(useTool.getState().repair).toMatchObject({ step: "x", place: "pairs[1].face" });
  });

  it("what lies on its region within the noise stays, with the reason, and is no refusal", async () => {
    answers();
    const rows = [
      { face: "top", pair: 0, status: "stands", before: 0.021, after: 0.021, offset: -0.003, reason: "it would open the solid" },
    ] as SeatRow[]; // biome-ignore format: a table
    onBench(<Sheet step="x" start={[pair("top")]} rows={rows} unseated={[]} />);
    expect(await screen.findByText(/1 pair, 0 seated, 1 as they are/)).toBeInTheDocument();
    expect(screen.getByText(/stays, within the noise: .*0\.003 mm off; it would open the solid/)).toBeInTheDocument();
    expect(screen.queryByText(/refused/)).toBeNull();
  });

  it("a pair of a draft keeps its own row when one before it is left out", async () => {
    answers();
    const rows = [
      { face: "top", pair: 0, status: "refused", reason: "the region is too small" },
      { face: "bore", pair: 1, status: "seated", before: 0.4, after: 0.02 },
    ] as SeatRow[]; // biome-ignore format: a table
    onBench(<Sheet step={null} start={[pair("top"), pair("bore")]} rows={rows} />);
    expect(await screen.findByText(/refused: the region is too small/)).toBeInTheDocument();
    await userEvent.click(await screen.findByRole("button", { name: "Leave face top out" }));
    expect(screen.getByText("0.400 → 0.020")).toBeInTheDocument();
    expect(screen.queryByText(/refused:/)).toBeNull();
  });

  it("points at the face of a row, and goes there", async () => {
    answers();
    onBench(<Sheet step="x" start={[pair("top")]} />);
    const name = await screen.findByRole("button", { name: "top" }); // before it the body has no faces yet
    await userEvent.hover(name);
    expect(usePointed.getState().offered).toEqual({ body: "x", name: "top" });
    await userEvent.click(name);
    expect(stage.now!.controls!.target.toArray()).toEqual([4, 5, 6]);
  });

  it("are made by hand: a face, then the region it should lie on", async () => {
    const log = answers();
    onBench(<Sheet step="x" start={[pair("top")]} />);
    await userEvent.click(await screen.findByRole("button", { name: "Pair by hand" }));
    const armed = () => useArmed.getState().armed!;
    expect(armed().hint).toMatch(/face to seat/);
    act(() => armed().onFace!({ body: "x", key: "k3", index: 1, face: faces[1]! }));
    expect(armed().hint).toMatch(/region of the scan/);
    act(() => armed().onFacet!(400, [0, 0, 0]));
    await waitFor(() => expect(names()).toEqual(["top", "bore"]));
    expect(kept()[1]).toMatchObject({ region: null, seeds: [77] });
    expect(log.find((a) => a.url.endsWith("/grow"))?.body).toMatchObject({ seeds: [400], surface: "cylinder" });
    // And the next one, until Escape.
    expect(armed().hint).toMatch(/face to seat/);
    act(() => armed().onFace!({ body: "x", key: "k3", index: 2, face: faces[2]! }));
    act(() => armed().onFacet!(500, [0, 0, 0]));
    await waitFor(() => expect(names()).toEqual(["top", "bore", faces[2]!.name]));
  });

  it("or the region first; pairing anew replaces, and it can be left", async () => {
    answers();
    onBench(<Sheet step="x" start={[pair("top")]} />);
    await userEvent.click(await screen.findByRole("button", { name: "Pair by hand" }));
    await userEvent.click(screen.getByRole("button", { name: "region first" }));
    const armed = () => useArmed.getState().armed!;
    act(() => armed().onFacet!(400, [0, 0, 0]));
    act(() => armed().onFace!({ body: "x", key: "k3", index: 0, face: faces[0]! }));
    await waitFor(() => expect(kept()[0]).toMatchObject({ region: null, seeds: [77] }));
    expect(names()).toEqual(["top"]);
    expect(armed().hint).toMatch(/region of the scan/);
    await userEvent.click(screen.getByRole("button", { name: "Stop pairing" }));
    expect(useArmed.getState().armed).toBeNull();
  });

  it("tells when nothing can be proposed, and stops looking", async () => {
    vi.stubGlobal("fetch", () => Promise.resolve(new Response("no", { status: 500 })));
    const tell = vi.fn();
    onBench(<Sheet step="x" start={[pair("top")]} />, sampleJob(), tell);
    await userEvent.click(screen.getByRole("button", { name: "Propose all" }));
    await waitFor(() => expect(tell).toHaveBeenCalled());
    expect(screen.queryByText(/looking for the region/)).not.toBeInTheDocument();
    expect(names()).toEqual(["top"]);
  });
});
