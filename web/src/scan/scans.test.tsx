import { act, cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Health } from "../api/client";
import { useArmed } from "../pick/armed";
import { usePicks } from "../pick/picks";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { AlignPicks } from "../steps/AlignPicks";
import { DraftSheet } from "../steps/DraftSheet";
import { PickedFacets } from "../steps/PickedFacets";
import { usePassing } from "../steps/passing";
import { answering, onBench } from "../test/bench";
import { alignFacts } from "../test/facts";
import { light } from "../theme";
import { Legend } from "../view/Legend";
import { usePointed } from "../view/pointed";
import { HealthList } from "./HealthList";
import { NoiseLook } from "./NoiseLook";

const place = (size: number, left = false) => ({
  point: [size, 0, 0],
  normal: [0, 0, 1],
  size,
  facets: [1, 2],
  source: [7],
  left,
});
const health = (left: boolean[]) =>
  ({
    scan: "k0",
    facets: 32_362,
    noise: 0.03,
    unit_guess: null,
    defects: [
      { kind: "hole", count: left.length, blocking: true, places: left.map((l, i) => place(i + 1, l)) },
      { kind: "sliver", count: 1, blocking: false, places: [place(9)] },
    ],
  }) as unknown as Health;

describe("the health list", () => {
  beforeEach(resetBench);

  it("opens at what blocks, and a place is marked by a click", async () => {
    onBench(<HealthList health={health([false, false])} onMend={vi.fn()} />);
    expect(screen.getByRole("button", { name: /2 holes/ })).toHaveAttribute("aria-expanded", "true");
    await userEvent.click(screen.getByRole("button", { name: /2 · 2.00 mm across/ }));
    expect(usePointed.getState().marked).toMatchObject({ point: [2, 0, 0], size: 2, facets: [1, 2] });
  });

  it("says that a kind is left as is only when every place of it is", () => {
    onBench(<HealthList health={health([true, false])} onMend={vi.fn()} />);
    expect(screen.getByText("blocks")).toBeInTheDocument();
    cleanup();
    onBench(<HealthList health={health([true, true])} onMend={vi.fn()} />);
    expect(screen.queryByText("blocks")).toBeNull();
    expect(screen.getAllByText("left as is")).toHaveLength(3);
  });

  it("leaves one place, and fills one hole", async () => {
    const mend = vi.fn();
    const edit = onBench(<HealthList health={health([false, true])} onMend={mend} />);
    await userEvent.click(screen.getByRole("button", { name: "Leave it" }));
    expect(edit).toHaveBeenCalledWith(
      expect.objectContaining({ op: "leave-defect", kind: "hole", point: [1, 0, 0], left: true }),
    );
    await userEvent.click(screen.getByRole("button", { name: "Fill" }));
    expect(mend).toHaveBeenCalledWith("hole", expect.objectContaining({ size: 1 }));
  });

  it("a sound scan says so", () => {
    onBench(<HealthList health={{ ...health([]), defects: [] }} onMend={vi.fn()} />);
    expect(screen.getByText("Nothing is wrong with this scan.")).toBeInTheDocument();
  });
});

describe("an alignment", () => {
  beforeEach(resetBench);

  it("shows what the scan does not agree to, each way in its own figures", () => {
    onBench(
      <AlignPicks params={{ by: "datum" }} facts={alignFacts({ tilt: 0.0741, offset: 0.0123 })} onChange={vi.fn()} />,
    );
    expect(screen.getByText("0.074°")).toBeInTheDocument();
    cleanup();
    onBench(
      <AlignPicks params={{ by: "symmetry" }} facts={alignFacts({ near: 0.98, agree: 0.614 })} onChange={vi.fn()} />,
    );
    expect(screen.getByText("61.4 %")).toBeInTheDocument();
    expect(screen.queryByText("Primary")).toBeNull();
    cleanup();
    onBench(
      <AlignPicks
        params={{ by: "solid" }}
        facts={alignFacts({ rms_fit: 0.0312, p95: 0.07, share: 0.9 })}
        onChange={vi.fn()}
      />,
    );
    expect(screen.getByText("0.031 mm")).toBeInTheDocument();
  });

  it("says that it is searching, and why nothing was found", () => {
    usePassing.getState().set({ looking: true });
    onBench(<AlignPicks params={{ by: "symmetry" }} facts={null} onChange={vi.fn()} />);
    expect(screen.getByRole("status")).toHaveTextContent("finding its place");
    cleanup();
    const refused = { code: "not-symmetric", message: "no plane mirrors this scan onto itself", remedy: "use datums" };
    usePassing.getState().set({ looking: false, refused });
    onBench(<AlignPicks params={{ by: "symmetry" }} facts={null} onChange={vi.fn()} />);
    expect(screen.getByRole("alert")).toHaveTextContent("no plane mirrors this scan onto itself");
  });

  it("what one way came to is not said of the next", async () => {
    useTool.getState().openDraft({ kind: "align", params: { by: "solid", scan: { id: "s" } } });
    usePassing.getState().set({ refused: { code: "not-symmetric", message: "no plane mirrors it" }, looking: false });
    onBench(<DraftSheet after={null} onKeep={vi.fn()} />);
    await waitFor(() => expect(usePassing.getState().refused).toBeNull());
  });

  it("a preview's figures come before those of the step", () => {
    usePassing.getState().set({ laid: { matrix: [], facts: alignFacts({ tilt: 0.5, offset: 0 }) } });
    onBench(<AlignPicks params={{ by: "datum" }} facts={alignFacts({ tilt: 0.1, offset: 0 })} onChange={vi.fn()} />);
    expect(screen.getByText("0.500°")).toBeInTheDocument();
    expect(screen.queryByText("0.100°")).toBeNull();
  });

  it("a pick is armed, and what was picked can be taken out", async () => {
    const change = vi.fn();
    const params = { by: "datum", primary: { seeds: [4], surface: "plane" }, secondary: [], also: [] };
    onBench(<AlignPicks params={params} facts={null} onChange={change} />);
    await userEvent.click(screen.getAllByRole("button", { name: "Pick" })[0]!);
    expect(useArmed.getState().armed).toMatchObject({ hint: "Click the secondary on the scan" });
    await userEvent.click(screen.getByRole("button", { name: "Take out" }));
    expect(change).toHaveBeenCalledWith({ primary: null });
  });

  it("one that is begun waits for its primary at once, then for a direction", async () => {
    const grown = { source_seeds: [7], surface: { kind: "plane" } };
    answering(() => grown);
    useTool.getState().openDraft({ kind: "align", params: { by: "datum" } });
    const change = vi.fn();
    onBench(<AlignPicks params={{ by: "datum" }} facts={null} onChange={change} />);
    expect(useArmed.getState().armed).toMatchObject({ hint: "Click the primary on the scan" });
    act(() => useArmed.getState().armed!.onFacet!(3, [0, 0, 0]));
    expect(useArmed.getState().armed).toMatchObject({ hint: "Click the secondary on the scan" });
    await waitFor(() => expect(change).toHaveBeenCalledWith({ primary: { seeds: [7], surface: "plane" } }));
    cleanup();
    expect(useArmed.getState().armed).toBeNull();
  });
});

describe("picked facets", () => {
  beforeEach(resetBench);

  it("what is drawn already is taken at once, and only once", async () => {
    usePicks.getState().setHand(Uint32Array.of(3, 4, 5), [0, 0, 0]);
    const kept = { blob: "b".repeat(64), count: 3 };
    const asked = answering(() => kept);
    const change = vi.fn();
    onBench(<PickedFacets value={null} onChange={change} />);
    await waitFor(() => expect(change).toHaveBeenCalledWith(kept));
    expect(asked).toHaveLength(1);
    cleanup();
    onBench(<PickedFacets value={kept} onChange={change} />);
    expect(screen.getByText("3 facets taken")).toBeInTheDocument();
    expect(screen.queryByRole("button")).toBeNull();
    expect(asked).toHaveLength(1);
  });

  it("asks for a lasso where nothing is drawn", () => {
    onBench(<PickedFacets value={null} onChange={vi.fn()} />);
    expect(screen.getByText("draw around facets with the lasso first")).toBeInTheDocument();
  });
});

describe("the noise of a scan", () => {
  beforeEach(resetBench);

  it("shows where it is on request, and stops", async () => {
    const here = btoa(String.fromCharCode(...new Uint8Array(Float32Array.from([0.02, 0.1]).buffer)));
    const asked = answering(() => ({ noise: 0.03, here }));
    onBench(<NoiseLook facets="2 facets" noise={0.03} />);
    expect(asked).toHaveLength(0);
    const where = screen.getByRole("switch", { name: "Show where the scan is how noisy" });
    await userEvent.click(where);
    await waitFor(() => expect(usePointed.getState().noise?.values[1]).toBeCloseTo(0.1));
    expect(usePointed.getState().noise?.still).toBeCloseTo(0.045);
    await userEvent.click(where);
    expect(usePointed.getState().noise).toBeNull();
  });

  it("offers no map of a scan without noise", () => {
    onBench(<NoiseLook facets="12 facets" noise={0} />);
    expect(screen.queryByRole("switch")).toBeNull();
  });

  it("has a legend that begins at nothing", () => {
    onBench(<Legend acceptance={0.03} what="noise" unit="mm" palette={light} />);
    const legend = screen.getByRole("complementary");
    expect(legend).toHaveTextContent("up to 0.03");
    expect(legend).toHaveTextContent("over 0.12");
    expect(legend.textContent).not.toContain("−");
  });
});
