import { expect, test } from "vitest";
import { offerNear, offerOfFace, saidOf } from "./bringIn";
import { frameOf } from "./drawing";
import type { Offer } from "./useLinkable";

const LEVEL = frameOf([0, 0, 10], [1, 0, 0], [0, 0, 1]);

const edge = (y: number, z: number): Offer => ({
  source: "b1",
  name: "Base",
  link: { way: "edge", part: { body: "b1", edge: `e${y}${z}`, kind: "line", ends: [], place: [20, y, z] }, pieces: {} },
  pieces: [],
  paths: [
    [
      [0, y],
      [40, y],
    ],
  ],
});

const face = (name: string): Offer => ({
  ...edge(0, 0),
  link: { way: "face", part: { body: "b1", name, kind: "plane", beside: [] }, pieces: {} },
});

test("the offer that is pointed at is the nearest, and of those in one place the one nearest to the plane", () => {
  const offers = [edge(0, 0), edge(0, 10), edge(5, 10)];
  expect(offerNear(offers, LEVEL, [10, 0.3], 1)).toBe(1);
  expect(offerNear(offers, LEVEL, [10, 4.5], 1)).toBe(2);
  expect(offerNear(offers, LEVEL, [10, 2.5], 1)).toBeNull();
  expect(offerNear([], LEVEL, [0, 0], 1)).toBeNull();
});

test("an edge seen end-on is met at its place", () => {
  const upright: Offer = { ...edge(0, 5), paths: [[[7, 7]]] };
  expect(offerNear([edge(0, 10), upright], LEVEL, [7.2, 6.9], 1)).toBe(1);
});

test("a face is found by its body and its name", () => {
  const offers = [face("top"), face("side")];
  expect(offerOfFace(offers, "b1", "side")).toBe(1);
  expect(offerOfFace(offers, "b2", "side")).toBeNull();
  expect(offerOfFace(offers, "b1", undefined)).toBeNull();
});

test("each is said by what it is of", () => {
  expect(saidOf(edge(0, 0))).toBe("edge of Base");
  expect(saidOf({ ...edge(0, 0), link: { way: "silhouette", body: { id: "b1" }, pieces: {} } })).toBe(
    "silhouette of Base",
  );
});
