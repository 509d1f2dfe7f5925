import { useMemo } from "react";
import type { Step } from "../api/client";
import { placeFacts } from "../api/facts";
import { type Kind, useKinds } from "../api/kinds";
import { isReading } from "../desk/facts";
import { useBench } from "../job/context";
import { useAppearance } from "./appearance";
import { useShownBodies } from "./useShownBodies";

export interface Thing {
  id: string;
  name: string;
  kind: "scan" | "body" | "sketch" | "region" | "place" | "measurement" | "pin";
  /** Drawn only when somebody asks for it. */
  quiet: boolean;
}

const refersTo = (step: Step, id: string) => JSON.stringify(step.params).includes(`"${id}"`);

/** A plane that something is drawn on: the drawing says where it lies, and the plane would only cover the part. */
export const isUnderSketch = (steps: readonly Step[], kinds: Record<string, Kind>, id: string) =>
  steps.some(
    (s) => kinds[s.kind]?.makes === "sketch" && (s.params.plane as { id?: string } | null | undefined)?.id === id,
  );

/** What can be hidden and shown: scans, bodies, what steps have drawn, constructed or measured, and what is pinned on the scan. */
export function useThings(): Thing[] {
  const { job } = useBench();
  const bodies = useShownBodies();
  const kinds = useKinds();
  const states = job.build.result?.steps;
  return useMemo(() => {
    const { evidence, steps, probes } = job.recipe;
    const done = (states ?? []).filter((s) => s.status === "ok");
    const named = (id: string) => steps.find((s) => s.id === id)?.name ?? "";
    const thing = (kind: Thing["kind"], quiet: (id: string) => boolean) => (s: { id: string; name?: string }) => ({
      id: s.id,
      name: s.name ?? named(s.id),
      kind,
      quiet: quiet(s.id),
    });
    const never = () => false;
    return [
      ...evidence.filter((e) => e.kind === "scan").map(thing("scan", never)),
      ...bodies.map(thing("body", never)),
      // A sketch that something was made of has done its work.
      ...done
        .filter((s) => kinds[s.kind]?.makes === "sketch")
        .map(thing("sketch", (id) => steps.some((other) => other.id !== id && refersTo(other, id)))),
      ...done.filter((s) => kinds[s.kind]?.makes === "region").map(thing("region", () => true)),
      ...done
        .filter((s) => placeFacts(s.facts) || s.facts?.of === "curve")
        .map(thing("place", (id) => isUnderSketch(steps, kinds, id))),
      ...done.filter((s) => s.facts?.of === "measurement").map(thing("measurement", never)),
      ...evidence.filter((e) => isReading(e) && e.pin).map(thing("pin", never)),
      ...(probes ?? []).map(thing("pin", never)),
    ];
  }, [job.recipe, states, bodies, kinds]);
}

export const isOut = (t: Pick<Thing, "id" | "quiet">, look: { hidden: string[]; shown: string[] }) =>
  look.hidden.includes(t.id) || (t.quiet && !look.shown.includes(t.id));

/** Ids of the things of one kind that are drawn now. */
export function useDrawn(kind: Thing["kind"]): string[] {
  const things = useThings();
  const { hidden, shown } = useAppearance();
  return useMemo(
    () => things.filter((t) => t.kind === kind && !isOut(t, { hidden, shown })).map((t) => t.id),
    [things, kind, hidden, shown],
  );
}
