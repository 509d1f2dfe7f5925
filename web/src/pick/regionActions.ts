/** The few things that can be done with a region in hand, each with its key. No React. */
import type { Vec3 } from "../api/build";
import type { GrowOut } from "../api/client";
import { faceOn, goTo } from "../view/stage";
import type { Begun } from "./starts";

export interface RegionDoes {
  onKeep: () => void;
  onSection: () => void;
  onDraw: () => void;
  /** Keeps it as a region, and begins a kind of step with that. */
  onBegin: (kind: string) => void;
}

/** Digits that the card has for kinds of steps. */
const FREE = ["5", "6", "7", "8", "9", "0"];
const ROUND = ["cylinder", "cone", "torus"];

export function regionActions({ surface }: GrowOut, anchor: Vec3 | null, offers: readonly Begun[], does: RegionDoes) {
  const keep = { key: "1", text: "Keep as a region", run: does.onKeep, hint: "adds it to the step list" };
  const kinds = offers
    .filter((o) => !o.seldom)
    .map((o, k) => ({ key: FREE[k] ?? "", text: o.title, run: () => does.onBegin(o.kind.id), hint: o.kind.help }));
  if (surface.kind === "plane")
    return [
      keep,
      { key: "2", text: "Cut a section", run: does.onSection, hint: "a section plane parallel to it" },
      {
        key: "3",
        text: "Look straight at it",
        run: () => faceOn(surface.origin, surface.axis),
        hint: "turns the view",
      },
      { key: "4", text: "Draw on it", run: does.onDraw, hint: "a sketch in this plane" },
      ...kinds,
    ];
  const turned = { key: "2", text: "Turned profile", run: does.onSection, hint: "a half-section about its axis" };
  return [
    keep,
    ...(ROUND.includes(surface.kind) ? [turned] : []),
    { key: "3", text: "Go there", run: () => anchor && goTo(anchor), hint: "moves the view" },
    ...kinds,
  ];
}
