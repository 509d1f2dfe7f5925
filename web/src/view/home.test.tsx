import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { resetBench } from "../shell/reset";
import { onBench } from "../test/bench";
import { addBlock, addScan, setStage } from "../test/staged";
import { project, stage } from "./stage";
import { useHome } from "./useHome";

function Asked() {
  const { home } = useHome();
  return (
    <button type="button" onClick={home}>
      fit
    </button>
  );
}

describe("the whole in view", () => {
  beforeEach(() => {
    resetBench();
    setStage();
  });

  it("is everything that is seen: a copy far from the scan too", async () => {
    addScan(20, 0);
    addBlock("far", 20, [200, 0, 0]);
    onBench(<Asked />);
    await userEvent.click(screen.getByRole("button", { name: "fit" }));
    // From -10 on the scan's left to 210 on the block's right.
    expect(project([-10, 0, 0]).visible).toBe(true);
    expect(project([210, 0, 0]).visible).toBe(true);
  });

  it("is the scan where there is nothing else", async () => {
    addScan(20, 7);
    onBench(<Asked />);
    await userEvent.click(screen.getByRole("button", { name: "fit" }));
    expect(project([-10, 10, 7]).visible).toBe(true);
    expect(stage.now!.camera.position.distanceTo(stage.now!.controls!.target)).toBeLessThan(60);
  });
});
