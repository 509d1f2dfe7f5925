import { act, screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, it } from "vitest";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { answering, onBench } from "../test/bench";
import type { ShownBody } from "../view/useShownBodies";
import { useArmed } from "./armed";
import { useChosenFaces } from "./useChosenFaces";

const body = (part: Partial<ShownBody>): ShownBody => ({
  id: "x",
  name: "Plate",
  key: "k1",
  colour: null,
  view: null,
  names: [],
  fresh: [],
  open: false,
  reference: false,
  ...part,
});

function Chosen({ bodies }: { bodies: ShownBody[] }) {
  return <p>{JSON.stringify(useChosenFaces(bodies))}</p>;
}

const kept = ["a.top", "a.side", "a.bottom"].map((name) => ({ name, kind: "plane" }));
const face = (name: string) => ({ body: "x", name, kind: "plane" });

beforeEach(() => resetBench());

it("marks what a step that is being prepared speaks of on the body as it is kept", async () => {
  const log = answering(() => kept);
  useTool.getState().openDraft({ kind: "level", params: { lead: face("a.bottom"), faces: [face("a.top")] } });
  onBench(<Chosen bodies={[body({}), body({ id: "y", key: "k2" })]} />);
  await waitFor(() => expect(screen.getByText('{"x":[0,2]}')).toBeTruthy());
  expect(log.map((a) => a.url)).toEqual([expect.stringContaining("/products/k1/faces")]);
});

it("and on what it would give, whose faces have other numbers, without asking for them", async () => {
  const log = answering(() => kept);
  useTool.getState().openDraft({ kind: "level", params: { lead: face("a.bottom"), faces: [face("gone")] } });
  onBench(<Chosen bodies={[body({ key: "p", view: "AAAA", names: ["a.bottom", "a.top", "a.side"] })]} />);
  expect(screen.getByText('{"x":[0]}')).toBeTruthy();
  expect(log).toEqual([]);
});

it("marks nothing of a step that stands in the job before its faces are picked", async () => {
  answering(() => kept);
  onBench(<Chosen bodies={[body({})]} />);
  expect(screen.getByText("{}")).toBeTruthy();
  act(() => useArmed.getState().arm({ hint: "Click a face", onFace: () => undefined }));
  expect(screen.getByText("{}")).toBeTruthy();
});
