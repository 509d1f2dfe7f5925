import { beforeEach, describe, expect, it } from "vitest";
import { resetBench } from "../shell/reset";
import { setStage } from "../test/staged";
import { usePointed } from "./pointed";
import { leavePlace, showPlace } from "./showPlace";
import { stage } from "./stage";

describe("a place that a problem names", () => {
  beforeEach(() => {
    resetBench();
    setStage();
  });

  it("is brought to the middle and ringed", () => {
    showPlace([1, 2, 3]);
    expect(usePointed.getState().marked?.point).toEqual([1, 2, 3]);
    expect(stage.now!.controls!.target.toArray()).toEqual([1, 2, 3]);
  });

  it("is left when it is spoken of no more, and no other one with it", () => {
    showPlace([1, 2, 3]);
    leavePlace([1, 2, 4]);
    expect(usePointed.getState().marked).not.toBeNull();
    leavePlace([1, 2, 3]);
    expect(usePointed.getState().marked).toBeNull();
  });
});
