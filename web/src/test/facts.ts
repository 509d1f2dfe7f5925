/** Facts of steps of which only some matter, whole enough for their types. */
import type { StepFacts } from "../api/build";
import type { FactsOf } from "../api/facts";

type Some<K extends StepFacts["of"]> = Partial<FactsOf<K>>;

export const regionFacts = (some: Some<"region"> = {}): FactsOf<"region"> => ({
  of: "region",
  marks: {},
  kind: "plane",
  facets: 900,
  area: 100,
  rms: 0.02,
  largest: 0.1,
  largest_at: [0, 0, 0],
  middle: [0, 0, 0],
  tolerance: 0.08,
  origin: [0, 0, 0],
  axis: [0, 0, 1],
  uncertain: {},
  left_out: 0,
  ...some,
});

export const drawnFacts = (some: Some<"drawn"> = {}): FactsOf<"drawn"> => ({
  of: "drawn",
  marks: {},
  lines: 4,
  arcs: 1,
  ellipses: 0,
  free: 0,
  profiles: 1,
  area: 1087,
  rms: 0.02,
  tolerance: 0.08,
  solved: true,
  dof: 4,
  unsettled: 5,
  gaps: 0,
  loose: 0,
  origin: [0, 0, 0],
  u_axis: [1, 0, 0],
  normal: [0, 0, 1],
  before_turn: [1, 0, 0],
  linked: {},
  ...some,
});

export const extrudeFacts = (some: Some<"extrude"> = {}): FactsOf<"extrude"> => ({
  of: "extrude",
  marks: {},
  volume: 10870,
  faces: 7,
  solids: 1,
  profiles: ["p1"],
  ...some,
});

export const alignFacts = (some: Some<"align"> = {}): FactsOf<"align"> => ({
  of: "align",
  marks: {},
  matrix: [],
  moved: 0,
  low: [0, 0, 0],
  high: [1, 1, 1],
  rms: [],
  kinds: [],
  facets_used: [],
  ...some,
});

export const measured = (some: Some<"measurement"> = {}): FactsOf<"measurement"> => ({
  of: "measurement",
  marks: {},
  measured: "between",
  said: "",
  ...some,
});

export const planeFacts = (some: Some<"plane"> = {}): FactsOf<"plane"> => ({
  of: "plane",
  marks: {},
  shape: "plane",
  origin: [0, 0, 0],
  direction: [0, 0, 1],
  reach: 10,
  ...some,
});

export const solidifyFacts = (some: Some<"solidify"> = {}): FactsOf<"solidify"> => ({
  of: "solidify",
  marks: {},
  volume: 1000,
  area: 600,
  faces: 6,
  solids: 1,
  closed: true,
  valid: true,
  planes: 6,
  cylinders: 0,
  cones: 0,
  spheres: 0,
  tori: 0,
  freeform: 0,
  flat_facets: 0,
  gaps: 0,
  tolerance: 4e-6,
  ...some,
});

export const sectorFacts = (some: Some<"sector"> = {}): FactsOf<"sector"> => ({
  of: "sector",
  marks: {},
  changed: 900,
  moved: 0,
  facets: 80,
  facets_before: 900,
  alike: 12,
  angle: 30,
  agree: 0.99,
  middle: -4.5,
  ...some,
});
