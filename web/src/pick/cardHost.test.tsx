import { fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { Vec3 } from "../api/build";
import { boxed, setStage } from "../test/staged";
import { project } from "../view/stage";
import { CardHost } from "./CardHost";

const frame = { current: (): void => undefined };
const view = (anchor: Vec3 | null) => (
  <div data-testid="view">
    <CardHost anchor={anchor} onFrame={frame}>
      <p>What is picked</p>
      <input aria-label="A figure" />
    </CardHost>
  </div>
);
/** Lays the view and the card out as a screen would: a card of 300 by 200 in a view of 800 by 600. */
function laid(anchor: Vec3 | null) {
  const { rerender } = render(view(null));
  const host = card();
  boxed(screen.getByTestId("view"), 10, 20, 800, 600);
  boxed(host, 0, 0, 300, 200);
  rerender(view(anchor));
  frame.current();
  return (next: Vec3 | null) => {
    rerender(view(next));
    frame.current();
  };
}
const card = () => document.querySelector<HTMLElement>(".card-host")!;
const line = () => document.querySelector<SVGLineElement>(".leader line")!;
const figure = (of: Element, name: string) => Number(of.getAttribute(name));

describe("the card beside what is picked", () => {
  beforeEach(() => {
    setStage();
  });

  it("stands on the other side of the view, and its leader ends at the place", () => {
    const show = laid([15, 0, 0]); // on the right
    expect(card().style.left).toBe("14px");
    const seen = project([15, 0, 0]);
    expect(figure(line(), "x2")).toBeCloseTo(seen.x - 10);
    expect(figure(line(), "y2")).toBeCloseTo(seen.y - 20);
    expect(figure(line(), "x1")).toBe(314); // from the card's near side
    show([-15, 0, 0]); // on the left
    expect(card().style.left).toBe("486px");
    expect(figure(line(), "x1")).toBe(486);
  });

  it("in the middle it stays where it is, so as not to jump to and fro", () => {
    const show = laid([15, 0, 0]);
    show([0.5, 0, 0]);
    expect(card().style.left).toBe("14px");
    show([-0.5, 0, 0]);
    expect(card().style.left).toBe("14px");
  });

  it("follows the part when the view turns", () => {
    const { camera } = setStage();
    laid([15, 0, 0]);
    const before = figure(line(), "x2");
    camera.position.set(6, 0, 100);
    camera.updateMatrixWorld();
    frame.current();
    expect(figure(line(), "x2")).toBeLessThan(before);
  });

  it("can be moved, and stays there until something else is picked", () => {
    const show = laid([15, 0, 0]);
    const head = screen.getByText("What is picked");
    fireEvent.pointerDown(head, { clientX: 100, clientY: 100 });
    fireEvent.pointerMove(window, { clientX: 250, clientY: 180 });
    fireEvent.pointerUp(window);
    const at = card().style.left;
    expect(at).not.toBe("14px");
    frame.current();
    expect(card().style.left).toBe(at);
    fireEvent.pointerMove(window, { clientX: 400, clientY: 180 }); // let go of: it no longer follows
    expect(card().style.left).toBe(at);
    show([16, 0, 0]);
    frame.current();
    expect(card().style.left).toBe("14px");
  });

  it("is not moved from a field or a button on it", () => {
    laid([15, 0, 0]);
    fireEvent.pointerDown(screen.getByLabelText("A figure"), { clientX: 100, clientY: 100 });
    fireEvent.pointerMove(window, { clientX: 250, clientY: 180 });
    expect(card().style.left).toBe("14px");
  });

  it("folds away, and the next pick's card stays folded", async () => {
    const show = laid([15, 0, 0]);
    await userEvent.click(screen.getByRole("button", { name: "Fold the card" }));
    expect(card()).toHaveClass("folded");
    show([-15, 0, 0]);
    expect(card()).toHaveClass("folded");
    await userEvent.click(screen.getByRole("button", { name: "Unfold the card" }));
    expect(card()).not.toHaveClass("folded");
  });

  it("without a place there is no leader", () => {
    laid(null);
    expect(document.querySelector(".leader")).toBeNull();
    expect(screen.getByText("What is picked")).toBeInTheDocument();
  });
});
