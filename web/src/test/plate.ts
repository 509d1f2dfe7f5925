/** A small drawing for tests: a rectangle 40 x 20 with a circle in it. */
import type { Kept, Shown, XY } from "../sketch/drawing";

const plain = { construction: false, linked: false };
export const point = (x: number, y: number) => ({ kind: "point" as const, at: [x, y] as XY, ...plain });
const line = (from: string, to: string) => ({ kind: "line" as const, from, to, ...plain });

const ring = (x: number, y: number, r: number): XY[] =>
  Array.from({ length: 73 }, (_, k) => [x + r * Math.cos((k * Math.PI) / 36), y + r * Math.sin((k * Math.PI) / 36)]);

export function plate(part: Partial<Shown> = {}): Shown {
  const drawing: Kept = {
    entities: {
      p1: point(0, 0),
      p2: point(40, 0),
      p3: point(40, 20),
      p4: point(0, 20),
      p5: point(20, 10),
      l1: line("p1", "p2"),
      l2: line("p2", "p3"),
      l3: line("p3", "p4"),
      l4: line("p4", "p1"),
      c1: { kind: "circle", centre: "p5", radius: 4, ...plain },
    },
    constraints: [
      { kind: "horizontal", of: ["l1"] },
      { kind: "equal", of: ["l1", "l3"] },
    ],
    sizes: [{ kind: "length", of: ["l1"], name: "width", reference: false, supplement: false, moves: "both" }],
    lengths: { width: { text: "40 mm", mark: "assumed", note: "" } },
    angles: {},
    taken: [],
    links: [],
    under: [],
    made: 10,
    named: [],
  };
  return {
    drawing,
    solved: true,
    dof: 7,
    residual: 0,
    conflicts: [],
    redundant: [],
    free: { l1: 0, l2: 1, c1: 3 },
    sizes: [40],
    paths: {
      l1: [
        [0, 0],
        [40, 0],
      ],
      l2: [
        [40, 0],
        [40, 20],
      ],
      l3: [
        [40, 20],
        [0, 20],
      ],
      l4: [
        [0, 20],
        [0, 0],
      ],
      c1: ring(20, 10, 4),
    },
    regions: [
      {
        name: "p-l1",
        area: 750,
        rings: [
          [
            [0, 0],
            [40, 0],
            [40, 20],
            [0, 20],
          ],
          ring(20, 10, 4),
        ],
        pieces: ["l1", "l2", "l3", "l4"],
      },
      { name: "p-c1", area: 50, rings: [ring(20, 10, 4)], pieces: ["c1"] },
    ],
    gaps: [],
    loose: [],
    chosen: [],
    ...part,
  };
}
