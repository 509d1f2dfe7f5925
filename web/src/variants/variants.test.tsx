import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, expect, it } from "vitest";
import type { Column, Variant } from "../api/client";
import { answering, onBench, problem, sampleJob } from "../test/bench";
import { usePointed } from "../view/pointed";
import { placeOf, rowsOf, settable, withSetting } from "./settable";
import { VariantsSheet } from "./VariantsSheet";

const skin = {
  id: "v1",
  name: "skin",
  dimension: "length" as const,
  note: "",
  value: { text: "2 mm", mark: "assumed" as const, note: "" },
};
const setting = (of: string, text: string, place = "") => ({
  of,
  place,
  value: { text, mark: "assumed" as const, note: "" },
});
const worn: Variant = {
  id: "w",
  name: "worn",
  note: "",
  settings: [setting("v1", "1.7 mm"), setting("lost", "3 mm", "depth")],
};
const fresh: Variant = { id: "n", name: "as new", note: "", settings: [] };
const base = sampleJob();
const job = (variants: Variant[]) => sampleJob({ recipe: { ...base.recipe, values: [skin], variants } });

const column = (id: string, part: Partial<Column> = {}): Column => ({
  id,
  name: id || "as it stands",
  values: { v1: { value: 2, length: 1, angle: 0, mark: "assumed" } },
  bodies: 1,
  closed: 1,
  volume: 5000,
  mass: null,
  fit: { inside_share: 0.9, rms: 0.02, p95: 0.05, max: 0.2 },
  lost: [],
  problem: null,
  ...part,
});

beforeEach(() => usePointed.getState().set({ moved: null }));

it("names what can be set, keeps rows of what was lost, and takes a setting out by an empty text", () => {
  const all = settable(job([worn]).recipe, {});
  expect(all.map((s) => [s.label, s.text])).toEqual([["skin", "2 mm"]]);
  const rows = rowsOf([worn, fresh], all, []);
  expect(rows.map((r) => [placeOf(r), r.label])).toEqual([
    ["v1", "skin"],
    ["lost/depth", "gone from the job"],
  ]);
  expect(withSetting(worn.settings!, rows[1]!, " ").map((s) => s.of)).toEqual(["v1"]);
  expect(withSetting(worn.settings!, rows[0]!, "1.8 mm")[0]!.value.text).toBe("1.8 mm");
  expect(withSetting([], rows[0]!, "1 mm")).toEqual([setting("v1", "1 mm")]);
});

it("begins with a name, and says what a variant is for", () => {
  const edit = onBench(<VariantsSheet />, job([]));
  expect(screen.queryByRole("table")).toBeNull();
  const name = screen.getByLabelText("Name of a new variant");
  fireEvent.change(name, { target: { value: "worn" } });
  fireEvent.keyDown(name, { key: "Enter" });
  expect(edit).toHaveBeenCalledWith(expect.objectContaining({ op: "put-variant", name: "worn" }));
});

it("sets a value in its cell, and takes or drops a variant", () => {
  const edit = onBench(<VariantsSheet />, job([worn, fresh]));
  const cell = screen.getByLabelText("skin in as new");
  expect(cell).toHaveAttribute("placeholder", "2 mm");
  fireEvent.change(cell, { target: { value: "2.5 mm" } });
  fireEvent.blur(cell);
  expect(edit).toHaveBeenCalledWith({ op: "put-variant", id: "n", settings: [setting("v1", "2.5 mm")] });
  fireEvent.click(screen.getAllByRole("button", { name: "Take it" })[0]!);
  expect(edit).toHaveBeenLastCalledWith({ op: "take-variant", id: "w" });
  fireEvent.click(screen.getByRole("button", { name: "Drop the variant as new" }));
  expect(edit).toHaveBeenLastCalledWith({ op: "drop-variant", id: "n" });
});

it("shows them side by side: the closest to the scan, and what does not come out", async () => {
  const columns = [
    column(""),
    column("w", {
      fit: { inside_share: 0.97, rms: 0.01, p95: 0.04, max: 0.1 },
      lost: [{ step: "s", name: "Bore", message: "it misses the body" }],
    }),
    column("n", {
      problem: problem({
        code: "not-found",
        message: "the step whose value it sets is gone",
        remedy: "take the setting out",
      }),
    }),
  ];
  const asked = answering(() => ({ id: "t", kind: "variants", status: "done", problem: null, result: { columns } }));
  onBench(<VariantsSheet />, job([worn, fresh]));
  fireEvent.click(screen.getByRole("button", { name: "Build them side by side" }));
  const row = (await screen.findByText(/^Scan within/)).closest("tr")!;
  expect(
    within(row)
      .getAllByRole("cell")
      .map((c) => c.textContent),
  ).toEqual(["90.0 %", "97.0 %closest to the scan", "–"]);
  expect(screen.getByText("Bore").parentElement).toHaveTextContent("it misses the body");
  expect(screen.getByText(/the step whose value it sets is gone/)).toBeInTheDocument();
  expect(screen.queryByText("Mass")).toBeNull();
  expect(asked[0]!.url).toMatch(/variants$/);
});

it("shows in the view what one of them moves, and hides it again", async () => {
  answering(({ url }) =>
    url.endsWith("compare") || url.includes("compare/")
      ? {
          changes: [],
          task: { id: "c", status: "queued" },
          id: "c",
          status: "done",
          problem: null,
          result: { moved: { largest: -0.3, largest_at: [0, 0, 0], moved_share: 0.1 }, volumes: [1, 2] },
        }
      : null,
  );
  onBench(<VariantsSheet />, job([worn]));
  fireEvent.click(screen.getByRole("button", { name: "What moves" }));
  expect(await screen.findByText("most −0.300 mm")).toBeInTheDocument();
  expect(usePointed.getState().moved?.url).toContain("/compare/c/view");
  fireEvent.click(screen.getByRole("button", { name: "Hide" }));
  await waitFor(() => expect(usePointed.getState().moved).toBeNull());
});
