import { fireEvent, render } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Vec3 } from "../api/build";
import { setStage } from "../test/staged";
import { alongLine, project, stage } from "../view/stage";
import { atRest, useDragging } from "./dragging";
import { useGrip } from "./useGrip";

const onDrag = vi.fn();
const onRelease = vi.fn();
const beneath = vi.fn(); // what the camera's controls would get

/** A grip on the x axis at 10 mm, measured along that axis. */
function Held({ at = 10, places = [[10, 0, 0]] as Vec3[] }) {
  useGrip({ places: () => places, measure: (x, y) => alongLine(x, y, [0, 0, 0], [1, 0, 0]), at, onDrag, onRelease });
  return null;
}
const at = (p: Vec3) => {
  const { x, y } = project(p);
  return { clientX: x, clientY: y, button: 0, pointerId: 3, bubbles: true };
};
const canvas = () => stage.now!.canvas;

describe("a grip", () => {
  beforeEach(() => {
    setStage();
    const host = document.createElement("div");
    host.append(canvas());
    document.body.append(host);
    for (const kind of ["pointerdown", "pointermove", "pointerup"]) canvas().addEventListener(kind, beneath);
    useDragging.setState(atRest);
    for (const f of [onDrag, onRelease, beneath]) f.mockReset();
  });

  it("follows the pointer by as much as that moves, from wherever it was taken, and keeps on letting go", () => {
    render(<Held />);
    fireEvent.pointerDown(canvas(), at([10.4, 0, 0])); // beside its middle
    expect(canvas().dataset.grabbed).toBe("1");
    fireEvent.pointerMove(canvas(), at([13.4, 0, 0]));
    expect(onDrag.mock.lastCall![0]).toBeCloseTo(13, 6);
    expect(useDragging.getState().at).not.toBeNull();
    fireEvent.pointerUp(canvas(), at([13.4, 0, 0]));
    expect(onRelease).toHaveBeenCalledTimes(1);
    expect(useDragging.getState().at).toBeNull();
    expect(canvas().dataset.grabbed).toBeUndefined();
    expect(beneath).not.toHaveBeenCalled(); // the camera stayed where it was
  });

  it("away from it the pointer is the camera's", () => {
    render(<Held />);
    fireEvent.pointerDown(canvas(), at([20, 0, 0]));
    fireEvent.pointerMove(canvas(), at([25, 0, 0]));
    fireEvent.pointerUp(canvas(), at([25, 0, 0]));
    expect(beneath).toHaveBeenCalledTimes(3);
    expect(onDrag).not.toHaveBeenCalled();
    expect(onRelease).not.toHaveBeenCalled();
  });

  it("another button is the camera's too, and so is a grip that cannot be measured", () => {
    const { unmount } = render(<Held />);
    fireEvent.pointerDown(canvas(), { ...at([10, 0, 0]), button: 2 });
    fireEvent.pointerMove(canvas(), at([14, 0, 0]));
    expect(onDrag).not.toHaveBeenCalled();
    unmount();
    const Blind = () => {
      useGrip({ places: () => [[10, 0, 0]], measure: () => null, at: 10, onDrag, onRelease });
      return null;
    };
    render(<Blind />);
    fireEvent.pointerDown(canvas(), at([10, 0, 0]));
    fireEvent.pointerMove(canvas(), at([14, 0, 0]));
    expect(onDrag).not.toHaveBeenCalled();
  });

  it("can be taken by any of its places", () => {
    render(<Held places={[[0, 0, 0], [10, 0, 0]]} />); // biome-ignore format: one line
    fireEvent.pointerDown(canvas(), at([0, 0, 0]));
    fireEvent.pointerMove(canvas(), at([2, 0, 0]));
    expect(onDrag.mock.lastCall![0]).toBeCloseTo(12, 6);
  });

  it("waits while a figure is typed: neither moving nor letting go changes it", () => {
    render(<Held />);
    fireEvent.pointerDown(canvas(), at([10, 0, 0]));
    useDragging.getState().set({ typing: "12" });
    fireEvent.pointerMove(canvas(), at([16, 0, 0]));
    fireEvent.pointerUp(canvas(), at([16, 0, 0]));
    expect(onDrag).not.toHaveBeenCalled();
    expect(onRelease).not.toHaveBeenCalled();
    expect(useDragging.getState().typing).toBe("12");
  });

  it("lets the canvas be once it is gone", () => {
    render(<Held />).unmount();
    fireEvent.pointerDown(canvas(), at([10, 0, 0]));
    fireEvent.pointerMove(canvas(), at([14, 0, 0]));
    expect(onDrag).not.toHaveBeenCalled();
    expect(beneath).toHaveBeenCalledTimes(2);
  });
});
