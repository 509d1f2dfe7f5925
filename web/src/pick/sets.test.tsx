import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { FaceFacts } from "../api/client";
import { SetList } from "../job/SetList";
import { resetBench } from "../shell/reset";
import { answering, onBench, sampleJob } from "../test/bench";
import { useAppearance } from "../view/appearance";
import { packU4 } from "../view/buffers";
import { usePicks } from "./picks";
import { SaveSet } from "./SaveSet";
import type { EdgeFacts } from "./useBorders";
import type { NamedSet } from "./useTakeSet";

const face = (name: string): FaceFacts =>
  ({ name, kind: "plane", centre: [1, 1, 1], area: 4, label: name, beside: [] }) as unknown as FaceFacts;
const edge = (name: string): EdgeFacts =>
  ({ name, kind: "line", centre: [2, 2, 2], length: 3, label: name }) as unknown as EdgeFacts;
const set = (parts: NamedSet["parts"]): NamedSet => ({ id: "set", name: "Top rim", parts });

const withSets = (...sets: NamedSet[]) => {
  const job = sampleJob();
  return { ...job, recipe: { ...job.recipe, sets } };
};

describe("choices with a name", () => {
  beforeEach(() => {
    resetBench();
    answering(({ url }) =>
      url.includes("/borders") ? { corners: [], edges: [edge("x.e1"), edge("x.e2")] } : [face("x.top"), face("x.foot")],
    );
  });

  it("are kept by the parts' lasting names, faces and edges together", async () => {
    usePicks.getState().setParts(
      {
        faces: [{ body: "x", key: "k3", index: 0, face: face("x.top") }],
        edges: [{ body: "x", key: "k3", index: 1, edge: edge("x.e2") }],
      },
      null,
      "replace",
    );
    const edit = onBench(<SaveSet />);
    await userEvent.click(screen.getByRole("button", { name: "Name this choice" }));
    await userEvent.type(screen.getByLabelText("Name of the choice"), " Top rim {Enter}");
    expect(edit).toHaveBeenCalledWith({
      op: "put-set",
      set: {
        id: expect.any(String),
        name: "Top rim",
        parts: [
          { part: "face", body: "x", name: "x.top" },
          { part: "edge", body: "x", name: "x.e2" },
        ],
      },
    });
  });

  it("are not kept without a name, and Escape asks no more", async () => {
    const edit = onBench(<SaveSet />);
    await userEvent.click(screen.getByRole("button", { name: "Name this choice" }));
    await userEvent.type(screen.getByLabelText("Name of the choice"), "  {Enter}");
    await userEvent.click(screen.getByRole("button", { name: "Name this choice" }));
    await userEvent.type(screen.getByLabelText("Name of the choice"), "Rim{Escape}");
    expect(screen.queryByLabelText("Name of the choice")).toBeNull();
    expect(edit).not.toHaveBeenCalled();
  });

  it("choose the same parts again on the bodies as they are now, by name and not by place", async () => {
    onBench(
      <SetList />,
      withSets(
        set([
          { part: "face", body: "x", name: "x.foot" },
          { part: "edge", body: "x", name: "x.e1" },
        ]),
      ),
    );
    await userEvent.click(screen.getByRole("button", { name: "Top rim" }));
    await waitFor(() => expect(usePicks.getState().faces).toHaveLength(1));
    expect(usePicks.getState().faces[0]).toMatchObject({ body: "x", key: "k3", index: 1 });
    expect(usePicks.getState().edges[0]).toMatchObject({ index: 0, edge: { name: "x.e1" } });
  });

  it("say what is no longer there, and leave what is in hand where nothing is left of them", async () => {
    usePicks.getState().setParts({ bodies: [{ body: "x", key: "k3" }] }, null, "replace");
    const told: string[] = [];
    onBench(<SetList />, withSets(set([{ part: "face", body: "gone", name: "gone.top" }])), (e) =>
      told.push(String(e)),
    );
    await userEvent.click(screen.getByRole("button", { name: "Top rim" }));
    await waitFor(() => expect(told.join()).toMatch(/1 of 1 parts of 'Top rim' are no longer there/));
    expect(usePicks.getState().bodies).toHaveLength(1);
  });

  it("are dropped one by one, and take no room where there are none", async () => {
    const edit = onBench(<SetList />, withSets(set([])));
    await userEvent.click(screen.getByRole("button", { name: "Drop the choice Top rim" }));
    expect(edit).toHaveBeenCalledWith({ op: "drop-set", id: "set" });
  });
});

describe("choices of facets, bodies and scans", () => {
  beforeEach(resetBench);
  const facets = new Uint32Array([3, 4, 9]);
  const some: NamedSet = {
    id: "set",
    name: "Winch",
    parts: [
      { part: "facets", scan: "scan-1", picked: { blob: "a".repeat(64), count: 1234 } },
      { part: "evidence", id: "scan-1" },
    ],
  };

  it("are kept: facets under their hash, whole things by their ids", async () => {
    answering(({ url }) => (url.includes("keep-picked") ? { blob: "b".repeat(64), count: 3 } : null));
    const edit = onBench(<SaveSet facets={facets} things={[{ part: "evidence", id: "scan-1" }]} />);
    await userEvent.click(screen.getByRole("button", { name: "Name this choice" }));
    await userEvent.type(screen.getByLabelText("Name of the choice"), "Worn{Enter}");
    await waitFor(() => expect(edit).toHaveBeenCalled());
    expect((edit.mock.calls[0]![0] as { set: NamedSet }).set.parts).toEqual([
      { part: "evidence", id: "scan-1" },
      { part: "facets", scan: expect.any(String), picked: { blob: "b".repeat(64), count: 3 } },
    ]);
  });

  it("are chosen again on the scan as it is now", async () => {
    answering(({ url }) => (url.includes("/sets/set/facets") ? packU4(facets) : null));
    onBench(<SetList />, withSets(some));
    expect(screen.getByText("1,234 facets")).toBeVisible();
    await userEvent.click(screen.getByRole("button", { name: "Winch" }));
    await waitFor(() => expect(usePicks.getState().hand).toEqual(facets));
  });

  it("are hidden and shown together", async () => {
    onBench(<SetList />, withSets(some));
    await userEvent.click(screen.getByRole("button", { name: "Hide Winch" }));
    expect(useAppearance.getState().hidden).toEqual(["scan-1"]);
    await userEvent.click(screen.getByRole("button", { name: "Show Winch" }));
    expect(useAppearance.getState().hidden).toEqual([]);
  });

  it("of nothing that can be hidden offer no hiding", () => {
    onBench(<SetList />, withSets({ ...some, parts: [{ part: "face", body: "x", name: "x.top" }] }));
    expect(screen.queryByRole("button", { name: "Hide Winch" })).toBeNull();
  });
});
