import { act, cleanup, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { SolidFileFacts } from "../api/client";
import type { Job } from "../api/queries";
import { SolidRow } from "../job/evidence/SolidRow";
import { useTool } from "../sheets/tool";
import { SolidQuestion } from "../shelf/SolidQuestion";
import { resetBench } from "../shell/reset";
import { DraftSheet } from "../steps/DraftSheet";
import { kindView } from "../steps/kindViews";
import { StepForm } from "../steps/StepForm";
import { useKeepDraft } from "../steps/useKeepDraft";
import { answering, emptyPreview, onBench, result, sampleJob } from "../test/bench";
import { useAppearance } from "../view/appearance";
import { useArmed } from "./armed";
import { EdgeCard } from "./EdgeCard";
import { useHover } from "./hover";
import { usePicks } from "./picks";
import type { EdgeFacts } from "./useBorders";

const edge = (name: string, part: Partial<EdgeFacts> = {}): EdgeFacts => ({
  name,
  label: `edge ${name}`,
  kind: "line",
  faces: [0, 1],
  ends: ["c"],
  length: 12,
  smooth: false,
  border: false,
  next: [],
  centre: [1, 2, 3],
  ...part,
});
const borders = { corners: [], edges: [edge("a|b", { next: [1] }), edge("b|c", { next: [0] }), edge("c|d")] };
const picked = (index: number) => ({ body: "x", key: "k3", index, edge: borders.edges[index]! });
const refOf = (name: string) => ({ body: "x", edge: name, kind: "line", ends: ["c"], place: [1, 2, 3] });

describe("edges in hand", () => {
  beforeEach(() => {
    resetBench();
    answering(({ url }) => (url.includes("/borders") ? borders : emptyPreview)); // biome-ignore format: one answer
  });

  it("the card says what is picked and begins the kinds that take it, with the edges where they belong", async () => {
    usePicks.getState().pickEdge(picked(0), [0, 0, 0], false);
    usePicks.getState().pickEdge(picked(2), [0, 0, 0], true);
    onBench(<EdgeCard />);
    expect(screen.getByRole("heading")).toHaveTextContent("2 edges");
    expect(screen.queryByRole("button", { name: /Axis/ })).not.toBeInTheDocument(); // that takes one alone
    await userEvent.click(screen.getByRole("button", { name: /Fillet/ }));
    expect(useTool.getState().draft).toMatchObject({
      kind: "fillet",
      params: { edges: [refOf("a|b"), refOf("c|d")], radius: { text: "1 mm" } },
    });
    expect(usePicks.getState().edges).toEqual([]);
  });

  it("widens to what runs on, and Shift takes one out again", async () => {
    usePicks.getState().pickEdge(picked(0), [0, 0, 0], false);
    onBench(<EdgeCard />);
    await userEvent.click(await screen.findByRole("button", { name: "All 2 that run on" }));
    expect(usePicks.getState().edges.map((e) => e.index)).toEqual([0, 1]);
    usePicks.getState().pickEdge(picked(1), [0, 0, 0], true);
    expect(usePicks.getState().edges.map((e) => e.index)).toEqual([0]);
  });

  it("a smooth edge begins nothing, and says why", () => {
    usePicks.getState().pickEdge({ ...picked(0), edge: edge("a|b", { smooth: true }) }, [0, 0, 0], false);
    onBench(<EdgeCard />);
    expect(screen.getByText(/no edge to work on/)).toBeInTheDocument();
    expect(screen.queryByRole("button", { name: /Fillet/ })).not.toBeInTheDocument();
  });
});

/** A form that keeps what is put into it. */
function Kept({ kind, start }: { kind: string; start: Record<string, unknown> }) {
  const [params, set] = useState(start);
  return (
    <>
      <StepForm kind={kind} params={params} step={null} onChange={(part) => set((p) => ({ ...p, ...part }))} />
      <output>{JSON.stringify(params)}</output>
    </>
  );
}
const said = () => JSON.parse(screen.getByRole("status").textContent!);

describe("lists of parts and of rows", () => {
  beforeEach(resetBench);

  it("a list is picked into one after the other; the same again takes it out", async () => {
    answering(() => borders);
    onBench(<Kept kind="fillet" start={{ edges: [], radius: { text: "1 mm" }, more: [] }} />);
    await userEvent.click(screen.getByRole("button", { name: "Pick in the view" }));
    const armed = () => useArmed.getState().armed!;
    expect(armed().hint).toBe("Click edges for 'edges', or a face for all around it");
    armed().onEdge!(picked(0));
    await waitFor(() => expect(said().edges).toEqual([refOf("a|b")]));
    armed().onFace!({
      body: "x",
      key: "k3",
      index: 0,
      face: { name: "f", kind: "plane", beside: [], centre: [0, 0, 0] } as never,
    });
    await waitFor(() => expect(said().edges).toHaveLength(2));
    expect(screen.getByText("all edges of a plane")).toBeInTheDocument();
    armed().onEdge!(picked(0));
    await waitFor(() => expect(said().edges.map((e: { name?: string }) => e.name)).toEqual(["f"]));
    await userEvent.click(screen.getByRole("button", { name: "Remove all edges of a plane" }));
    expect(said().edges).toEqual([]);
    await userEvent.click(screen.getByRole("button", { name: "Done picking" }));
    expect(useArmed.getState().armed).toBeNull();
  });

  it("a list that goes while it is picked into waits for nothing any more, and leaves another's pick alone", async () => {
    answering(() => borders);
    const fillet = <Kept kind="fillet" start={{ edges: [], radius: { text: "1 mm" }, more: [] }} />;
    onBench(fillet);
    await userEvent.click(screen.getByRole("button", { name: "Pick in the view" }));
    expect(useArmed.getState().armed).not.toBeNull();
    cleanup();
    expect(useArmed.getState().armed).toBeNull();
    onBench(fillet);
    const other = { hint: "Click another face", onFace: () => undefined };
    act(() => useArmed.getState().arm(other));
    cleanup();
    expect(useArmed.getState().armed).toBe(other);
  });

  it("without a mouse: arrow keys walk the edges, each is shown, Enter takes it", async () => {
    answering(() => borders);
    onBench(<Kept kind="fillet" start={{ edges: [], radius: { text: "1 mm" }, more: [] }} />);
    await userEvent.click(screen.getByRole("button", { name: "Pick in the view" }));
    await userEvent.click(screen.getByRole("button", { name: "From a list" }));
    await waitFor(() => expect(screen.getAllByRole("option")).toHaveLength(3));
    expect(useHover.getState().edge).toEqual({ key: "k3", edge: 0 });
    screen.getByRole("listbox", { name: "Edges" }).focus();
    await userEvent.keyboard("{ArrowDown}{ArrowDown}{ArrowDown}{Enter}");
    expect(useHover.getState().edge).toEqual({ key: "k3", edge: 2 });
    await waitFor(() => expect(said().edges).toEqual([refOf("c|d")]));
    expect(screen.getAllByRole("option")[2]).toHaveAttribute("aria-selected", "true");
    await userEvent.keyboard(" ");
    await waitFor(() => expect(said().edges).toEqual([]));
    await userEvent.type(screen.getByRole("textbox", { name: "Find among the edges" }), "round");
    expect(screen.getByText("None is like that.")).toBeInTheDocument();
  });

  it("a new row counts once its edges are picked, and its radius is a value of its own", async () => {
    answering(() => borders);
    onBench(<Kept kind="fillet" start={{ edges: [refOf("a|b")], radius: { text: "1 mm" }, more: [] }} />);
    await userEvent.click(screen.getByRole("button", { name: "Add other radii" }));
    expect(said().more).toEqual([]);
    const row = screen.getByRole("group", { name: "Other radii 1" });
    await userEvent.click(row.querySelector("button")!);
    useArmed.getState().armed!.onEdge!(picked(2));
    await waitFor(() => expect(said().more).toEqual([{ edges: [refOf("c|d")], radius: { text: "2 mm" } }]));
    await userEvent.click(screen.getByRole("button", { name: "Remove these" }));
    expect(said().more).toEqual([]);
  });

  it("nothing is previewed before there is an edge", async () => {
    const asked = answering(() => emptyPreview);
    useTool.getState().openDraft({ kind: "fillet", params: { edges: [], radius: { text: "1 mm" } } });
    onBench(<DraftSheet after={null} onKeep={vi.fn()} />);
    expect(screen.getByRole("button", { name: /^Fillet/ })).toBeDisabled();
    useTool.getState().setDraft({ edges: [refOf("a|b")] });
    await waitFor(() => expect(asked.some((a) => a.url.includes("/preview"))).toBe(true));
    expect(screen.getByRole("button", { name: /^Fillet/ })).toBeEnabled();
  });
});

const facts: SolidFileFacts = {
  bodies: [
    { name: "Side plate", colour: "#8a9aa5", closed: true, faces: 30 },
    { name: "Cover", colour: null, closed: false, faces: 4 },
  ],
  faces: 34,
  unit_mm: 1,
  size: [6.3, 3.5, 0.4],
  sewn: false,
  doubt: "inch",
};

describe("solids from files", () => {
  beforeEach(resetBench);

  it("the question says what is in the file, and doubts its unit", async () => {
    const asked = answering(() => ({ id: "j1" }));
    const done = vi.fn();
    onBench(
      <SolidQuestion
        upload={{ id: "u", name: "side_plate.step" } as never}
        facts={facts}
        onDone={done}
        onCancel={vi.fn()}
      />,
    );
    expect(screen.getByText(/2 bodies with 34 faces/)).toBeInTheDocument();
    expect(screen.getByText(/One of them is open/)).toBeInTheDocument();
    expect(screen.getByText(/Is it in inch\?/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Begin the job" }));
    expect(asked.at(-1)?.body).toEqual({ upload: "u", name: "side plate", unit: "inch" });
    await waitFor(() => expect(done).toHaveBeenCalledWith("j1"));
  });

  it("a doubted unit is settled with one click in the list, and its unit can be changed at any time", async () => {
    const job = sampleJob();
    const solid = {
      id: "f",
      kind: "solid",
      name: "side_plate.step",
      blob: "b",
      format: "step",
      unit: null,
      earlier: [],
    };
    const problems = [{ code: "unit-unknown", message: "?", where: { file: "side_plate.step" } }];
    const held = {
      ...job,
      evidence_facts: [{ id: "f", facts }],
      build: { ...job.build, result: { ...job.build.result!, problems } },
    } as unknown as Job;
    const edit = onBench(<SolidRow evidence={solid as never} />, held);
    await userEvent.click(screen.getByRole("button", { name: "It is in inch" }));
    expect(edit).toHaveBeenLastCalledWith({ op: "set-solid", id: "f", unit: "inch", said: false });
    await userEvent.click(screen.getByRole("button", { name: /side_plate.step/ }));
    expect(
      await screen.findByText(/6.3 × 3.5 × 0.4 mm · 2 bodies, 34 faces|6.30 × 3.50 × 0.40 mm/),
    ).toBeInTheDocument();
    await userEvent.click(screen.getByText("mm, as it says"));
    await userEvent.click(screen.getByText("inch", { selector: ".ant-segmented-item-label" }));
    expect(edit).toHaveBeenLastCalledWith({ op: "set-solid", id: "f", unit: "inch", said: false });
  });
});

describe("a copy of a body", () => {
  beforeEach(resetBench);

  it("is hidden when it is kept, for it lies just where the body does, and leads back to itself", async () => {
    function Keep() {
      const keep = useKeepDraft();
      return (
        <button type="button" onClick={() => void keep()}>
          keep
        </button>
      );
    }
    useTool.getState().openDraft({ kind: "copy", params: { body: { id: "x" } } });
    const edit = onBench(<Keep />);
    await userEvent.click(screen.getByText("keep"));
    const { id } = edit.mock.calls[0]![0] as { id: string };
    await waitFor(() => expect(useTool.getState().step).toBe(id));
    expect(useAppearance.getState().hidden).toEqual([id]);
    const { Actions } = kindView("copy");
    const step = { ...sampleJob().recipe.steps[2]!, id, kind: "copy", params: { body: { id: "x" } } };
    onBench(Actions ? <Actions step={step} state={result.steps[2]!} /> : null);
    await userEvent.click(screen.getByRole("button", { name: "Put the body back to this" }));
    expect(useTool.getState().draft).toEqual({ kind: "restore", params: { body: { id: "x" }, copy_of_it: { id } } });
  });
});
