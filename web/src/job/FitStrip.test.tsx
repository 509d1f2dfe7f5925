import { act, cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { usePassing } from "../steps/passing";
import { onBench, sampleJob } from "../test/bench";
import { light } from "../theme";
import { useAppearance } from "../view/appearance";
import { Legend } from "../view/Legend";
import { FitStrip } from "./FitStrip";

describe("the fit strip", () => {
  beforeEach(resetBench);

  it("says how much is inside, where it is worst, and what the last step did", () => {
    onBench(<FitStrip />);
    expect(screen.getByText("82.9 %")).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "−0.40 mm" })).toBeInTheDocument();
    expect(screen.getByText("+9.1 %")).toBeInTheDocument();
    expect(screen.getByText("1.4 %")).toBeInTheDocument();
    expect(screen.getByRole("img", { name: /Signed deviations/ }).querySelectorAll("rect")).toHaveLength(48);
  });

  it("follows what is being prepared, and goes back when that is over", () => {
    const job = sampleJob();
    const whole = job.build.result!.fit!.figures;
    onBench(<FitStrip />, job);
    const last = Object.values(job.build.result!.fit!.by_step!).at(-1)!.inside_share;
    act(() =>
      usePassing.getState().set({ fit: { ...whole, inside_share: last - 0.05, unseen_share: null, sampled: true } }),
    );
    expect(screen.getByText("77.9 %")).toBeInTheDocument();
    expect(screen.getByText("if taken").nextSibling).toHaveTextContent("−5.0 %");
    expect(screen.getByRole("region", { name: "Fit strip" })).toHaveAttribute("data-fit", "passing");
    act(() => usePassing.getState().set({ fit: null }));
    expect(screen.getByText("82.9 %")).toBeInTheDocument();
    expect(screen.queryByText("if taken")).toBeNull();
  });

  it("keeps the room of its figures from the first sketch or body on, so that the view stays where it is when they come", () => {
    const job = sampleJob();
    const evidence = [{ id: "s", kind: "scan" } as never];
    const build = { ...job.build, result: { ...job.build.result!, fit: null } };
    const unfit = { ...job, recipe: { ...job.recipe, evidence }, build };
    onBench(<FitStrip />, unfit);
    expect(screen.getByText(/as soon as there is a body/)).toHaveClass("fit-awaited");
    cleanup();
    onBench(<FitStrip />, { ...unfit, recipe: { ...unfit.recipe, steps: unfit.recipe.steps.slice(0, 1) } });
    const said = screen.getByText(/as soon as there is a body/);
    expect(said).not.toHaveClass("fit-awaited");
    // What is being prepared may be the first.
    act(() => useTool.getState().openDraft({ kind: "extrude", params: {} }));
    expect(said).toHaveClass("fit-awaited");
    act(() => useTool.getState().close());
  });

  it("takes a new acceptance", async () => {
    const edit = onBench(<FitStrip />);
    const box = screen.getByRole("textbox", { name: "Acceptance" });
    await userEvent.clear(box);
    await userEvent.type(box, "0.2{Enter}");
    expect(edit).toHaveBeenCalledWith({ op: "set-job", acceptance: { text: "0.2", mark: "intent", note: "" } });
  });

  it("colours the view and goes back", async () => {
    onBench(<FitStrip />);
    await userEvent.click(screen.getByRole("button", { name: "Colour by deviation" }));
    expect(useAppearance.getState().coloured).toBe(true);
    await userEvent.click(screen.getByRole("button", { name: "Plain view" }));
    expect(useAppearance.getState().coloured).toBe(false);
  });

  it("shows what is running and offers to stop it", () => {
    const job = sampleJob();
    const build = { ...job.build, status: "running" as const, progress: { event: "step", name: "Block" } };
    onBench(<FitStrip />, { ...job, build });
    expect(screen.getByRole("status")).toHaveTextContent("Block");
    expect(screen.getByRole("button", { name: "Stop" })).toBeInTheDocument();
  });

  it("says what it will show before there is a body", () => {
    const job = sampleJob();
    const bare = { ...job, build: { ...job.build, result: { ...job.build.result!, fit: null } } };
    const scan = { id: "s", kind: "scan" } as never;
    onBench(<FitStrip />, { ...bare, recipe: { ...bare.recipe, evidence: [scan] } });
    expect(screen.getByText(/as soon as there is a body/)).toBeInTheDocument();
    cleanup();
    onBench(<FitStrip />, bare);
    expect(screen.getByText(/Bring in a scan/)).toBeInTheDocument();
  });

  it("explains its colours in the job's unit", () => {
    onBench(<Legend acceptance={0.1} unit="mm" palette={light} />);
    expect(screen.getByText("inside ±0.10 mm")).toBeInTheDocument();
    expect(screen.getByText("over +0.40 mm")).toBeInTheDocument();
    expect(screen.getByText("under −0.40 mm")).toBeInTheDocument();
  });

  it("no two of its rows read alike, however small what they tell of is", () => {
    onBench(<Legend acceptance={0.006} unit="mm" palette={light} what="form" />);
    const rows = screen.getAllByText(/(over|from|to|under|inside) ?[+−±]/).map((r) => r.textContent);
    expect(rows.length).toBeGreaterThan(8);
    expect(new Set(rows).size).toBe(rows.length);
  });
});
