import { act, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Job } from "../api/queries";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { usePassing } from "../steps/passing";
import { answering, emptyPreview, onBench, sampleJob } from "../test/bench";
import { stage } from "../view/stage";
import { DragReading } from "./DragReading";
import { useDragging } from "./dragging";
import { Handles } from "./Handles";

interface Grip {
  origin: number[];
  at: number;
  onDrag: (mm: number) => void;
  onRelease: () => void;
}
const drawn: Grip[] = [];
vi.mock("./LengthHandle", () => ({
  LengthHandle: (grip: Grip) => {
    drawn.push(grip);
    return null;
  },
}));
const turning: Grip[] = [];
vi.mock("./AngleHandle", () => ({
  AngleHandle: (grip: Grip) => {
    turning.push(grip);
    return null;
  },
}));
const grip = () => drawn.at(-1)!;

const handle = (place: string, per = 1) => ({ place, origin: [1, 2, 3] as [number, number, number], direction: [0, 0, 1] as [number, number, number], kind: "length" as const, per }); // biome-ignore format: one object

/** The sample job with grips on its extrusion. */
function gripped(...handles: ReturnType<typeof handle>[]): Job {
  const job = sampleJob();
  const steps = job.build.result!.steps.map((s) => (s.id === "x" ? { ...s, handles } : s));
  const own = job.recipe.steps.map((s) =>
    s.id === "x"
      ? { ...s, params: { ...s.params, distance: { text: "10 mm" }, more: [{ radius: { text: "2 mm" } }] } }
      : s,
  );
  return {
    ...job,
    recipe: { ...job.recipe, steps: own },
    build: { ...job.build, result: { ...job.build.result!, steps } },
  } as Job;
}

describe("grips in the view", () => {
  beforeEach(() => {
    resetBench();
    drawn.length = 0;
    stage.now = { canvas: document.createElement("canvas") } as never;
  });

  it("stand where the step says, at its value; dragging previews and letting go keeps", async () => {
    const asked = answering(() => emptyPreview);
    useTool.getState().select("x");
    const edit = onBench(<Handles />, gripped(handle("distance", 0.5)));
    expect(grip()).toMatchObject({ origin: [1, 2, 3], at: 5 }); // half of the distance each way
    expect(stage.now!.canvas.dataset.grips).toBe("distance");
    act(() => grip().onDrag(6.02));
    await waitFor(() => expect(asked.some((a) => a.url.includes("/preview"))).toBe(true));
    const body = asked.at(-1)!.body as { edit: { params: { distance: { text: string } } } };
    expect(body.edit.params.distance.text).toBe("12 mm");
    expect(edit).not.toHaveBeenCalled();
    act(() => grip().onRelease());
    expect(edit).toHaveBeenCalledWith({
      op: "set-params",
      step: "x",
      params: { distance: { text: "12 mm", mark: "assumed" } },
    });
  });

  it("drive values in rows as well, and only what a step has grips for", () => {
    answering(() => null);
    useTool.getState().select("x");
    const edit = onBench(<Handles />, gripped(handle("more[0].radius")));
    expect(grip().at).toBe(2);
    act(() => grip().onDrag(3));
    act(() => grip().onRelease());
    expect(edit.mock.calls[0]![0]).toMatchObject({ params: { more: [{ radius: { text: "3 mm" } }] } });
    act(() => useTool.getState().select("r"));
    expect(stage.now!.canvas.dataset.grips).toBe("");
  });

  it("of a step that is being prepared type into its form", () => {
    answering(() => null);
    useTool.getState().openDraft({ kind: "fillet", params: { edges: [], radius: { text: "1 mm" } } });
    onBench(<Handles />);
    expect(drawn).toHaveLength(0);
    act(() => usePassing.getState().set({ handles: [handle("radius")] }));
    act(() => grip().onDrag(2.5));
    expect(useTool.getState().draft?.params.radius).toEqual({ text: "2.5 mm", mark: "assumed" });
  });

  it("an angle's grip turns in half degrees, about the axis that the step says", async () => {
    answering(() => emptyPreview);
    useTool.getState().select("x");
    const knob = { ...handle("more[0].radius"), kind: "angle" as const, zero: [1, 0, 0] as [number, number, number] };
    const edit = onBench(<Handles />, gripped(knob as never));
    expect(turning.at(-1)).toMatchObject({ axis: [0, 0, 1], zero: [1, 0, 0], at: 2 });
    act(() => turning.at(-1)!.onDrag(30.31));
    act(() => turning.at(-1)!.onRelease());
    expect(edit).toHaveBeenCalledWith({
      op: "set-params",
      step: "x",
      params: { more: [{ radius: { text: "30.5 deg", mark: "assumed" } }] },
    });
  });

  it("a figure typed while the grip is held takes its place, and Escape leaves it", async () => {
    answering(() => emptyPreview);
    useTool.getState().select("x");
    const edit = onBench(
      <>
        <Handles />
        <DragReading />
      </>,
      gripped(handle("distance")),
    );
    act(() => useDragging.getState().set({ at: { x: 10, y: 10 } }));
    act(() => grip().onDrag(14.04));
    expect(screen.getByText("14 mm")).toBeInTheDocument();
    await userEvent.keyboard("1");
    const box = screen.getByRole("textbox", { name: "Value of the grip" });
    await userEvent.type(box, "7.25{Enter}");
    expect(edit).toHaveBeenCalledWith({
      op: "set-params",
      step: "x",
      params: { distance: { text: "17.25", mark: "assumed" } },
    });
    expect(useDragging.getState().at).toBeNull();
    act(() => useDragging.getState().set({ at: { x: 10, y: 10 } }));
    await userEvent.keyboard("9");
    await userEvent.keyboard("{Escape}");
    expect(edit).toHaveBeenCalledTimes(1);
    expect(useDragging.getState().typing).toBeNull();
  });
});
