import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Vector3 } from "three";
import { beforeEach, describe, expect, it } from "vitest";
import { resetBench } from "../shell/reset";
import { onBench } from "../test/bench";
import { useAppearance } from "./appearance";
import { SecondFrame } from "./SecondView";
import { secondBox } from "./secondBox";
import { standBack } from "./stage";

describe("the second view", () => {
  beforeEach(resetBench);

  it("is there only when it is wanted, shows the side that is chosen, and is closed", async () => {
    onBench(<SecondFrame />);
    expect(screen.queryByLabelText("Second view")).toBeNull();
    useAppearance.getState().set({ second: "5" });
    expect(await screen.findByLabelText("Second view")).toHaveTextContent("top");
    await userEvent.click(screen.getByRole("combobox", { name: "Side of the second view" }));
    await userEvent.click((await screen.findAllByText("front")).at(-1)!);
    expect(useAppearance.getState().second).toBe("1");
    await userEvent.click(screen.getByRole("button", { name: "Close the second view" }));
    expect(useAppearance.getState().second).toBeNull();
  });

  it("lies within the view, clear of its bar, whatever the view's size", () => {
    for (const [width, height] of [
      [928, 720],
      [496, 640],
      [2200, 1300],
    ] as const) {
      const box = secondBox({ width, height });
      expect(box.x).toBeGreaterThan(width / 2);
      expect(box.x + box.width).toBeLessThanOrEqual(width - 14);
      expect(box.y).toBeGreaterThanOrEqual(54);
      expect(box.y + box.height).toBeLessThan(height * 0.7);
    }
  });
});

describe("a camera that stands back", () => {
  it("looks at the same place from the same side", () => {
    const target = new Vector3(10, 0, 5);
    const eye = new Vector3(10, -40, 5);
    expect(standBack(eye, target, 1.5).toArray()).toEqual([10, -60, 5]);
    expect(standBack(standBack(eye, target, 1.5), target, 1 / 1.5).distanceTo(eye)).toBeLessThan(1e-12);
  });
});
