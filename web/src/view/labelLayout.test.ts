import { describe, expect, it } from "vitest";
import { type Anchor, laidOut, leaderEnd } from "./labelLayout";

const view = { width: 600, height: 400 };
const label = (x: number, y: number, width = 120): Anchor => ({ x, y, width, height: 20 });

function boxes(anchors: Anchor[], taken: Parameters<typeof laidOut>[2] = []) {
  return laidOut(anchors, view, taken).flatMap((p, i) =>
    p ? [{ ...p, width: anchors[i]!.width, height: anchors[i]!.height }] : [],
  );
}
const overlaps = (list: ReturnType<typeof boxes>) =>
  list.flatMap((a, i) =>
    list
      .slice(i + 1)
      .filter((b) => a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height),
  );

describe("labels in the view", () => {
  it("stand to the right of their place where nothing is in the way", () => {
    expect(laidOut([label(100, 100)], view)).toEqual([{ x: 108, y: 90 }]);
  });

  it("stand on the other side near the right border, and never leave the view", () => {
    expect(laidOut([label(560, 100)], view)[0]!.x).toBe(560 - 8 - 120);
    for (const [x, y] of [
      [2, 2],
      [598, 2],
      [2, 398],
      [598, 398],
      [300, 1],
    ] as const) {
      const [b] = boxes([label(x, y)]);
      expect(b!.x).toBeGreaterThanOrEqual(0);
      expect(b!.y).toBeGreaterThanOrEqual(0);
      expect(b!.x + b!.width).toBeLessThanOrEqual(600);
      expect(b!.y + b!.height).toBeLessThanOrEqual(400);
    }
  });

  it("never cover each other nor the place of another, however close their places lie", () => {
    const crowd = Array.from({ length: 14 }, (_, k) => label(300 + 3 * k, 200 + 2 * (k % 5)));
    const placed = boxes(crowd);
    expect(placed.length).toBeGreaterThan(8);
    expect(overlaps(placed)).toEqual([]);
    for (const b of placed)
      for (const a of crowd) expect(a.x > b.x && a.x < b.x + b.width && a.y > b.y && a.y < b.y + b.height).toBe(false);
  });

  it("fold away when there is no room, the last ones first", () => {
    const many = Array.from({ length: 200 }, () => label(300, 200));
    const placed = laidOut(many, view);
    expect(placed[0]).not.toBeNull();
    expect(placed.at(-1)).toBeNull();
    expect(placed.filter(Boolean).length).toBeGreaterThan(10);
  });

  it("keep clear of what stands in the view already, and of places that are out of sight", () => {
    const bar = { x: 0, y: 340, width: 600, height: 60 };
    const [b] = boxes([label(100, 350)], [bar]);
    expect(b!.y + b!.height).toBeLessThanOrEqual(340);
    expect(laidOut([null, label(100, 100)], view)).toEqual([null, { x: 108, y: 90 }]);
  });

  it("have leaders that end at the nearest point of the label", () => {
    expect(leaderEnd(label(100, 100), { x: 130, y: 40 })).toEqual({ x: 130, y: 60 });
    expect(leaderEnd(label(100, 100), { x: 40, y: 150 })).toEqual({ x: 100, y: 150 });
  });
});
