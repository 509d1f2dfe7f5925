/** A bench with one small job, for component tests. */

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { render } from "@testing-library/react";
import { App } from "antd";
import type { ReactNode } from "react";
import { MemoryRouter } from "react-router";
import { vi } from "vitest";
import type { BuildResult, StepState } from "../api/build";
import type { Declarations, Field } from "../api/kinds";
import type { Job } from "../api/queries";
import { Bench, type BenchContext } from "../job/context";
import { light } from "../theme";
import { STILL } from "../view/pose";
import declarations from "./declarations.json";
import { drawnFacts, extrudeFacts, regionFacts } from "./facts";

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
  by_step: { b: { inside_share: 0.738, change: null }, x: { inside_share: 0.829, change: 0.091 } },
  probes: {},
};

type Sent = StepState["problems"][number];
const built = { handles: [], values: {}, settled: {}, after: {}, scans: {}, cached: false, seconds: 0.1, took: 0.1 };

/** A problem as the API sends it: what is not said is null. */
export const problem = (
  part: Partial<Sent> & Pick<Sent, "code" | "message">,
  where: Partial<Sent["where"]> = {},
): Sent => ({
  got: null,
  need: null,
  remedy: null,
  offer: null,
  where: {
    step: null,
    param: null,
    value: null,
    entity: null,
    facets: [],
    point: null,
    file: null,
    line: null,
    ...where,
  },
  ...part,
});

export const result: BuildResult = {
  raw: { s: "k0" },
  scans: { s: "k0" },
  poses: {},
  health: {},
  merged: {}, solids: {},
  steps: [
    { id: "r", kind: "region", name: "Top", status: "ok", key: "k1", facts: regionFacts(), problems: [], ...built },
    { id: "o", kind: "sketch", name: "Plate", status: "ok", key: "k2", facts: drawnFacts(), problems: [], ...built },
    { id: "x", kind: "extrude", name: "Block", status: "ok", key: "k3", facts: extrudeFacts(), problems: [], ...built, after: { x: "k3" } },
  ],
  bodies: [{ id: "x", name: "Block", colour: null, key: "k3", volume: 10870, area: 4000, mass: null, faces: [], role: "material", open: 0 }],
  values: {},
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
    note: "",
    group: "",
  });
  return {
    id: "j",
    version: 3,
    revision: 7,
    undo: "add Block",
    redo: null,
    evidence_facts: [],
    readings: {},
    recipe: {
      schema_version: 2,
      name: "Test block",
      unit: "mm",
      acceptance_mm: 0.1,
      evidence: [],
      values: [],
      bodies: [],
      probes: [],
      steps: [
        step("r", "region", "Top", { scan: { id: "s" }, seeds: [1] }),
        step("o", "sketch", "Plate", { plane: { id: "r" }, offset: { text: "-4 mm", mark: "intent" } }),
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

/** A field as the API declares it. */
export const field = (name: string, part: Partial<Field>): Field => ({
  name,
  label: name.replaceAll("_", " ").replace(/^./, (c) => c.toUpperCase()),
  help: "",
  type: "value",
  dimension: null,
  options: [],
  option_titles: {},
  reference: null,
  ids: false,
  parts: [],
  optional: false,
  needed: false,
  fallback: null,
  when: {},
  fold: "",
  main: false,
  fields: [],
  ...part,
});

/** Declarations as the API gives them: made from it by `./run types`. */
export const declared = declarations as unknown as Declarations;

export function onBench(node: ReactNode, job: Job = sampleJob(), tell: BenchContext["tell"] = vi.fn()) {
  const edit = vi.fn<BenchContext["edit"]>(() => Promise.resolve(true));
  const context: BenchContext = {
    job,
    unit: job.recipe.unit as "mm",
    palette: light,
    scanId: "s",
    scanKey: "k0",
    pose: STILL,
    edit,
    tell,
  };
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  client.setQueryData(["declarations"], declared);
  render(
    <QueryClientProvider client={client}>
      <App>
        <MemoryRouter>
          <Bench.Provider value={context}>{node}</Bench.Provider>
        </MemoryRouter>
      </App>
    </QueryClientProvider>,
  );
  return edit;
}

export interface Asked {
  method: string;
  url: string;
  body: unknown;
}

/** Answers every request of the page with what `reply` makes of it, and remembers what was asked. */
export function answering(reply: (asked: Asked) => unknown): Asked[] {
  const log: Asked[] = [];
  vi.stubGlobal("fetch", async (request: Request) => {
    const text = request.method === "GET" ? "" : await request.clone().text();
    const asked = { method: request.method, url: request.url, body: text ? JSON.parse(text) : null };
    log.push(asked);
    return new Response(JSON.stringify(reply(asked) ?? null), { headers: { "content-type": "application/json" } });
  });
  return log;
}

/** A preview that shows nothing. */
export const emptyPreview = {
  bodies: [],
  scans: [],
  facts: {},
  handles: {},
  problems: [],
  fit: null,
  ran: [],
  passed: [],
};
