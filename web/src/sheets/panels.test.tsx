import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { CheckpointSheet } from "../history/CheckpointSheet";
import { resetBench } from "../shell/reset";
import { answering, onBench, sampleJob } from "../test/bench";
import { ValuesSheet } from "../values/ValuesSheet";
import { usePointed } from "../view/pointed";
import { RepairSheet } from "./RepairSheet";
import { useTool } from "./tool";

const withReading = () => {
  const job = sampleJob();
  const reading = {
    id: "q",
    kind: "reading",
    name: "plate_t",
    takes: [
      { value: 12.03, unit: "mm" },
      { value: 0.473, unit: "inch" },
    ],
    note: "",
  };
  const value = {
    id: "v",
    name: "skin",
    dimension: "length",
    value: { text: "plate_t / 6", mark: "assumed", note: "" },
    note: "",
  };
  const recipe = { ...job.recipe, evidence: [reading], values: [value] };
  const result = { ...job.build.result!, values: { v: { value: 2.004, length: 1, angle: 0, mark: "caliper" } } };
  const readings = {
    q: { dimension: "length", n: 2, mean: 12.0221, u: 0.0079, U95: 0.0158, spread: 0.016, outliers: [], methods: [] },
  };
  return { ...job, recipe, readings, build: { ...job.build, result } } as unknown as ReturnType<typeof sampleJob>;
};

describe("named values and readings", () => {
  beforeEach(resetBench);

  it("show what they come to and what uses them", async () => {
    answering(() => [
      { name: "plate_t", step: "x", place: "distance" },
      { name: "plate_t", step: null, place: "skin" },
    ]);
    onBench(<ValuesSheet />, withReading());
    expect(screen.getByText("= 2.004 mm")).toBeInTheDocument();
    expect(screen.getByText("12.022 mm ± 0.0158")).toBeInTheDocument();
    expect(await screen.findByText("used by Block, skin")).toBeInTheDocument();
    expect(screen.getByText("not used yet")).toBeInTheDocument();
  });

  it("take another take in its own unit", async () => {
    answering(() => []);
    const edit = onBench(<ValuesSheet />, withReading());
    await userEvent.type(screen.getByRole("textbox", { name: "Next take of plate_t" }), "0.474{Enter}");
    const sent = edit.mock.calls[0]![0] as unknown as { op: string; id: string; take: Record<string, unknown> };
    expect([sent.op, sent.id]).toEqual(["add-take", "q"]);
    expect(sent.take).toMatchObject({ value: 0.474, unit: "inch" });
  });

  it("are added, renamed and deleted", async () => {
    answering(() => []);
    const edit = onBench(<ValuesSheet />, withReading());
    await userEvent.type(screen.getByRole("textbox", { name: "Name of a new value" }), "gap");
    await userEvent.type(screen.getByRole("textbox", { name: "Formula of the new value" }), "plate_t - 2{Enter}");
    expect(edit).toHaveBeenCalledWith(
      expect.objectContaining({
        op: "set-value",
        name: "gap",
        dimension: "length",
        value: { text: "plate_t - 2", mark: "assumed", note: "" },
      }),
    );
    const name = screen.getByRole("textbox", { name: "Name skin" });
    await userEvent.clear(name);
    await userEvent.type(name, "shell{Enter}");
    expect(edit).toHaveBeenCalledWith({ op: "set-value", id: "v", name: "shell" });
    await userEvent.click(screen.getByRole("button", { name: "Delete plate_t" }));
    expect(edit).toHaveBeenCalledWith({ op: "delete-value", id: "q" });
  });
});

describe("checkpoints", () => {
  beforeEach(resetBench);

  it("compare: what was changed, then the map of what moved", async () => {
    const checkpoint = { id: "c1", name: "before the lower boss", created: "2026-11-23T12:00:00Z", current: false };
    const change = { what: "Boss", field: "distance", before: "6 mm", after: "5 mm", step: "x" };
    const moved = { largest: -1, largest_at: [1, 2, 3], moved_share: 0.12 };
    answering((a) => {
      if (a.url.endsWith("/checkpoints")) return [checkpoint];
      if (a.url.endsWith("/compare"))
        return {
          changes: [change],
          task: { id: "t1", kind: "compare", status: "running", result: null, problem: null },
        };
      return {
        id: "t1",
        kind: "compare",
        status: "done",
        result: { moved, volumes: [1000, 900], failed: [[], []] },
        problem: null,
      };
    });
    onBench(<CheckpointSheet />);
    await userEvent.click(await screen.findByRole("button", { name: "Compare with now" }));
    expect(await screen.findByText("5 mm")).toBeInTheDocument();
    await waitFor(() => expect(screen.getByText("12.0 %")).toBeInTheDocument());
    expect(screen.getByText("−1.000 mm")).toBeInTheDocument();
    expect(screen.getByText("−100 mm³")).toBeInTheDocument();
    expect(usePointed.getState().moved?.url).toBe("/api/jobs/j/compare/t1/view");
  });

  it("are set by name", async () => {
    const asked = answering(() => []);
    onBench(<CheckpointSheet />);
    await userEvent.type(screen.getByRole("textbox", { name: "Name of the checkpoint" }), "good state{Enter}");
    await waitFor(() => expect(asked.some((a) => a.method === "POST")).toBe(true));
    expect(asked.find((a) => a.method === "POST")!.body).toEqual({ name: "good state" });
  });
});

describe("repair", () => {
  beforeEach(resetBench);

  it("shows what it pointed to, offers steps, and takes one", async () => {
    answering(() => ({
      wanted: "sketch",
      old: "Old outline",
      place: null,
      whole: null,
      parts: [],
      steps: [{ id: "o", name: "Plate" }],
    }));
    const edit = onBench(<RepairSheet step="x" place="sketch" />);
    expect(await screen.findByText("Old outline")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Use" }));
    expect(edit).toHaveBeenCalledWith({ op: "set-params", step: "x", params: { sketch: { id: "o" } } });
    await waitFor(() => expect(useTool.getState().step).toBe("x"));
  });

  it("a lost edge: what comes from it is said with its length, and the reference is taken as the server gives it", async () => {
    const ref = { body: "x", edge: "x.end[p1]|x.side[e2]", kind: "line", ends: [], place: [1, 2, 3] };
    answering(() => ({
      wanted: "edge",
      old: "edge between Block, end and Block, side e1",
      place: null,
      whole: "x",
      parts: [{ name: ref.edge, label: "edge 2", kind: "line", centre: [1, 2, 3], kin: true, length: 12.5, ref }],
      steps: [],
    }));
    const edit = onBench(<RepairSheet step="x" place="edge" />);
    expect(await screen.findByText(/comes from it/)).toBeInTheDocument();
    expect(screen.getByText(/12\.50? mm/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Use" }));
    expect(edit.mock.calls[0]![0]).toMatchObject({ op: "set-params", step: "x", params: { edge: ref } });
  });
});
