import { act, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { resetBench } from "../shell/reset";
import { answering, emptyPreview, onBench, problem } from "../test/bench";
import { usePassing } from "./passing";
import { usePreview } from "./usePreview";

const edit = (mm: number) => ({ op: "set-params" as const, step: "x", params: { distance: { text: `${mm} mm` } } });
const body = { id: "x", name: "Block", colour: null, key: "p", view: "AAAA", names: [], fresh: [] };

function Typed() {
  const { show, clear } = usePreview();
  return (
    <>
      <button type="button" onClick={() => [5, 6, 7].map((mm) => show(edit(mm)))}>
        type
      </button>
      <button type="button" onClick={clear}>
        leave
      </button>
    </>
  );
}

beforeEach(() => resetBench());
afterEach(() => void vi.useRealTimers());
const asked = (log: { body: unknown }[]) => log.map((a) => (a.body as { with_fit: boolean }).with_fit);

it("asks for the picture at once, and for the fit when nothing more is typed", async () => {
  const log = answering((a) =>
    (a.body as { with_fit: boolean }).with_fit
      ? { ...emptyPreview, bodies: [body], fit: { inside_share: 0.7 } }
      : { ...emptyPreview, bodies: [body], fit: null },
  );
  onBench(<Typed />);
  act(() => screen.getByText("type").click());
  await waitFor(() => expect(usePassing.getState().fit).toEqual({ inside_share: 0.7 }));
  expect(asked(log)).toEqual([false, true]);
  expect(usePassing.getState().preview).toHaveLength(1);
  expect(usePassing.getState().fitting).toBe(false);
  act(() => screen.getByText("type").click());
  await waitFor(() => expect(usePassing.getState().fitting).toBe(true));
  expect(usePassing.getState().fit).toEqual({ inside_share: 0.7 }); // until the next one is there
  await waitFor(() => expect(usePassing.getState().fitting).toBe(false));
  act(() => screen.getByText("leave").click());
  expect(usePassing.getState().fit).toBeNull();
});

it("asks for no fit of what does not come out", async () => {
  vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout"], shouldAdvanceTime: true });
  const log = answering(() => ({ ...emptyPreview, problems: [problem({ code: "unchanged", message: "nothing" })] }));
  onBench(<Typed />);
  act(() => screen.getByText("type").click());
  await waitFor(() => expect(usePassing.getState().refused).not.toBeNull());
  await act(() => vi.advanceTimersByTimeAsync(2000));
  expect(asked(log)).toEqual([false]);
});
