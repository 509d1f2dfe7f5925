import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { resetBench } from "../shell/reset";
import { answering, onBench, sampleJob } from "../test/bench";
import { plate } from "../test/plate";
import { frameOf } from "./drawing";
import { LieFlush } from "./LieFlush";
import { useHand } from "./store";

const FRAME = frameOf([0, 0, 4], [1, 0, 0], [0, 0, 1], [1, 0, 0]);
const rim = { key: "edge0", kind: "circle", points: [[0, 0]], size: 17 };
const link = { way: "edge", part: { body: "x", edge: "rim" } };

const outline = () => {
  const shown = plate();
  return { ...shown, drawing: { ...shown.drawing, taken: [{ closed: true, pieces: [] }] } } as unknown as typeof shown;
};

function offered(act = vi.fn(), shown = outline()) {
  const job = sampleJob();
  const recipe = { ...job.recipe, steps: [...job.recipe.steps, { ...job.recipe.steps[1]!, id: "later" }] };
  const step = recipe.steps.at(-1)!;
  onBench(<LieFlush step={step} frame={FRAME} shown={shown} within={0.02} act={act} />, { ...job, recipe });
  return act;
}

describe("pieces of an outline that was taken before", () => {
  beforeEach(() => resetBench());

  it("are laid on edges of the bodies above the sketch, and which ones is said and shown", async () => {
    const log = answering(() => [{ link, pieces: [rim], paths: [] }]);
    const act = offered(vi.fn(async () => ({ ...outline(), chosen: ["e1", "e3"] })));
    expect(screen.getByText("of bodies, where nearer than 0.020 mm")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Lay on walls" }));
    expect(await screen.findByText("e1, e3 lie on walls now")).toBeInTheDocument();
    expect(log[0]!.body).toMatchObject({
      source: "x",
      way: "edge",
      step: "later",
      origin: [0, 0, 4],
      normal: [0, 0, 1],
    });
    expect(act).toHaveBeenCalledWith([{ act: "lie-flush", walls: [{ link, piece: rim }], within: 0.02 }]);
    expect(useHand.getState().chosen).toEqual(["e1", "e3"]);
  });

  it("stay where nothing is that near", async () => {
    answering(() => []);
    const act = offered();
    await userEvent.click(screen.getByRole("button", { name: "Lay on walls" }));
    await waitFor(() => expect(screen.getByText("none is that near")).toBeInTheDocument());
    expect(act).not.toHaveBeenCalled();
  });

  it("are not spoken of where nothing was taken over", () => {
    offered(vi.fn(), plate());
    expect(screen.queryByRole("button")).toBeNull();
  });
});
