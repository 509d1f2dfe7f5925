import { Button } from "antd";
import { useState } from "react";
import type { Step } from "../api/client";
import { useBench } from "../job/context";
import { length } from "../units";
import type { Frame, Shown } from "./drawing";
import { useHandOf } from "./store";
import type { Do } from "./stroke";
import { useWalls } from "./useWalls";

interface Props {
  step: Step;
  frame: Frame;
  shown: Shown;
  /** mm: what lies nearer to a wall is meant to lie on it. */
  within: number;
  act: Do;
}

/** Pieces that were taken over are laid on walls of the bodies above the sketch: for outlines that were taken before there was anything to lie on. */
export function LieFlush({ step, frame, shown, within, act }: Props) {
  const { job, unit, tell } = useBench();
  const { set } = useHandOf("set");
  const wallsOn = useWalls();
  const [said, setSaid] = useState<string | null>(null);
  const bodies = (job.build.result?.bodies.length ?? 0) > 0;
  if (!bodies || !(shown.drawing.taken ?? []).length) return null;
  const lay = async () => {
    const walls = await wallsOn(step.id, frame).catch(tell);
    if (!walls) return;
    const after = walls.length ? await act([{ act: "lie-flush", walls, within }]) : shown;
    const laid = walls.length ? [...(after?.chosen ?? [])] : [];
    set({ chosen: laid });
    setSaid(
      laid.length ? `${laid.join(", ")} ${laid.length === 1 ? "lies" : "lie"} on walls now` : "none is that near",
    );
  };
  return (
    <p className="small">
      <Button size="small" onClick={() => void lay()}>
        Lay on walls
      </Button>{" "}
      <span className="quiet">{said ?? `of bodies, where nearer than ${length(within, unit, 1)}`}</span>
    </p>
  );
}
