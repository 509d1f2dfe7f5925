import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import { useTool } from "../sheets/tool";
import { resetBench } from "../shell/reset";
import { roundPath } from "../steps/RegionForm";
import { answering, onBench, sampleJob } from "../test/bench";
import { light } from "../theme";
import { regionColours } from "../view/regionColours";
import { alike, grouped, keepWords, nameOf, type Proposal, type RegionRow, sizeOf, stepNames } from "./facts";
import { RegionsSheet } from "./RegionsSheet";
import { planeOfSight } from "./RegionTools";
import { facetsOf, useRegions } from "./store";
import { ToSolid } from "./ToSolid";

const row = (id: number, kind: string, part: Partial<RegionRow> = {}): RegionRow => ({
  id,
  kind,
  facets: 900 - id,
  area: 400 - 10 * id,
  rms: 0.02,
  params: {},
  u: {},
  outward: 1,
  is_fillet: false,
  is_chamfer: false,
  blend: null,
  ball: null,
  weak: false,
  same_surface: id,
  worn_area: 0,
  at: [0, 0, 0],
  outwards: [0, 0, 1],
  candidates: [],
  ...part,
});
const bore = (id: number, radius: number, part: Partial<RegionRow> = {}) =>
  row(id, "cylinder", { outward: -1, params: { radius }, u: { radius: 0.005 }, ...part });
const rows = [row(0, "plane"), bore(1, 8.01), bore(2, 7.99), bore(3, 4), row(4, "freeform"), row(5, "cone", { params: { half_angle: 45 }, is_chamfer: true })]; // biome-ignore format: a part
const proposal = (kind: string, regions: number[], part: Partial<Proposal> = {}): Proposal => ({ kind, regions, text: `${kind} of ${regions}`, away: 0.4, measured: null, proposed: null, u: null, unit: "mm", missing: [], stated: "", ...part }); // biome-ignore format: one object

describe("regions in words", () => {
  it("are called what people at a bench call them, with the size that tells them apart", () => {
    expect(rows.map(nameOf)).toEqual(["Plane", "Hole", "Hole", "Hole", "Freeform", "Chamfer"]);
    expect(sizeOf(bore(1, 8.01), "mm")).toBe("Ø 16.02 mm");
    expect(sizeOf(bore(1, 3, { is_fillet: true, ball: 3.08 }), "mm")).toBe("R 3.08 mm");
    expect(sizeOf(rows[5]!, "mm")).toBe("45.00° to axis");
    expect(nameOf(row(7, "torus", { outward: -1 }))).toBe("Inside torus");
  });

  it("threads are called by the standard that is near, or else by what was measured", () => {
    const near = [{ designation: "M10x1.5", difference_u: 0.8 }];
    const params = { major: 9.98, minor: 8.36, pitch: 1.5004, hand: "right" as const };
    const hole = row(8, "thread", { outward: -1, params, u: { major: 0.01 }, candidates: near });
    expect([nameOf(hole), sizeOf(hole, "mm")]).toEqual(["Threaded hole", "M10x1.5"]);
    expect(nameOf({ ...hole, outward: 1 })).toBe("Threaded stud");
    const odd = { ...hole, candidates: [{ designation: "M10x1.5", difference_u: 40 }] };
    expect(sizeOf(odd, "mm")).toBe("Ø 9.98 × 1.500 mm");
    expect([keepWords([hole]), keepWords([hole, odd]), keepWords([hole, bore(1, 3)])]).toEqual([
      "Keep as a thread",
      "Keep 2 as threads",
      "Keep 2 as regions",
    ]);
  });

  it("alike are those of one kind and size, as far as their fits tell", () => {
    expect(alike(rows[1]!, rows)).toEqual([1, 2]);
    expect(alike(rows[0]!, rows)).toEqual([0]);
  });

  it("get names that no step has yet", () => {
    expect(stepNames([rows[1]!, rows[2]!, rows[0]!], ["Hole 1"])).toEqual(["Hole 2", "Hole 3", "Plane 1"]);
  });

  it("proposals stand by what they are about", () => {
    const listed = [proposal("coaxial", [1, 2]), proposal("round", [1]), proposal("round", [3])];
    const found = grouped(listed.map((p, at) => ({ at, p })));
    expect(found.map((g) => [g.title, g.rows.length])).toEqual([["Whole sizes", 2], ["Coaxial", 1]]); // biome-ignore format: pairs
    expect(found[0]!.rows[0]!.at).toBe(1);
  });
});

describe("a round profile", () => {
  it("closes when it was seen all round, and is broken where it was not", () => {
    const all = Array.from({ length: 36 }, (_, k) => [k * 10, 0] as [number, number]);
    expect(roundPath(all, 100).endsWith("Z")).toBe(true);
    const half = roundPath(all.slice(0, 18), 100);
    expect(half.endsWith("Z")).toBe(false);
    expect(half.match(/M/g)).toHaveLength(1);
    const broken = roundPath([...all.slice(0, 5), ...all.slice(9, 14)], 100);
    expect(broken.match(/M/g)).toHaveLength(2);
  });
});

describe("colours of regions", () => {
  it("ink lies where two meet, hidden kinds look like the bare scan", () => {
    const index = [0, 1, 2, 2, 1, 3];
    const shown = [{ kind: "plane", hidden: false }, { kind: "cylinder", hidden: true }]; // biome-ignore format: two
    const c = regionColours(index, 4, Int32Array.from([0, 1]), shown, null, light);
    const at = (v: number) => Array.from(c.slice(3 * v, 3 * v + 3)).join();
    expect(at(1)).toBe(at(2));
    expect(new Set([at(0), at(1), at(3)]).size).toBe(3);
    const bare = regionColours(index, 4, Int32Array.from([-1, -1]), shown, null, light);
    expect(Array.from(bare.slice(0, 3)).join()).toBe(at(3));
    expect(Array.from(facetsOf(Int32Array.from([0, 1, 1, -1]), [1]))).toEqual([1, 2]);
  });
});

describe("the sheet", () => {
  beforeEach(() => {
    resetBench();
    useRegions.getState().clear();
  });

  const found = { scan: "k", mesh: "scanned" as const,
 noise: 0.02, edge: 0.6, unassigned: 0.004, system: "mm", regions: rows, proposals: [proposal("equal-radius", [1, 2], { text: "2 bores of one radius", demand: { kind: "equal-size", members: [1, 2] } }), proposal("bolt-circle", [1, 2, 3], { text: "3 on a circle", missing: [[1, 2, 3]] })], alike: [], rejected: [] }; // biome-ignore format: one object
  const scanKey = "k0"; // as the bench of the tests has it
  const show = () => {
    useRegions.getState().set({ task: "t", scan: scanKey, found, labels: Int32Array.from([0, 1, 2]) });
    return onBench(<RegionsSheet />, sampleJob());
  };

  it("lists, hides kinds, chooses alike and keeps what is chosen", async () => {
    const asked = answering(() => sampleJob());
    show();
    expect(screen.getByText(/6 regions · noise 0\.020 mm · 0\.4 %/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: /1 freeform/ }));
    expect(screen.queryByText("Freeform")).toBeNull();
    const bores = screen.getAllByRole("row").filter((r) => within(r).queryByText("Hole"));
    await userEvent.click(within(bores[0]!).getByRole("checkbox"));
    await userEvent.click(screen.getByRole("button", { name: "Choose alike" }));
    expect(useRegions.getState().chosen).toEqual([1, 2]);
    await userEvent.click(screen.getByRole("button", { name: "Keep 2 as regions" }));
    await waitFor(() => expect(asked.at(-1)?.url).toMatch(/regions\/t\/keep$/));
    expect(asked.at(-1)?.body).toMatchObject({ regions: [1, 2], names: ["Hole 1", "Hole 2"] });
  });

  it("chooses a region by a click anywhere on its row but its name, which flies there", async () => {
    show();
    const row = screen.getAllByRole("row").find((r) => within(r).queryByText("Hole"))!;
    const [, , size] = within(row).getAllByRole("cell");
    await userEvent.click(size!);
    const { chosen } = useRegions.getState();
    expect(chosen).toHaveLength(1);
    await userEvent.click(within(row).getByRole("button", { name: /Hole/ }));
    expect(useRegions.getState().chosen).toEqual(chosen);
    await userEvent.click(size!);
    expect(useRegions.getState().chosen).toEqual([]);
    await userEvent.click(within(row).getByRole("checkbox"));
    expect(useRegions.getState().chosen).toEqual(chosen);
  });

  it("says what repeats around an axis, and goes on to one sector of it", async () => {
    const steps = [...sampleJob().recipe.steps, { ...sampleJob().recipe.steps[0]!, id: "kept" }];
    const asked = answering(() => ({ ...sampleJob(), recipe: { ...sampleJob().recipe, steps } }));
    const alike = [{ count: 18, agree: 0.96, region: 1, point: [0, 0, 0], axis: [0, 0, 1] }];
    useRegions
      .getState()
      .set({ task: "t", scan: scanKey, found: { ...found, alike } as never, labels: new Int32Array(3) });
    onBench(<RegionsSheet />, sampleJob());
    expect(screen.getByText(/18 alike around the axis of/)).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Work on one sector" }));
    await waitFor(() => expect(useTool.getState().draft?.kind).toBe("sector"));
    expect(useTool.getState().draft?.params).toMatchObject({ scan: { id: "s" }, axis: { id: "kept" } });
    expect(asked.find((a) => a.url.endsWith("/keep"))?.body).toMatchObject({ regions: [1] });
  });

  it.each([
    ["scanned", false, false],
    ["mixed", true, false],
    ["modelled", false, true],
  ] as const)("says of a %s mesh what it is good for", async (mesh, mixed, whole) => {
    onBench(<ToSolid mesh={mesh} />);
    expect(screen.queryByText(/part was scanned: exact faces/) !== null).toBe(mixed);
    const button = screen.queryByRole("button", { name: "Faces to solid" });
    expect(button !== null).toBe(whole);
    if (!button) return;
    await userEvent.click(button);
    expect(useTool.getState().draft).toEqual({ kind: "solidify", params: { scan: { id: "s" } } });
  });

  it("says which region seems worn in part", async () => {
    const worn = { ...found, regions: rows.map((r) => (r.id === 1 ? { ...r, worn_area: 90 } : r)) };
    useRegions.getState().set({ task: "t", scan: scanKey, found: worn, labels: Int32Array.from([0, 1, 2]) });
    onBench(<RegionsSheet />, sampleJob());
    const bores = screen.getAllByRole("row").filter((r) => within(r).queryByText("Hole"));
    expect(within(bores[0]!).getByRole("img", { name: "worn in part" })).toBeInTheDocument();
    expect(screen.getAllByRole("img", { name: "worn in part" })).toHaveLength(1);
  });

  it("a proposal shows what it is about, and says what is missing", async () => {
    show();
    const circle = screen.getByRole("button", { name: /^3 on a circle/ });
    expect(circle).toHaveTextContent("one is missing");
    await userEvent.click(circle);
    expect(useRegions.getState().chosen).toEqual([1, 2, 3]);
    await userEvent.click(circle);
    expect(useRegions.getState().chosen).toEqual([]);
  });

  it("a proposal is agreed to with names for the regions it needs, or turned down", async () => {
    const asked = answering(({ url }) => (url.endsWith("reject") ? { id: "t", status: "done", progress: {}, problem: null, result: { ...found, rejected: [1] } } : sampleJob())); // biome-ignore format: one answer each
    show();
    await userEvent.click(screen.getByRole("button", { name: "Agree: 2 bores of one radius" }));
    await waitFor(() => expect(asked.at(-1)?.url).toMatch(/regions\/t\/accept$/));
    expect(asked.at(-1)?.body).toMatchObject({ proposals: [0], names: { 1: "Hole 1", 2: "Hole 2" } });
    await userEvent.click(screen.getByRole("button", { name: "Turn down: 3 on a circle" }));
    await waitFor(() => expect(screen.getByText(/1 turned down/)).toBeInTheDocument());
    expect(asked.at(-1)?.body).toEqual({ proposals: [1], back: false });
    expect(screen.queryByText("3 on a circle")).toBeNull();
  });
});

describe("a cut along the line of sight", () => {
  it("holds both places and the eye", () => {
    const { origin, normal } = planeOfSight([1, 0, 0], [1, 1, 0], [1, 0, 5]);
    expect(origin).toEqual([1, 0, 0]);
    for (const p of [[1, 0, 0], [1, 1, 0], [1, 0, 5]]) expect(normal.reduce((s, n, i) => s + n * (p[i]! - origin[i]!), 0)).toBeCloseTo(0); // biome-ignore format: three points
    expect(Math.hypot(...normal)).toBeGreaterThan(0);
  });
});
