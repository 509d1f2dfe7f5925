import { act, screen } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { onBench } from "../test/bench";
import { OperationWord } from "./OperationWord";
import { usePassing } from "./passing";
import { useFollowed } from "./proposal";
import { useKeepDraft } from "./useKeepDraft";

const told = (proposes: "add" | "subtract") => ({
  draft: { of: "extrude" as const, mark: null, marks: {}, profiles: ["p1"], proposes },
});
const part = (operation: string, onChange: (p: Record<string, unknown>) => void) => (
  <OperationWord params={{ operation }} step={null} state={undefined} onChange={onChange} />
);

describe("what the direction of an extrusion proposes", () => {
  it("is followed by itself and said in words", () => {
    usePassing.getState().set({ passing: told("subtract") });
    const change = vi.fn();
    onBench(part("add", change));
    expect(change).toHaveBeenCalledExactlyOnceWith({ operation: "subtract" });
    expect(screen.getByText(/into the material/)).toBeTruthy();
  });

  it("is only offered once somebody has chosen", () => {
    usePassing.getState().set({ passing: told("add") });
    const change = vi.fn();
    function Chosen() {
      const [operation, choose] = useState("add");
      return (
        <>
          <button type="button" onClick={() => choose("subtract")}>
            choose
          </button>
          {part(operation, change)}
        </>
      );
    }
    onBench(<Chosen />);
    act(() => screen.getByRole("button", { name: "choose" }).click());
    expect(change).not.toHaveBeenCalled();
    screen.getByRole("button", { name: "Add instead" }).click();
    expect(change).toHaveBeenCalledExactlyOnceWith({ operation: "add" });
  });

  it("is followed where what was chosen would change nothing", () => {
    const offer = { text: "Subtract instead", choices: { operation: "subtract" } };
    usePassing.getState().set({ passing: {}, refused: { code: "unchanged", message: "changes nothing", offer } });
    const change = vi.fn();
    onBench(part("add", change));
    expect(change).toHaveBeenCalledExactlyOnceWith({ operation: "subtract" });
  });

  it("says nothing where a body of its own is made", () => {
    usePassing.getState().set({ passing: told("add") });
    onBench(part("new", vi.fn()));
    expect(screen.queryByText(/material/)).toBeNull();
  });
});

describe("a step that is kept before its preview has come", () => {
  const drafted = (params: Record<string, unknown>) => useTool.getState().openDraft({ kind: "extrude", params });
  function Keep() {
    const keep = useKeepDraft();
    return (
      <button type="button" onClick={() => void keep()}>
        keep
      </button>
    );
  }

  it("waits for what the preview proposes of the values as they are, and is kept once", async () => {
    resetBench();
    drafted({ operation: "add", distance: { text: "5 mm" } });
    useFollowed.setState({ last: "add" });
    const edit = onBench(<Keep />);
    usePassing.getState().set({ passing: told("add"), settled: useTool.getState().draft!.params });
    act(() => useTool.getState().setDraft({ distance: { text: "-5 mm" } })); // typed, and Enter at once
    act(() => screen.getByText("keep").click());
    act(() => screen.getByText("keep").click());
    await Promise.resolve();
    expect(edit).not.toHaveBeenCalled();
    const { params } = useTool.getState().draft!;
    await act(async () => usePassing.getState().set({ passing: told("subtract"), settled: params }));
    expect(edit).toHaveBeenCalledExactlyOnceWith(
      expect.objectContaining({ params: { operation: "subtract", distance: { text: "-5 mm" } } }),
    );
    expect(usePassing.getState().keeping).toBe(false);
  });

  it("is kept at once where somebody has chosen, and not at all where it was put down", async () => {
    resetBench();
    drafted({ operation: "subtract" });
    useFollowed.setState({ last: "add" });
    const edit = onBench(<Keep />);
    await act(async () => screen.getByText("keep").click());
    expect(edit).toHaveBeenCalledExactlyOnceWith(expect.objectContaining({ params: { operation: "subtract" } }));
    drafted({ operation: "add" });
    act(() => screen.getByText("keep").click());
    await act(async () => useTool.getState().close());
    expect(edit).toHaveBeenCalledTimes(1);
    expect(usePassing.getState().keeping).toBe(false);
  });
});
