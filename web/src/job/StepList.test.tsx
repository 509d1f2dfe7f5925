import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { answering, onBench, problem, result, sampleJob } from "../test/bench";
import { regionFacts } from "../test/facts";
import { factsInUnit } from "./evidence/scanFacts";
import { gathered } from "./gathered";
import { StepList } from "./StepList";
import { useSeen } from "./seen";

const rowOf = (name: string) => screen.getByRole("button", { name }).closest("li") as HTMLElement;

describe("the step list", () => {
  beforeEach(resetBench);

  it("shows every step with its key value and where it comes from", () => {
    onBench(<StepList />);
    expect(within(rowOf("Plate")).getByRole("textbox")).toHaveValue("-4 mm");
    expect(within(rowOf("Plate")).getByLabelText("intended by the designer")).toBeInTheDocument();
    expect(rowOf("Top")).toHaveTextContent("plane");
  });

  it("commits an edited value by Enter and nothing when it is the same", async () => {
    const edit = onBench(<StepList />);
    const value = within(rowOf("Block")).getByRole("textbox");
    await userEvent.type(value, "{Enter}");
    expect(edit).not.toHaveBeenCalled();
    await userEvent.clear(value);
    await userEvent.type(value, "1/2 inch{Enter}");
    expect(edit).toHaveBeenCalledTimes(1);
    expect(edit).toHaveBeenCalledWith({
      op: "set-params",
      step: "x",
      params: { distance: { text: "1/2 inch", mark: "assumed" } },
    });
  });

  it("puts a value back by Escape", async () => {
    const edit = onBench(<StepList />);
    const value = within(rowOf("Block")).getByRole("textbox");
    await userEvent.type(value, "99{Escape}");
    expect(value).toHaveValue("10 mm");
    expect(edit).not.toHaveBeenCalled();
  });

  it("duplicates a step, or a group, with its inputs asked for", async () => {
    const job = sampleJob();
    const steps = job.recipe.steps.map((s) => (s.id === "r" ? s : { ...s, group: "Plate work" }));
    onBench(<StepList />, { ...job, recipe: { ...job.recipe, steps } });
    await userEvent.click(screen.getByRole("button", { name: "More for Block" }));
    await userEvent.click(await screen.findByRole("menuitem", { name: "Duplicate" }));
    expect(useTool.getState().copied).toEqual(["x"]);
    await userEvent.click(screen.getByRole("button", { name: "Duplicate Plate work" }));
    expect(useTool.getState().copied).toEqual(["o", "x"]);
  });

  it("repeats a step that changes a body, with that body, and offers none for others", async () => {
    const job = sampleJob();
    const boss = { ...job.recipe.steps[2]!, id: "b", name: "Boss" };
    const built = { ...result.steps[2]!, id: "b", name: "Boss", after: { x: "k4" } };
    onBench(<StepList />, {
      ...job,
      recipe: { ...job.recipe, steps: [...job.recipe.steps, boss] },
      build: { ...job.build, result: { ...result, steps: [...result.steps, built] } },
    });
    await userEvent.click(screen.getByRole("button", { name: "More for Block" }));
    await screen.findByText("Duplicate");
    expect(screen.queryByText("Repeat")).toBeNull();
    await userEvent.click(screen.getByRole("button", { name: "More for Boss" }));
    await userEvent.click(await screen.findByText("Repeat"));
    const draft = useTool.getState().draft!;
    expect(draft.kind).toBe("repeat");
    expect(draft.params).toMatchObject({ what: "steps", steps: [{ id: "b" }], bodies: [{ id: "x" }] });
  });

  it("uses another step of the same make in the place of one, and offers none where there is none", async () => {
    const job = sampleJob();
    const other = { ...job.recipe.steps[1]!, id: "o2", name: "Later plate" };
    const edit = onBench(<StepList />, { ...job, recipe: { ...job.recipe, steps: [...job.recipe.steps, other] } });
    await userEvent.click(screen.getByRole("button", { name: "More for Plate" }));
    await userEvent.hover(await screen.findByText("Use another in its place"));
    await userEvent.click(await screen.findByRole("menuitem", { name: "Later plate" }));
    expect(edit).toHaveBeenCalledWith({ op: "use-instead", step: "o", by: "o2" });
    await userEvent.click(screen.getByRole("button", { name: "More for Block" }));
    expect(await screen.findAllByText("Use another in its place")).toHaveLength(1); // that of the first menu
  });

  it("says what hangs on a step before it is deleted, and lets the person choose", async () => {
    answering(() => [{ id: "x", name: "Block" }]);
    const edit = onBench(<StepList />);
    await userEvent.click(screen.getByRole("button", { name: "More for Plate" }));
    await userEvent.click(await screen.findByText("Delete"));
    expect((await screen.findAllByText("1 step hangs on 'Plate'")).length).toBeGreaterThan(0);
    expect(edit).not.toHaveBeenCalled();
    await userEvent.click(screen.getByRole("button", { name: "Delete only this one and repair them" }));
    expect(edit).toHaveBeenCalledWith({ op: "delete-step", step: "o", with_dependents: false });
  });

  it("deletes at once what nothing hangs on", async () => {
    answering(() => []);
    const edit = onBench(<StepList />);
    await userEvent.click(screen.getByRole("button", { name: "More for Block" }));
    await userEvent.click((await screen.findAllByText("Delete")).at(-1)!);
    await waitFor(() => expect(edit).toHaveBeenCalledWith({ op: "delete-step", step: "x", with_dependents: false }));
  });

  it("moves a step, and shows the job as of one", async () => {
    const edit = onBench(<StepList />);
    await userEvent.click(screen.getByRole("button", { name: "More for Plate" }));
    await userEvent.click(await screen.findByText("Move up"));
    expect(edit).toHaveBeenCalledWith({ op: "move-step", step: "o", before: "r" });
    await userEvent.click(screen.getByRole("button", { name: "More for Plate" }));
    await userEvent.click((await screen.findAllByText("View the job as of here")).at(-1)!);
    expect(useSeen.getState().asOf).toBe("o");
    expect(screen.getByRole("status")).toHaveTextContent("As of Plate");
    expect(rowOf("Block")).toHaveClass("step-past");
  });

  it("says the size of a region, and its kind where it has none", () => {
    const steps = result.steps.map((s) =>
      s.id === "r"
        ? { ...s, facts: regionFacts({ kind: "cylinder", inside: true, radius: 9.06, diameter: 18.12 }) }
        : s,
    );
    const job = sampleJob();
    onBench(<StepList />, { ...job, build: { ...job.build, result: { ...result, steps } } });
    expect(rowOf("Top")).toHaveTextContent("Ø 18.12 mm");
    expect(within(rowOf("Top")).queryByRole("textbox")).toBeNull();
  });

  it("gathers regions in a row into one line that says what they are, until one of them is wanted", async () => {
    const job = sampleJob();
    const [top, ...rest] = job.recipe.steps;
    const regions = ["r", "r2", "r3"].map((id, n) => ({ ...top!, id, name: `Top ${n}` }));
    const state = result.steps[0]!;
    const states = [
      state,
      { ...state, id: "r2", facts: regionFacts({ kind: "cylinder", inside: true, radius: 4 }) },
      { ...state, id: "r3" },
    ];
    const steps = [...states, ...result.steps.slice(1)];
    const build = { ...job.build, result: { ...result, steps } };
    onBench(<StepList />, { ...job, build, recipe: { ...job.recipe, steps: [...regions, ...rest] } });
    const fold = screen.getByRole("button", { name: /3 regions: 2 planes, 1 hole/ });
    expect(screen.queryByText("Top 1")).toBeNull();
    expect(rowOf("Plate")).toHaveTextContent(/^4/); // numbered as they are
    await userEvent.click(fold);
    expect(screen.getByText("Top 1")).toBeInTheDocument();
    await userEvent.click(fold);
    expect(screen.queryByText("Top 1")).toBeNull();
  });

  it("leaves regions in sight of which one has a problem or is chosen, and a pair of them alone", () => {
    const region = (id: string) => ({ ...sampleJob().recipe.steps[0]!, id });
    const kinds = { region: { makes: "region" } } as never;
    expect(gathered([region("a"), region("b")], new Map(), kinds).map((g) => g.key)).toEqual([""]);
    const three = gathered([region("a"), region("b"), region("c")], new Map(), kinds);
    expect(three.map((g) => g.title)).toEqual(["3 regions"]);
    const job = sampleJob();
    const steps = [region("r"), region("r2"), region("r3")];
    useTool.setState({ step: "r2" });
    onBench(<StepList />, { ...job, recipe: { ...job.recipe, steps } });
    expect(screen.getAllByText("Top")).toHaveLength(3);
  });

  it("folds a group", async () => {
    const job = sampleJob();
    const steps = job.recipe.steps.map((s) => (s.id === "x" ? s : { ...s, group: "Plate work" }));
    onBench(<StepList />, { ...job, recipe: { ...job.recipe, steps } });
    await userEvent.click(screen.getByRole("button", { name: /^. Plate work/ }));
    expect(screen.queryByRole("button", { name: "Plate" })).toBeNull();
    expect(screen.getByRole("button", { name: "Block" })).toBeInTheDocument();
  });

  it("shows what each step did to the fit", () => {
    onBench(<StepList />);
    expect(rowOf("Block")).toHaveTextContent("+9.1");
  });

  it("offers what a value could be, and takes it with its mark", async () => {
    const candidate = { label: "plate_t", text: "plate_t", mark: "caliper", note: "3 takes", value: 12.02, u: 0.004 };
    const asked = answering(() => ({ value: 10, mark: "assumed", problem: null, candidates: [candidate] }));
    const edit = onBench(<StepList />);
    await userEvent.click(screen.getByRole("button", { name: /^Block: Distance: assumed/ }));
    await userEvent.click(await screen.findByRole("button", { name: /plate_t/ }));
    expect(asked[0]!.body).toMatchObject({ kind: "extrude", place: "distance", own: "x", text: "10 mm" });
    expect(edit).toHaveBeenCalledWith({
      op: "set-params",
      step: "x",
      params: { distance: { text: "plate_t", mark: "caliper", note: "3 takes" } },
    });
  });

  it("opens the repair of a lost reference from its row", async () => {
    const broken = structuredClone(result);
    broken.steps[2] = {
      ...broken.steps[2]!,
      status: "failed",
      problems: [problem({ code: "ref-lost", message: "the plane face is no longer there" }, { param: "until_face" })],
    };
    const job = sampleJob();
    onBench(<StepList />, { ...job, build: { ...job.build, result: broken } });
    await userEvent.click(within(rowOf("Block")).getByRole("button", { name: "Repair …" }));
    expect(useTool.getState().repair).toEqual({ step: "x", place: "until_face" });
  });

  it("switches a step off and renames one", async () => {
    const edit = onBench(<StepList />);
    await userEvent.click(screen.getByRole("button", { name: "More for Block" }));
    await userEvent.click(await screen.findByText("Switch off"));
    expect(edit).toHaveBeenCalledWith({ op: "switch-step", step: "x", enabled: false });
    await userEvent.click(screen.getByRole("button", { name: "More for Top" }));
    await userEvent.click((await screen.findAllByText("Rename")).at(-1)!);
    const name = screen.getByRole("textbox", { name: "Step name" });
    await userEvent.clear(name);
    await userEvent.type(name, "Upper face{Enter}");
    expect(edit).toHaveBeenCalledWith({ op: "rename-step", step: "r", name: "Upper face" });
  });

  it("shows a failed step's reason and remedy in place", () => {
    const broken = structuredClone(result);
    broken.steps[2] = {
      ...broken.steps[2]!,
      status: "failed",
      problems: [
        problem(
          { code: "body-broken", message: "an extrusion needs a distance", remedy: "type a distance" },
          { point: [1, 2, 3] },
        ),
      ],
    };
    const job = sampleJob();
    onBench(<StepList />, { ...job, build: { ...job.build, result: broken } });
    expect(rowOf("Block")).toHaveAttribute("data-status", "failed");
    expect(within(rowOf("Block")).getByRole("alert")).toHaveTextContent("Try: type a distance");
    expect(within(rowOf("Block")).getByRole("button", { name: "Show the place" })).toBeInTheDocument();
  });

  it("selects a step and lets it go again", async () => {
    onBench(<StepList />);
    await userEvent.click(screen.getByRole("button", { name: "Plate" }));
    expect(useTool.getState().step).toBe("o");
    await userEvent.click(screen.getByRole("button", { name: "Plate" }));
    expect(useTool.getState().step).toBeNull();
  });

  it("tells a newcomer what to do with an empty list", () => {
    const job = sampleJob();
    const scan = { id: "s", kind: "scan", name: "a.stl", blob: "b", format: "stl", unit: "mm" } as never;
    onBench(<StepList />, { ...job, recipe: { ...job.recipe, evidence: [scan], steps: [] } });
    expect(screen.getByText(/Click a flat or round place/)).toBeInTheDocument();
  });

  it("says that readings gather first where there is no scan", () => {
    const job = sampleJob();
    onBench(<StepList />, { ...job, recipe: { ...job.recipe, steps: [] } });
    expect(screen.getByText(/Steps begin on a scan, or on an outline/)).toBeInTheDocument();
  });

  it("turns a scan's facts from file units into the job's", () => {
    const facts = {
      facets: 12,
      vertices: 8,
      size: [1, 2, 3] as [number, number, number],
      area: 22,
      volume: 6,
      open_edges: 0,
      closed: true,
      noise: 0.02,
      made: "scanned" as const,
      unit_guess: "inch" as const,
      unit_said: false,
      warnings: [],
    };
    const rows = Object.fromEntries(factsInUnit(facts, "inch", "mm"));
    expect(rows.Size).toBe("25.40 × 50.80 × 76.20 mm");
    expect(rows.Volume).toBe("98,322 mm³");
    expect(Object.fromEntries(factsInUnit({ ...facts, volume: null }, "mm", "mm")).Volume).toBe("not closed");
    expect(rows["Noise (σ)"]).toBe("0.508 mm");
    const exact = Object.fromEntries(factsInUnit({ ...facts, made: "modelled", noise: 4e-6 }, "mm", "mm"));
    expect(exact["Vertices exact to"]).toBe("0.000004 mm");
    expect(exact).not.toHaveProperty("Noise (σ)");
  });
});
