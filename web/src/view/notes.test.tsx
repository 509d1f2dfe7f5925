import { act, screen } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { resetBench } from "../shell/reset";
import { usePassing } from "../steps/passing";
import { onBench } from "../test/bench";
import { ViewNotes } from "./ViewNotes";

describe("what is said over the view", () => {
  beforeEach(resetBench);

  it("names the steps that a preview does without, while there is one", () => {
    onBench(<ViewNotes fitted={undefined} colours={false} />);
    expect(screen.queryByText(/Shown without/)).toBeNull();
    act(() => usePassing.getState().set({ without: ["x"] }));
    expect(screen.getByText(/Shown without .* until it is taken/)).toBeInTheDocument();
    act(() => usePassing.getState().set({ without: [] }));
    expect(screen.queryByText(/Shown without/)).toBeNull();
  });
});
