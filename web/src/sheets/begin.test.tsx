import { act, screen } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import type { Kind } from "../api/kinds";
import { resetBench } from "../shell/reset";
import { answering, onBench, sampleJob } from "../test/bench";
import { useTool } from "./tool";
import { useBegin } from "./useBegin";

const kind = (...names: string[]): Kind => ({ id: "made", fields: names.map((name) => ({ name })) }) as unknown as Kind;

function Start({ of, params = {} }: { of: Kind; params?: Record<string, unknown> }) {
  const begin = useBegin();
  return (
    <button type="button" onClick={() => begin(of, params)}>
      begin
    </button>
  );
}
const begun = (of: Kind, params?: Record<string, unknown>) => {
  onBench(<Start of={of} {...(params ? { params } : {})} />);
  act(() => screen.getByRole("button", { name: "begin" }).click());
  return useTool.getState().draft?.params;
};
const first = () => sampleJob().build.result?.bodies[0]?.id;

describe("what begins from a selection", () => {
  beforeEach(() => {
    resetBench();
    answering(() => null);
  });

  it("joins the body there is where it makes material", () => {
    expect(first()).toBeTruthy();
    expect(begun(kind("operation", "bodies"), { sketch: { id: "o" } })).toEqual({
      sketch: { id: "o" },
      operation: "add",
      bodies: [{ id: first() }],
    });
  });

  it("names the body where it works on one, and leaves alone what says it", () => {
    expect(begun(kind("body"))).toEqual({ body: { id: first() } });
  });

  it("is only what it was begun with elsewhere", () => {
    expect(begun(kind("radius"), { edges: [] })).toEqual({ edges: [] });
  });
});
