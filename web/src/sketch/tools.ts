/** What one can draw and change with, and the acts that come of it. No React. */
import type { Act, Shown, XY } from "./drawing";
import { type Snap, spotOf } from "./snap";
import type { Group } from "./store";

export interface Field {
  name: string;
  label: string;
  /** What it says before anything is typed. */
  start?: string;
}

interface Way {
  id: string;
  title: string;
  /** What each place is, in order. */
  words: string[];
  fields?: Field[];
}

/** What a tool knows when all it needs has been pointed at. */
export interface Given {
  spots: Snap[];
  way: string;
  typed: Record<string, string>;
  after: string | null;
  bend: boolean;
  chosen: string[];
  shown: Shown;
}

export interface Tool {
  id: string;
  group: Group;
  title: string;
  help: string;
  ways: Way[];
  /** It takes as many places as one likes, and is ended by Enter. */
  many?: boolean;
  /** It needs entities that are chosen before. */
  of?: string;
  /** It works on the curve or corner that is pointed at. */
  picks?: "curve" | "corner";
  acts: (g: Given) => Act[];
}

const text = (g: Given, name: string): string | null => g.typed[name]?.trim() || null;
const spots = (g: Given) => g.spots.map(spotOf);
const PLACES = ["corner", "opposite corner"];
const LENGTH_ANGLE: Field[] = [
  { name: "length", label: "Length" },
  { name: "angle", label: "Angle" },
];
const WIDTH_HEIGHT: Field[] = [
  { name: "width", label: "Width" },
  { name: "height", label: "Height" },
];
const DIAMETER: Field[] = [{ name: "diameter", label: "Diameter" }];
const RADIUS: Field[] = [{ name: "radius", label: "Radius" }];

function lineAct(g: Given): Act[] {
  const [start, end] = g.spots as [Snap, Snap];
  if (g.bend && g.after)
    return [{ act: "arc", by: "tangent", spots: spots(g), after: g.after, radius: text(g, "length") }];
  const typedWay = text(g, "angle") !== null;
  return [
    {
      act: "line",
      start: spotOf(start),
      end: spotOf(end),
      relations: end.relation && !typedWay ? [{ kind: end.relation.kind, to: end.relation.to ?? null }] : [],
      after: g.after,
      length: text(g, "length"),
      angle: text(g, "angle"),
      construction: g.way === "helper",
    },
  ];
}

const touching = (g: Given): string[] => g.spots.flatMap((s) => s.on ?? []);

export const TOOLS: Tool[] = [
  {
    id: "line",
    group: "draw",
    title: "Line",
    help: "lines and tangent arcs one after another; T changes between them",
    ways: [
      { id: "chain", title: "outline", words: ["begin", "end"], fields: LENGTH_ANGLE },
      { id: "helper", title: "helper line", words: ["begin", "end"], fields: LENGTH_ANGLE },
    ],
    acts: lineAct,
  },
  {
    id: "rectangle",
    group: "draw",
    title: "Rectangle",
    help: "by two corners, about its centre, or askew",
    ways: [
      { id: "corner", title: "corners", words: PLACES, fields: WIDTH_HEIGHT },
      { id: "centre", title: "centre", words: ["centre", "corner"], fields: WIDTH_HEIGHT },
      { id: "three", title: "askew", words: ["corner", "end of a side", "opposite side"], fields: WIDTH_HEIGHT },
    ],
    acts: (g) => [
      {
        act: "rectangle",
        by: g.way as "corner",
        spots: spots(g),
        width: text(g, "width"),
        height: text(g, "height"),
      },
    ],
  },
  {
    id: "circle",
    group: "draw",
    title: "Circle",
    help: "by its centre, through places, or touching what is there",
    ways: [
      { id: "centre", title: "centre", words: ["centre", "place on it"], fields: DIAMETER },
      { id: "two", title: "2 places", words: ["place on it", "place across"], fields: DIAMETER },
      { id: "three", title: "3 places", words: ["place on it", "place on it", "place on it"] },
      { id: "touch2", title: "touching 2", words: ["curve to touch", "curve to touch", "size"], fields: DIAMETER },
      { id: "touch3", title: "touching 3", words: ["curve to touch", "curve to touch", "curve to touch"] },
    ],
    acts: (g) => [
      {
        act: "circle",
        by: g.way.startsWith("touch") ? "tangent" : (g.way as "centre"),
        spots: g.way.startsWith("touch") ? spots(g).map((s) => ({ ...s, on: [] })) : spots(g),
        touching: g.way.startsWith("touch") ? touching(g).slice(0, g.way === "touch2" ? 2 : 3) : [],
        diameter: text(g, "diameter"),
      },
    ],
  },
  {
    id: "arc",
    group: "draw",
    title: "Arc",
    help: "through three places, or about a centre",
    ways: [
      { id: "three", title: "3 places", words: ["begin", "end", "place on it"], fields: RADIUS },
      { id: "centre", title: "centre", words: ["centre", "begin", "end"], fields: RADIUS },
    ],
    acts: (g) => [{ act: "arc", by: g.way as "three", spots: spots(g), after: null, radius: text(g, "radius") }],
  },
  {
    id: "slot",
    group: "draw",
    title: "Slot",
    help: "straight, or along an arc",
    ways: [
      {
        id: "straight",
        title: "straight",
        words: ["first centre", "second centre", "side"],
        fields: [
          { name: "length", label: "Length" },
          { name: "width", label: "Width" },
        ],
      },
      {
        id: "arc",
        title: "along an arc",
        words: ["centre of the arc", "first end", "second end", "side"],
        fields: [{ name: "width", label: "Width" }],
      },
    ],
    acts: (g) => [
      { act: "slot", by: g.way as "straight", spots: spots(g), length: text(g, "length"), width: text(g, "width") },
    ],
  },
  {
    id: "polygon",
    group: "draw",
    title: "Polygon",
    help: "regular, about its centre",
    ways: [
      {
        id: "corner",
        title: "regular",
        words: ["centre", "corner"],
        fields: [
          { name: "sides", label: "Sides", start: "6" },
          { name: "across", label: "Across sides" },
        ],
      },
    ],
    acts: (g) => {
      const [centre, corner] = spots(g);
      const sides = Math.round(Number(text(g, "sides") ?? "6"));
      return [{ act: "polygon", spots: [centre!, corner!], sides, across: text(g, "across") }];
    },
  },
  {
    id: "ellipse",
    group: "draw",
    title: "Ellipse",
    help: "by its centre, the end of its longer axis and a place on it",
    ways: [{ id: "centre", title: "centre", words: ["centre", "end of the longer axis", "place on it"] }],
    acts: (g) => {
      const [a, b, c] = spots(g);
      return [{ act: "ellipse", spots: [a!, b!, c!] }];
    },
  },
  {
    id: "spline",
    group: "draw",
    title: "Spline",
    help: "through places, or over control points; Enter ends it",
    many: true,
    ways: [
      { id: "through", title: "through", words: ["place on it"] },
      { id: "control", title: "control", words: ["control point"] },
    ],
    acts: (g) => [{ act: "spline", by: g.way as "through", spots: spots(g), closed: false }],
  },
  {
    id: "point",
    group: "draw",
    title: "Point",
    help: "a point by itself",
    ways: [{ id: "point", title: "point", words: ["place"] }],
    acts: (g) => [{ act: "point", at: spotOf(g.spots[0]!) }],
  },
  {
    id: "trim",
    group: "change",
    title: "Trim",
    help: "takes a stretch away, up to what crosses it",
    picks: "curve",
    ways: [{ id: "pick", title: "pick", words: ["stretch to take away"] }],
    acts: (g) => [{ act: "trim", entity: g.spots[0]!.on![0]!, at: g.spots[0]!.at }],
  },
  {
    id: "extend",
    group: "change",
    title: "Extend",
    help: "the nearer end goes on to what lies ahead",
    picks: "curve",
    ways: [{ id: "pick", title: "pick", words: ["line or arc, near the end that goes on"] }],
    acts: (g) => [{ act: "extend", entity: g.spots[0]!.on![0]!, at: g.spots[0]!.at }],
  },
  {
    id: "meet",
    group: "change",
    title: "Meet",
    help: "two lines or arcs are cut, or go on, to a corner that they share",
    picks: "curve",
    ways: [{ id: "pick", title: "pick", words: ["line or arc", "the other one"] }],
    acts: (g) => [{ act: "meet", of: [g.spots[0]!.on![0]!, g.spots[1]!.on![0]!], at: null }],
  },
  {
    id: "split",
    group: "change",
    title: "Split",
    help: "in two where it is pointed at",
    picks: "curve",
    ways: [{ id: "pick", title: "pick", words: ["place on a curve"] }],
    acts: (g) => [{ act: "split", entity: g.spots[0]!.on![0]!, at: g.spots[0]!.at }],
  },
  {
    id: "round",
    group: "change",
    title: "Round",
    help: "a tangent arc in the place of a corner",
    picks: "corner",
    ways: [{ id: "pick", title: "pick", words: ["corner"], fields: [{ name: "radius", label: "Radius", start: "3" }] }],
    acts: (g) => [{ act: "round", corner: g.spots[0]!.point!, radius: text(g, "radius") ?? "3" }],
  },
  {
    id: "cut-off",
    group: "change",
    title: "Cut off",
    help: "a line in the place of a corner",
    picks: "corner",
    ways: [{ id: "pick", title: "pick", words: ["corner"], fields: [{ name: "length", label: "Length", start: "2" }] }],
    acts: (g) => [{ act: "cut-off", corner: g.spots[0]!.point!, length: text(g, "length") ?? "2" }],
  },
  {
    id: "set-off",
    group: "change",
    title: "Set off",
    help: "what is chosen again at a distance; a minus sign for the other side",
    of: "the lines, arcs or circles to set off",
    ways: [{ id: "now", title: "now", words: [], fields: [{ name: "distance", label: "Distance", start: "2" }] }],
    acts: (g) => [{ act: "set-off", of: g.chosen, distance: text(g, "distance") ?? "2" }],
  },
  {
    id: "mirror",
    group: "change",
    title: "Mirror",
    help: "what is chosen on the other side of a line",
    of: "what to mirror",
    picks: "curve",
    ways: [{ id: "pick", title: "pick", words: ["line to mirror at"] }],
    acts: (g) => [{ act: "mirror", of: g.chosen, line: g.spots[0]!.on![0]! }],
  },
  {
    id: "move",
    group: "change",
    title: "Move",
    help: "what is chosen, from one place to another",
    of: "what to move",
    ways: [
      { id: "move", title: "move", words: ["from", "to"] },
      { id: "copy", title: "copy", words: ["from", "to"] },
      {
        id: "turn",
        title: "turn",
        words: ["about"],
        fields: [
          { name: "turn", label: "Turn", start: "90 deg" },
          { name: "scale", label: "Scale", start: "1" },
        ],
      },
    ],
    acts: (g) => {
      const [a, b] = g.spots.map((s) => s.at) as [XY, XY | undefined];
      const by: XY = b ? [b[0] - a[0], b[1] - a[1]] : [0, 0];
      const turn = g.way === "turn" ? (text(g, "turn") ?? "90 deg") : null;
      const scale = g.way === "turn" ? Number(text(g, "scale") ?? "1") : 1;
      return [{ act: "move", of: g.chosen, by, about: a, turn, scale, copy: g.way === "copy" }];
    },
  },
  {
    id: "repeat",
    group: "change",
    title: "Repeat",
    help: "what is chosen in a row, or around a place",
    of: "what to repeat",
    ways: [
      {
        id: "row",
        title: "row",
        words: ["from", "to the next"],
        fields: [{ name: "count", label: "How many", start: "3" }],
      },
      {
        id: "ring",
        title: "ring",
        words: ["about"],
        fields: [
          { name: "count", label: "How many", start: "6" },
          { name: "over", label: "Over", start: "360 deg" },
        ],
      },
    ],
    acts: (g) => {
      const count = Math.round(Number(text(g, "count") ?? (g.way === "row" ? "3" : "6")));
      const [a, b] = g.spots.map((s) => s.at) as [XY, XY | undefined];
      if (g.way === "ring") return [{ act: "ring", of: g.chosen, count, about: a, over: text(g, "over") }];
      const step: XY = b ? [b[0] - a[0], b[1] - a[1]] : [10, 0];
      return [{ act: "row", of: g.chosen, count, step, rows: 1, row_step: [0, 0] }];
    },
  },
  {
    id: "fewer",
    group: "change",
    title: "Fewer",
    help: "a stretch of many pieces, explained by as few lines and arcs as stay within the tolerance",
    of: "the pieces of the stretch",
    ways: [{ id: "now", title: "now", words: [], fields: [{ name: "within", label: "Within", start: "0.1 mm" }] }],
    acts: (g) => [{ act: "fewer", of: g.chosen, within: text(g, "within") ?? "0.1 mm" }],
  },
];

export const toolOf = (id: string | null): Tool | undefined => TOOLS.find((t) => t.id === id);
export const wayOf = (tool: Tool, way: string): Way => tool.ways.find((w) => w.id === way) ?? tool.ways[0]!;
