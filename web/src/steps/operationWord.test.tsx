import { act, screen } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import { onBench } from "../test/bench";
import { OperationWord } from "./OperationWord";
import { usePassing } from "./passing";

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
