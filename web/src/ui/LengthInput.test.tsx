import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { useTake } from "../sheets/taking";
import { onBench } from "../test/bench";
import { stepped } from "../units";
import { LengthInput } from "./LengthInput";

describe("a typed value", () => {
  it("is stepped by the arrow keys, finer with Shift, and kept by Enter", async () => {
    const [typed, kept] = [vi.fn(), vi.fn()];
    onBench(<LengthInput label="Radius" value="2 mm" onType={typed} onCommit={kept} />);
    await userEvent.click(screen.getByLabelText("Radius"));
    await userEvent.keyboard("{ArrowUp}{ArrowUp}{Shift>}{ArrowDown}{/Shift}");
    expect(typed.mock.calls.map((c) => c[0])).toEqual(["3 mm", "4 mm", "3.9 mm"]);
    expect(kept).not.toHaveBeenCalled();
    await userEvent.keyboard("{Enter}");
    expect(kept).toHaveBeenCalledWith("3.9 mm");
  });

  it("keeps the unit it is written in, and leaves formulas alone", () => {
    expect(stepped("0.5 inch", true, false, "mm")).toBe("0.55 inch");
    expect(stepped("0.5", false, true, "inch")).toBe("0.495");
    expect(stepped("30 deg", true, true, "mm")).toBe("30.1 deg");
    expect(stepped("-1 mm", false, false, "mm")).toBe("-2 mm");
    expect(stepped("bore_d / 2", true, false, "mm")).toBeNull();
    expect(stepped("", true, false, "mm")).toBeNull();
  });
});

describe("Enter", () => {
  function Sheet({ take }: { take: (() => void) | null }) {
    useTake(take);
    return (
      <section className="sheet">
        <LengthInput label="Distance" value="10 mm" onCommit={vi.fn()} />
      </section>
    );
  }

  it("says what is new in the field first, and then takes what the sheet prepares", async () => {
    const take = vi.fn();
    onBench(<Sheet take={take} />);
    const field = screen.getByLabelText("Distance");
    await userEvent.clear(field);
    await userEvent.type(field, "12 mm{Enter}");
    expect(take).not.toHaveBeenCalled();
    await userEvent.type(field, "{Enter}");
    expect(take).toHaveBeenCalledTimes(1);
  });

  it("takes nothing while there is nothing to take, nor from a field that stands outside a sheet", async () => {
    const take = vi.fn();
    onBench(
      <>
        <LengthInput label="Elsewhere" value="1 mm" />
        <Sheet take={take} />
      </>,
    );
    await userEvent.type(screen.getByLabelText("Elsewhere"), "{Enter}");
    expect(take).not.toHaveBeenCalled();
  });
});
