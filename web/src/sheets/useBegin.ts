import type { Kind } from "../api/kinds";
import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { useShownBodies } from "../view/useShownBodies";
import { useTool } from "./tool";

/** Bodies that the parameters speak of already, each once. */
function spokenOf(params: Record<string, unknown>): string[] {
  const named = Object.values(params).flatMap((v) => (v as { body?: string } | null)?.body ?? []);
  const whole = (params.body as { id?: string } | null | undefined)?.id;
  if (whole) named.push(whole);
  if (Array.isArray(params.bodies)) named.push(...params.bodies.map((b: { id: string }) => b.id));
  return [...new Set(named)];
}

/**
 * Prepares a step from what was selected. What makes material joins the bodies that the selection is on, else the first there is;
 * which way it goes then proposes whether it is added or taken away.
 */
export function useBegin(): (kind: Kind | undefined, params: Record<string, unknown>) => void {
  const bodies = useShownBodies();
  const { scanId } = useBench();
  return (kind, params) => {
    usePicks.getState().clear();
    if (!kind) return;
    const has = (name: string) => kind.fields.some((f) => f.name === name);
    const whole = bodies.filter((b) => !b.open && !b.reference).map((b) => b.id);
    const spoken = spokenOf(params).filter((id) => whole.includes(id));
    const targets = (spoken.length ? spoken : whole.slice(0, 1)).map((id) => ({ id }));
    const joins = has("operation") && has("bodies") && targets.length > 0;
    const one = has("body") && !params.body && targets[0] ? { body: targets[0] } : {};
    const scan = kind.makes === "scan" && scanId && !params.scan ? { scan: { id: scanId } } : {};
    useTool.getState().openDraft({
      kind: kind.id,
      params: { ...params, ...scan, ...one, ...(joins ? { operation: "add", bodies: targets } : {}) },
    });
  };
}
