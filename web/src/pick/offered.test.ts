import { beforeEach, describe, expect, it } from "vitest";
import { resetBench } from "../shell/reset";
import { addBlock, setStage } from "../test/staged";
import { project, stage } from "../view/stage";
import { useArmed } from "./armed";
import { offeredAt, useOffered } from "./offered";
import type { Piece } from "./spots";

const piece = (z: number): Piece => ({ key: `p${z}`, path: [[-8, 0, z], [8, 0, z]], said: "a line", ref: { sketch: "s", entity: "e1", place: null } }); // biome-ignore format: one object

/** A block with an edge across its top at y = 0, and a line of a sketch under it or over it. */
function staged(z: number) {
  addBlock("b", 20);
  const b = stage.bodies.get("b")!;
  stage.bodies.set("b", { ...b, edges: { positions: [-8, 0, 10, 8, 0, 10], edgeOf: new Uint32Array([0]) } });
  useOffered.getState().offer([], [piece(z)]);
  const { x, y } = project([0, 0, 10]);
  return offeredAt(x, y);
}

describe("a piece of a sketch under the pointer", () => {
  beforeEach(() => {
    resetBench();
    setStage();
  });

  it("gives way to an edge that is seen before it, where edges can be taken", () => {
    useArmed.setState({ armed: { label: "axes", onEdge: () => undefined } as never });
    expect(staged(-5)).toBeNull();
    expect(staged(12)?.key).toBe("p12");
  });

  it("is taken through the body where no edge is wanted", () => {
    useArmed.setState({ armed: { label: "axes", onFace: () => undefined } as never });
    expect(staged(-5)?.key).toBe("p-5");
  });
});
