import { act, cleanup, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { FaceFacts, GrowOut, SectionOut } from "../api/client";
import { ProblemError } from "../api/client";
import { useArmed } from "../pick/armed";
import { usePicks } from "../pick/picks";
import { SelectionCard } from "../pick/SelectionCard";
import { plainSection } from "../section/draft";
import { SectionSheet } from "../section/SectionSheet";
import { resetBench } from "../shell/reset";
import { DraftSheet } from "../steps/DraftSheet";
import { usePassing } from "../steps/passing";
import { StepSheet } from "../steps/StepSheet";
import { answering, emptyPreview, onBench, sampleJob } from "../test/bench";
import { useTool } from "./tool";

const grown = (kind: "plane" | "cylinder", outward = 1) =>
  ({ facets: "", count: 8412, surface: { kind, origin: [0, 0, 0], axis: [0, 0, 1], radius: 9.01, outward, half_angle: 0, minor: 0 }, rms: 0.02, largest: -0.06, largest_at: [0, 0, 0], area: 650, tolerance: 0.08, source_seeds: [1], source_removed: [], untried: [] }) as GrowOut; // biome-ignore format: one object

const form = { flatness: null, roundness: 0.18, cylindricity: 0.2, straightness: 0.02, widest: [1, 0, 0], profile: [[0, 0.1], [90, 0], [180, -0.08], [270, 0]], u: 0.004, radius: 9, facets: "", residuals: "", worn: "", depth: 0.15 }; // biome-ignore format: one object

const piece = (kind: "line" | "arc") => ({
  kind,
  start: [0, 0],
  end: [1, 0],
  mid: null,
  points: [],
  radius: kind === "arc" ? 4.5 : null,
  length: 12,
  rms: 0,
  path: [],
});
const section = {
  offset_mm: -4,
  tolerance: 0.08,
  cuts: [],
  origin: [0, 0, 0],
  u_axis: [1, 0, 0],
  normal: [0, 0, 1],
  loops: [
    {
      relations: [],
      closed: true,
      length: 40,
      area: 100,
      pieces: [piece("line"), piece("line"), piece("line"), piece("line")],
    },
    { relations: [], closed: false, length: 12, area: 0, pieces: [piece("arc")] },
  ],
} as unknown as SectionOut;

const idle = { facets: null, problem: null, onKeep: vi.fn(), onSection: vi.fn(), onDraw: vi.fn(), onBegin: vi.fn() };

describe("cards and sheets", () => {
  beforeEach(resetBench);

  it("kinds that there was no time for are named, in the words of the choice above", () => {
    usePicks.getState().start(5, [0, 0, 0]);
    const some = { ...grown("plane"), untried: ["cone", "torus"] } as GrowOut;
    onBench(<SelectionCard {...idle} grown={some} />);
    expect(screen.getByText(/no time to try cone, torus/)).toBeInTheDocument();
  });

  it("a plane offers a section, a bore does not", () => {
    usePicks.getState().start(5, [0, 0, 0]);
    onBench(<SelectionCard {...idle} grown={grown("plane")} />);
    expect(screen.getByRole("heading")).toHaveTextContent("Plane, flat within 0.06 mm");
    expect(screen.getByRole("button", { name: /Cut a section/ })).toBeInTheDocument();
  });

  it("a bore says its diameter, and digits run the actions", async () => {
    const keep = vi.fn();
    onBench(<SelectionCard {...idle} grown={grown("cylinder", -1)} onKeep={keep} />);
    expect(screen.getByRole("heading")).toHaveTextContent("Hole, Ø 18.02 mm");
    expect(screen.queryByRole("button", { name: /Cut a section/ })).toBeNull();
    await userEvent.keyboard("1");
    expect(keep).toHaveBeenCalledTimes(1);
    expect(screen.getByRole("button", { name: /Turned profile/ })).toBeInTheDocument();
  });

  it("begins the kinds of steps that declare it: of a hole others than of a boss", async () => {
    const begin = vi.fn();
    onBench(<SelectionCard {...idle} grown={grown("cylinder", -1)} onBegin={begin} />);
    await userEvent.click(await screen.findByRole("button", { name: /Hole$/ }));
    expect(begin).toHaveBeenCalledWith("hole");
    cleanup();
    onBench(<SelectionCard {...idle} grown={grown("cylinder")} onBegin={begin} />);
    await userEvent.click(await screen.findByRole("button", { name: /Cylinder$/ }));
    expect(begin).toHaveBeenCalledWith("primitive");
    expect(screen.queryByRole("button", { name: /Hole$/ })).toBeNull();
  });

  it("a pick on nothing says why and what to try", () => {
    const problem = new ProblemError(
      { code: "fit-failed", message: "no plane or cylinder here", remedy: "pick further from the edge" },
      422,
    );
    onBench(<SelectionCard {...idle} grown={undefined} problem={problem} />);
    expect(screen.getByRole("alert")).toHaveTextContent("Try: pick further from the edge");
  });

  it("the section lists its loops, and unticking one leaves its pieces out", async () => {
    useTool.getState().openSection({
      ...plainSection,
      region: "r",
      origin: [0, 0, 0],
      normal: [0, 0, 1],
      offset: "-4",
      tolerance: "",
      left: [],
    });
    const take = vi.fn();
    onBench(<SectionSheet fitted={section} problem={null} busy={false} onTake={take} />);
    expect(screen.getByText("2 loops: 4 lines, 1 arc")).toBeInTheDocument();
    expect(screen.getByText("open")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("checkbox", { name: "Take loop 1" }));
    expect(useTool.getState().section?.left).toEqual(["0.0", "0.1", "0.2", "0.3"]);
    await userEvent.click(screen.getByRole("button", { name: /Take as a sketch/ }));
    expect(take).toHaveBeenCalledTimes(1);
  });

  it("a section beside the part says so and cannot be taken", () => {
    useTool.getState().openSection({
      ...plainSection,
      region: "r",
      origin: [0, 0, 0],
      normal: [0, 0, 1],
      offset: "99",
      tolerance: "",
      left: [],
    });
    onBench(<SectionSheet fitted={{ ...section, loops: [] }} problem={null} busy={false} onTake={vi.fn()} />);
    expect(screen.getByText(/misses the scan/)).toBeInTheDocument();
    expect(screen.getByRole("button", { name: /Take as a sketch/ })).toBeDisabled();
  });

  it("extruding asks for bodies only when it works on some, and for a face only until one", async () => {
    answering(() => ({ bodies: [], problems: [], ran: [], passed: [] }));
    const params = { sketch: { id: "o" }, distance: { text: "10 mm" }, operation: "new", bodies: [] };
    useTool.getState().openDraft({ kind: "extrude", params });
    const keep = vi.fn();
    onBench(<DraftSheet after={null} onKeep={keep} />);
    expect(screen.getByText(/1 profile/)).toBeInTheDocument();
    expect(screen.queryByText("Bodies")).toBeNull();
    expect(screen.queryByText("Ends at face")).toBeNull();
    await userEvent.click(screen.getByRole("checkbox", { name: /half of the distance each way/ }));
    await userEvent.click(screen.getByText("subtract"));
    expect(screen.getByText("Bodies")).toBeInTheDocument();
    await userEvent.click(screen.getByText("ends at"));
    expect(screen.getByText("Ends at face")).toBeInTheDocument();
    expect(useTool.getState().draft?.params).toMatchObject({ operation: "subtract", extent: "until", symmetric: true });
    expect(screen.queryByText("Distance")).toBeNull();
    // It waits for what it ends at, and blames nobody.
    const take = screen.getByRole("button", { name: /Extrude/ });
    expect(take).toBeDisabled();
    expect(screen.queryByRole("alert")).toBeNull();
    act(() => useTool.getState().setDraft({ until_face: { body: "b", name: "top", kind: "plane" } }));
    await userEvent.click(take);
    expect(keep).toHaveBeenCalledTimes(1);
  });

  it("a sketch with nothing closed is tried: what is made of open lines is shown, all else says why not", async () => {
    const open = sampleJob();
    const steps = open.build.result!.steps.map((s) =>
      s.id === "o" ? { ...s, facts: { ...s.facts!, profiles: 0 } } : s,
    );
    const job = { ...open, build: { ...open.build, result: { ...open.build.result!, steps } } } as typeof open;
    const why = { code: "no-profile", message: "nothing in the drawing closes", remedy: "draw what closes it" };
    answering(() => ({ ...emptyPreview, problems: [why] }));
    useTool.getState().openDraft({ kind: "extrude", params: { sketch: { id: "o" }, distance: { text: "10 mm" } } });
    onBench(<DraftSheet after={null} onKeep={vi.fn()} />, job);
    expect(screen.getByText("This sketch has no closed profile yet.")).toBeInTheDocument();
    expect(await screen.findByText(why.message)).toBeInTheDocument();
    expect(screen.getByRole("button", { name: /Extrude/ })).toBeEnabled();
  });

  it("what is typed into a draft is previewed, and only the last of it", async () => {
    const asked = answering(() => ({
      bodies: [{ id: "x", name: "Block", colour: null, key: "k9", view: null }],
      problems: [],
      ran: ["n"],
      scans: [],
      facts: {},
      handles: {},
    }));
    const params = { sketch: { id: "o" }, distance: { text: "10 mm" }, operation: "new", bodies: [] };
    useTool.getState().openDraft({ kind: "extrude", params });
    onBench(<DraftSheet after={null} onKeep={vi.fn()} />);
    const value = screen.getByRole("textbox", { name: "Distance" });
    await userEvent.clear(value);
    await userEvent.type(value, "25 mm");
    await vi.waitFor(() => expect(usePassing.getState().preview?.[0]?.key).toBe("k9"));
    const last = () => (asked.at(-1)!.body as { edit: { op: string; params: { distance: { text: string } } } }).edit;
    await vi.waitFor(() => expect(last().params.distance.text).toBe("25 mm"));
    expect(last().op).toBe("add-step");
  });

  it("a face waits for its pick and takes it", async () => {
    answering(() => ({ bodies: [], problems: [], ran: [], passed: [] }));
    const params = { sketch: { id: "o" }, distance: { text: "10 mm" }, extent: "until" };
    useTool.getState().openDraft({ kind: "extrude", params });
    onBench(<DraftSheet after={null} onKeep={vi.fn()} />);
    await userEvent.click(screen.getByRole("button", { name: "Pick" }));
    const { armed } = useArmed.getState();
    expect(Object.keys(armed ?? {}).filter((k) => k.startsWith("on"))).toEqual(["onFace"]);
    const face = {
      name: "x.end[e1]",
      kind: "plane",
      beside: ["x.side[e1]"],
      centre: [1, 2, 3],
      area: 4,
      label: "Block, end",
    };
    armed?.onFace?.({ body: "x", key: "k3", index: 6, face: face as unknown as FaceFacts });
    expect(useArmed.getState().armed).toBeNull();
    expect(useTool.getState().draft?.params.until_face).toEqual({
      body: "x",
      name: "x.end[e1]",
      kind: "plane",
      beside: ["x.side[e1]"],
      place: [1, 2, 3],
    });
  });

  it("a region's sheet leads to a section, an outline's to an extrusion", async () => {
    useTool.getState().select("r");
    answering(() => form);
    const edit = onBench(<StepSheet />);
    expect(await screen.findByText(/looks worn, by up to 0\.15 mm/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Leave it out of the fit" }));
    expect(edit).toHaveBeenCalledWith({ op: "set-params", step: "r", params: { leave_worn: true } });
    await userEvent.click(screen.getByRole("button", { name: "Cut a section" }));
    expect(useTool.getState().section).toMatchObject({ region: "r", source: "section", offset: "-2 mm" });
    act(() => useTool.getState().select("r"));
    await userEvent.click(screen.getByRole("combobox", { name: "Surface" }));
    await userEvent.click(await screen.findByTitle("cylinder"));
    expect(edit).toHaveBeenCalledWith({ op: "set-params", step: "r", params: { surface: "cylinder" } });
  });

  it("an extrusion's sheet shows what it made", () => {
    useTool.getState().select("x");
    onBench(<StepSheet />);
    expect(screen.getByText("10,870 mm³")).toBeInTheDocument();
    expect(screen.getByRole("textbox", { name: "Distance" })).toHaveValue("10 mm");
  });
});
