import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useRef } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { answering, onBench, sampleJob } from "../test/bench";
import { addBlock, addScan, blockFaces, boxed, setStage } from "../test/staged";
import { usePointed } from "../view/pointed";
import { project } from "../view/stage";
import { useArmed } from "./armed";
import { usePicks } from "./picks";
import { UnderPointer } from "./UnderPointer";

const told = vi.fn();

function Viewed() {
  const host = useRef<HTMLDivElement>(null);
  return (
    <div ref={host} data-testid="view">
      <UnderPointer host={host} />
    </div>
  );
}

/** Asks what lies under a place in space. */
async function ask(p: [number, number, number], dragged = 0) {
  const view = screen.getByTestId("view");
  boxed(view, 10, 20, 800, 600);
  const { x, y } = project(p);
  fireEvent.pointerDown(view, { button: 2, clientX: x, clientY: y });
  fireEvent.contextMenu(view, { clientX: x + dragged, clientY: y });
  if (!dragged) await waitFor(() => expect(screen.queryByText("looking …")).not.toBeInTheDocument());
}
const rows = () => screen.getAllByRole("menuitem").map((r) => r.textContent);

describe("what lies under the pointer", () => {
  beforeEach(() => {
    resetBench();
    setStage();
    told.mockReset();
    answering(({ url }) => (url.includes("/faces") ? blockFaces : url.includes("/borders") ? { corners: [], edges: [] } : url.includes("/regions-at") ? ["r"] : null)); // biome-ignore format: one answer
  });

  it("is listed near to far, also what is covered, with how much farther each lies", async () => {
    addScan(20, 14);
    addBlock("x", 20);
    addBlock("low", 40, [0, 0, -60]);
    onBench(<Viewed />, sampleJob(), told);
    await ask([3, 2, 14]);
    expect(screen.getByRole("menu", { name: "Under the pointer" })).toBeInTheDocument();
    const said = rows();
    expect(said[0]).toMatch(/Scan, facet \d+.*front/);
    expect(said[1]).toMatch(/Region 'Top'.*front/);
    expect(said.find((r) => r?.startsWith("Body 'Block'"))).toMatch(/\+4\.0+ mm/); // 14 - 10
    expect(said.filter((r) => r?.includes("face +z"))).toHaveLength(2); // of both bodies
    expect(said.at(-1)).toMatch(/\+5[34]\.\d+ mm/); // 14 + 40, seen a little aslant
  });

  it("picks what is chosen from it", async () => {
    addScan(20, 14);
    addBlock("x", 20);
    onBench(<Viewed />, sampleJob(), told);
    await ask([3, 2, 14]);
    await userEvent.click(screen.getByRole("menuitem", { name: /face \+z/ }));
    expect(usePicks.getState().faces.map((f) => f.face.name)).toEqual(["+z"]);
    expect(screen.queryByRole("menu")).not.toBeInTheDocument();
    await ask([3, 2, 14]);
    await userEvent.click(screen.getByRole("menuitem", { name: /Body 'Block'/ }));
    expect(usePicks.getState().bodies).toEqual([{ body: "x", key: "key-x" }]);
    await ask([3, 2, 14]);
    await userEvent.click(screen.getByRole("menuitem", { name: /Region 'Top'/ }));
    expect(useTool.getState().step).toBe("r");
    await ask([3, 2, 14]);
    await userEvent.click(screen.getByRole("menuitem", { name: /Scan, facet/ }));
    expect(usePicks.getState().seeds).toHaveLength(1);
  });

  it("shows the face meanwhile, and no longer once the list is left", async () => {
    addBlock("x", 20);
    onBench(<Viewed />, sampleJob(), told);
    await ask([3, 2, 10]);
    await userEvent.hover(screen.getByRole("menuitem", { name: /face \+z/ }));
    expect(usePointed.getState().offered).toEqual({ body: "x", name: "+z" });
    fireEvent.mouseLeave(screen.getByRole("menu"));
    expect(usePointed.getState().offered).toBeNull();
  });

  it("gives what waits for a pick only what it can take", async () => {
    addScan(20, 14);
    addBlock("x", 20);
    const onFace = vi.fn();
    onBench(<Viewed />, sampleJob(), told);
    act(() => useArmed.getState().arm({ hint: "Pick a face", onFace }));
    await ask([3, 2, 14]);
    expect(rows()).toHaveLength(1);
    await userEvent.click(screen.getByRole("menuitem", { name: /face \+z/ }));
    expect(onFace).toHaveBeenCalledWith(expect.objectContaining({ body: "x", index: 4 }));
    expect(usePicks.getState().faces).toEqual([]);
  });

  it("says where nothing lies, and goes with Escape or a press beside it", async () => {
    onBench(<Viewed />, sampleJob(), told);
    await ask([3, 2, 14]);
    expect(screen.getByText("Nothing lies here.")).toBeInTheDocument();
    fireEvent.keyDown(window, { key: "Escape" });
    expect(screen.queryByRole("menu")).not.toBeInTheDocument();
    await ask([3, 2, 14]);
    fireEvent.pointerDown(screen.getByTestId("view"), { button: 0 });
    expect(screen.queryByRole("menu")).not.toBeInTheDocument();
  });

  it("does not open after the view was turned with that button", async () => {
    addBlock("x", 20);
    onBench(<Viewed />, sampleJob(), told);
    await ask([3, 2, 10], 40);
    expect(screen.queryByRole("menu")).not.toBeInTheDocument();
  });

  it("tells when it cannot be asked, and leaves no empty list behind", async () => {
    addBlock("x", 20);
    vi.stubGlobal("fetch", () => Promise.resolve(new Response("no", { status: 500 })));
    onBench(<Viewed />, sampleJob(), told);
    const view = screen.getByTestId("view");
    boxed(view, 10, 20, 800, 600);
    const { x, y } = project([3, 2, 10]);
    fireEvent.pointerDown(view, { button: 2, clientX: x, clientY: y });
    fireEvent.contextMenu(view, { clientX: x, clientY: y });
    await waitFor(() => expect(told).toHaveBeenCalled());
    expect(screen.queryByRole("menu")).not.toBeInTheDocument();
  });
});
