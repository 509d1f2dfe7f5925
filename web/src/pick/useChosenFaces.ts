import { useQueries } from "@tanstack/react-query";
import { useBench } from "../job/context";
import { facesQuestion } from "../steps/useFaces";
import type { ShownBody } from "../view/useShownBodies";
import type { Armed } from "./armed";
import { useMeant } from "./meant";

const picksFaces = (armed: Armed | null) => armed?.onFace !== undefined;

/** Numbers of the faces that a step which is being prepared speaks of, by body: on what it would give, where that is shown. */
export function useChosenFaces(bodies: readonly ShownBody[]): Record<string, number[]> {
  const { job } = useBench();
  const meant = useMeant(picksFaces).filter((m) => m.name);
  const own = bodies.filter((b) => meant.some((m) => m.body === b.id));
  const known = useQueries({
    queries: own.map((b) => ({ ...facesQuestion(job.id, b.key), enabled: !b.view })),
  });
  const chosen = own.map((b, k) => {
    const names = new Set(meant.filter((m) => m.body === b.id).map((m) => m.name));
    const all = b.view ? b.names : (known[k]?.data ?? []).map((f) => f.name);
    return [b.id, all.flatMap((name, i) => (names.has(name) ? [i] : []))] as const;
  });
  return Object.fromEntries(chosen);
}
