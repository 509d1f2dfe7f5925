/** A bench with one small job, for component tests. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { vi } from "vitest";
import type { BuildResult } from "../api/build";
import type { Job } from "../api/queries";
import { Bench, type BenchContext } from "../bench/context";
import { light } from "../theme";

const fit = {
  key: "f1",
  scan: "s",
  figures: {
    points: 1000,
    acceptance: 0.1,
    inside_share: 0.829,
    mean: 0.01,
    rms: 0.05,
    p95: 0.12,
    max: 0.4,
    unseen_share: 0.014,
    worst: [{ point: [1, 2, 3] as [number, number, number], deviation: -0.4 }],
    histogram: Array.from({ length: 48 }, (_, i) => (i === 24 ? 0.5 : 0.01)),
    sampled: false,
  },
  last_step: "x",
  change: 0.091,
};

export const result: BuildResult = {
  scans: { s: "k0" },
  steps: [
    { id: "r", kind: "region", name: "Top", status: "ok", key: "k1", facts: { kind: "plane", facets: 900, area: 100, rms: 0.02, largest: 0.1, tolerance: 0.08, origin: [0, 0, 0], axis: [0, 0, 1] }, problems: [] },
    { id: "o", kind: "outline", name: "Plate", status: "ok", key: "k2", facts: { lines: 4, arcs: 1, free: 0, profiles: 1, area: 1087, rms: 0.02, tolerance: 0.08 }, problems: [] },
    { id: "x", kind: "extrude", name: "Block", status: "ok", key: "k3", facts: { volume: 10870, faces: 7, solids: 1, distance: 10 }, problems: [] },
  ],
  bodies: [{ id: "x", name: "Block", key: "k3", volume: 10870, area: 4000, faces: [] }],
  fit,
  problems: [],
}; // biome-ignore format: rows of a table

export function sampleJob(part: Partial<Job> = {}): Job {
  const step = (id: string, kind: string, name: string, params: Record<string, unknown>) => ({
    id,
    kind,
    name,
    enabled: true,
    params,
  });
  return {
    id: "j",
    version: 3,
    revision: 7,
    undo: "add Block",
    redo: null,
    evidence_facts: [],
    recipe: {
      schema_version: 1,
      name: "Test block",
      unit: "mm",
      acceptance_mm: 0.1,
      evidence: [],
      steps: [
        step("r", "region", "Top", { scan: { id: "s" }, seeds: [1] }),
        step("o", "outline", "Plate", { plane: { id: "r" }, offset: { text: "-4 mm", mark: "intent" } }),
        step("x", "extrude", "Block", {
          sketch: { id: "o" },
          distance: { text: "10 mm", mark: "assumed" },
          operation: "new",
        }),
      ],
    },
    build: { task: "t", status: "done", current: true, progress: null, problem: null, result },
    ...part,
  } as unknown as Job;
}

export function onBench(node: ReactNode, job: Job = sampleJob()) {
  const edit = vi.fn<BenchContext["edit"]>(() => Promise.resolve(true));
  const value: BenchContext = { job, unit: job.recipe.unit as "mm", palette: light, scanId: "s", edit, tell: vi.fn() };
  render(
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter>
        <Bench.Provider value={value}>{node}</Bench.Provider>
      </MemoryRouter>
    </QueryClientProvider>,
  );
  return edit;
}
