import { useEffect, useRef } from "react";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { useArmed, useDisarmed } from "../pick/armed";
import { useTool } from "../sheets/tool";

export interface AlignPick {
  seeds: number[];
  surface: "auto" | "plane" | "cylinder";
}
export type AlignRole = "primary" | "secondary" | "also";

const HINTS: Record<AlignRole, string> = {
  primary: "Click the primary on the scan",
  secondary: "Click the secondary on the scan",
  also: "Click the surface on the scan",
};

/** The surfaces that an alignment rests on by what each is for, and how they are picked: one that is begun waits for its first at once, then for a second. */
export function useAlignPicking(params: Record<string, unknown>, onChange: (part: Record<string, unknown>) => void) {
  const { job, scanKey, tell } = useBench();
  const { armed, arm } = useArmed();
  const list = (role: AlignRole) =>
    role === "primary" ? (params.primary ? [params.primary as AlignPick] : []) : ((params[role] as AlignPick[]) ?? []);
  const put = (role: AlignRole, picks: AlignPick[]) =>
    onChange({ [role]: role === "primary" ? (picks[0] ?? null) : picks });
  const pick = (role: AlignRole, most: number) =>
    arm({
      hint: HINTS[role],
      onFacet: (facet) => {
        if (role === "primary" && !list("secondary").length) pick("secondary", 2);
        else arm(null);
        const kinds: ("plane" | "cylinder")[] = ["plane", "cylinder"];
        const body = { scan: scanKey, seeds: [facet], removed: [], kinds, surface: "auto" as const };
        got(api.POST("/api/jobs/{job_id}/grow", { params: { path: { job_id: job.id } }, body }))
          .then((g) => {
            const grown = { seeds: g.source_seeds, surface: g.surface.kind as "plane" | "cylinder" };
            put(role, [...list(role), grown].slice(-most));
          })
          .catch(tell);
      },
    });
  const waiting = (role: AlignRole) => armed?.hint === HINTS[role];
  const begun = useTool((s) => s.draft?.kind === "align") && params.by === "datum" && !params.primary;
  const begin = useRef(() => {});
  begin.current = () => pick("primary", 1);
  useEffect(() => {
    if (begun) begin.current();
  }, [begun]);
  useDisarmed((asked) => Object.values(HINTS).includes(asked.hint));
  return { list, put, waiting, ask: (role: AlignRole, most: number) => (waiting(role) ? arm(null) : pick(role, most)) };
}
