import { act, render } from "@testing-library/react";
import { useRef } from "react";
import { BufferAttribute, BufferGeometry, Mesh, PerspectiveCamera } from "three";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { project, stage } from "../view/stage";
import { useArmed } from "./armed";
import { useHover } from "./hover";
import { useOffered } from "./offered";
import { useHoverParts } from "./useHoverParts";

/** Sixty bodies of three hundred faces: some nine hundred edges each. */
function manyBodies() {
  for (let b = 0; b < 60; b++) {
    const positions = new Float32Array(900 * 6);
    const edgeOf = new Uint32Array(900);
    for (let k = 0; k < 900; k++) {
      const [x, y] = [(k % 30) - 15, Math.floor(k / 30) - 15];
      positions.set([x, y, -b, x + 0.9, y, -b], 6 * k);
      edgeOf[k] = k;
    }
    const mesh = new Mesh(new BufferGeometry().setAttribute("position", new BufferAttribute(new Float32Array(9), 3)));
    stage.bodies.set(`b${b}`, {
      id: `b${b}`,
      key: `k${b}`,
      mesh,
      faces: new Uint32Array(1),
      edges: { positions, edgeOf },
    });
  }
}

describe("hovering", () => {
  const invalidate = vi.fn();
  beforeEach(() => {
    vi.stubGlobal("requestAnimationFrame", (f: () => void) => {
      f();
      return 0;
    });
    const camera = new PerspectiveCamera(50, 4 / 3, 1, 1000);
    camera.position.set(0, 0, 60);
    camera.updateMatrixWorld(true);
    const canvas = { getBoundingClientRect: () => ({ left: 0, top: 0, width: 800, height: 600 }) };
    stage.now = { camera, controls: null, canvas, gl: null, invalidate } as never;
    manyBodies();
  });
  afterEach(() => {
    stage.now = null;
    stage.bodies.clear();
    useHover.getState().over(null);
    vi.unstubAllGlobals();
  });

  it("draws the highlight anew and nothing else, however many bodies there are", () => {
    const drawn = { bench: 0, highlight: 0 };
    const Highlight = () => {
      useHover((s) => s.edge);
      drawn.highlight++;
      return null;
    };
    const Bench = () => {
      const host = useRef<HTMLDivElement>(null);
      useHoverParts(host);
      drawn.bench++;
      return (
        <div ref={host} data-testid="host">
          <Highlight />
        </div>
      );
    };
    const { getByTestId } = render(<Bench />);
    const host = getByTestId("host");
    const over = (x: number, y: number) =>
      act(() => {
        host.dispatchEvent(new MouseEvent("pointermove", { clientX: x, clientY: y, bubbles: true }));
      });
    for (let k = 0; k < 20; k++) over(300 + 7 * k, 300);
    expect(useHover.getState().edge).not.toBeNull();
    expect(drawn.bench).toBe(1);
    expect(drawn.highlight).toBeGreaterThan(1);
    const before = drawn.highlight;
    over(300 + 7 * 19, 300); // over the same edge again
    expect(drawn.highlight).toBe(before);
    act(() => {
      host.dispatchEvent(new MouseEvent("pointerleave"));
    });
    expect(useHover.getState().edge).toBeNull();
    expect(drawn.bench).toBe(1);
  });

  it("says the spot or the piece that a click would take, before any edge, and only while one is awaited", () => {
    const Bench = () => {
      const host = useRef<HTMLDivElement>(null);
      useHoverParts(host);
      return <div ref={host} data-testid="host" />;
    };
    const ref = { body: "b0", vertex: "v", place: [0.3, 0, 0] as [number, number, number] };
    const spots = [{ key: "v", mark: "corner" as const, at: ref.place, said: "corner", ref }];
    const piece = { sketch: "s", entity: "e1", place: null };
    const path: [number, number, number][] = [[0.3, 5.4, 0], [9, 5.4, 0]]; // biome-ignore format: one line
    const { getByTestId } = render(<Bench />);
    const over = ([x, y, z]: readonly number[]) => {
      const at = project([x!, y!, z!]);
      act(() => {
        getByTestId("host").dispatchEvent(
          new MouseEvent("pointermove", { clientX: at.x, clientY: at.y, bubbles: true }),
        );
      });
    };
    useOffered.getState().offer(spots, [{ key: "e1", path, said: "line of Foot", ref: piece }]);
    over([0.3, 0, 0]);
    expect(useOffered.getState().over).toBeNull();
    expect(useHover.getState().edge).not.toBeNull();
    act(() =>
      useArmed.getState().arm({
        hint: "",
        onPart: vi.fn(),
        onEdge: vi.fn(),
        offers: { spots: ["corner"], pieces: true, above: null },
      }),
    );
    over([0.3, 0, 0]);
    expect(useOffered.getState().over?.key).toBe("v");
    expect(useHover.getState().edge).toBeNull();
    over([5, 5.4, 0]);
    expect(useOffered.getState().over?.key).toBe("e1");
    over([5, 3, 0]);
    expect(useOffered.getState().over).toBeNull();
    expect(useHover.getState().edge).not.toBeNull();
    act(() => useArmed.getState().arm(null));
    useOffered.getState().offer([], []);
  });
});
