import { placeFacts } from "../api/facts";
import { useBench } from "../job/context";
import { useShownBodies } from "./useShownBodies";

export interface Thing {
  id: string;
  kind: "scan" | "body" | "place";
}

/** What can be hidden: scans, bodies, and what steps have constructed or measured. */
export function useThings(): Thing[] {
  const { job } = useBench();
  const bodies = useShownBodies();
  const states = job.build.result?.steps ?? [];
  const scans = job.recipe.evidence.filter((e) => e.kind === "scan");
  const places = states.filter((s) => placeFacts(s.facts) || s.facts?.of === "measurement");
  return [
    ...scans.map((s) => ({ id: s.id, kind: "scan" as const })),
    ...bodies.map((b) => ({ id: b.id, kind: "body" as const })),
    ...places.map((s) => ({ id: s.id, kind: "place" as const })),
  ];
}
