import { fireEvent, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { beforeEach, expect, it, vi } from "vitest";
import type { Step } from "../api/client";
import { onBench } from "../test/bench";
import { plate } from "../test/plate";
import { frameOf, type Kept } from "./drawing";
import { useHand } from "./store";
import { stampOf, useFit } from "./useFit";

const FRAME = frameOf([0, 0, 0], [1, 0, 0], [0, 0, 1]);
const STEP = { id: "k", kind: "sketch", params: {} } as unknown as Step;
const wires = { sent: [] as Kept[], answer: [] as (() => void)[] };

/** The drawing as it was acted on, and as the job gives it back: the same, or another. */
function Panel({ later }: { later: Kept }) {
  const [kept, setKept] = useState(plate().drawing);
  const { ask } = useFit(STEP, FRAME, kept, null);
  return (
    <>
      <button type="button" onClick={() => ask(true)}>
        fit
      </button>
      <button type="button" onClick={() => setKept(later)}>
        the job answers
      </button>
    </>
  );
}

beforeEach(() => {
  Object.assign(wires, { sent: [], answer: [] });
  useHand.getState().leave();
  useHand.getState().set({ fit: null });
  vi.stubGlobal("fetch", async (request: Request) => {
    const { drawing } = (await request.clone().json()) as { drawing: Kept };
    wires.sent.push(drawing);
    await new Promise<void>((done) => wires.answer.push(done));
    return new Response(JSON.stringify({ drawing }), { headers: { "content-type": "application/json" } });
  });
});

const press = (name: string) => fireEvent.click(screen.getByText(name));

it("stays when the job gives the same drawing back in another order", async () => {
  const turned = Object.fromEntries(Object.entries(plate().drawing).reverse()) as Kept;
  onBench(<Panel later={turned} />);
  press("fit");
  await waitFor(() => expect(wires.answer).toHaveLength(1));
  wires.answer[0]!();
  await waitFor(() => expect(useHand.getState().fit).not.toBeNull());
  press("the job answers");
  expect(useHand.getState().fit).not.toBeNull();
});

it("is asked again, of the newer drawing, when it has gone on meanwhile; one that changes later takes it away", async () => {
  const { entities } = plate().drawing;
  onBench(
    <Panel
      later={{
        ...plate().drawing,
        entities: { ...entities, late: { kind: "point", at: [1, 2], construction: false, linked: false } },
      }}
    />,
  );
  press("fit");
  await waitFor(() => expect(wires.answer).toHaveLength(1));
  press("the job answers");
  wires.answer[0]!();
  await waitFor(() => expect(wires.answer).toHaveLength(2));
  expect(wires.sent[1]!.entities).toHaveProperty("late");
  expect(useHand.getState().fit).toBeNull();
  wires.answer[1]!();
  await waitFor(() => expect(useHand.getState().fit).not.toBeNull());
});

it("tells drawings apart by more than the last bits of a number", () => {
  expect(stampOf({ b: 0.1 + 0.2, a: [-0] })).toBe(stampOf({ a: [0], b: 0.3 }));
  expect(stampOf({ a: 1 })).not.toBe(stampOf({ a: 1.00001 }));
  expect(stampOf(["a", "b"])).not.toBe(stampOf(["b", "a"]));
});
