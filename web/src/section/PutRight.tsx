import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { api, got, type SectionOut } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { length } from "../units";
import { structureOf, type TakenLoop } from "./pieces";
import { planeKey, planeOf } from "./useSection";

type Relation = TakenLoop["relations"][number];

const WORDS: Partial<Record<Relation["kind"], (first: string, second: string) => string>> = {
  symmetric: (a, b) => `its own mirror image, ${a === b ? `across ${a}` : `${a} to ${b}`}`,
  turned: (a, b) => `one sector, its ends ${a} and ${b} alike`,
};
const words = (r: Relation) => WORDS[r.kind]?.(r.first, r.second) ?? `${r.first} and ${r.second} ${r.kind}`;

/** Relations that nearly hold between pieces, put right on request, with what that costs in residual. */
export function PutRight({ fitted }: { fitted: SectionOut }) {
  const { job, unit, scanKey } = useBench();
  const draft = useTool((s) => s.section)!;
  const set = useTool((s) => s.setSection);
  const [asked, setAsked] = useState(false);
  const loops = draft.edited ?? structureOf(fitted);
  const { data, isFetching } = useQuery({
    queryKey: ["put-right", job.id, scanKey, ...planeKey(draft), draft.tolerance, draft.edited],
    enabled: asked,
    retry: false,
    gcTime: 30_000,
    queryFn: ({ signal }) =>
      got(
        api.POST("/api/jobs/{job_id}/outline-relations", {
          params: { path: { job_id: job.id } },
          body: { ...planeOf(draft, scanKey), tolerance: draft.tolerance || null, loops },
          signal,
        }),
      ),
  });
  const put = (loop: number, relations: Relation[]) =>
    set({ edited: loops.map((l, i) => (i === loop ? { ...l, relations } : l)) });
  const held = loops.flatMap((l, i) => l.relations.map((r) => ({ loop: i, r })));
  return (
    <details className="fold" onToggle={(e) => setAsked(e.currentTarget.open)} open={held.length > 0 || undefined}>
      <summary>Put right{held.length > 0 && ` (${held.length} held)`}</summary>
      {held.map(({ loop, r }) => (
        <div className="piece-row" key={loop + words(r)}>
          <span>{words(r)}</span>
          <Button
            size="small"
            type="link"
            onClick={() =>
              put(
                loop,
                loops[loop]!.relations.filter((q) => q !== r),
              )
            }
          >
            hold no more
          </Button>
        </div>
      ))}
      {isFetching && <p className="quiet small">trying each …</p>}
      {data?.length === 0 && <p className="quiet small">Nothing else nearly holds.</p>}
      {data?.map((o) => (
        <div className="piece-row" key={o.loop + words(o)}>
          <span>
            {words(o)}{" "}
            <span className="quiet small figures">
              off by{" "}
              {o.kind === "parallel" || o.kind === "square"
                ? `${o.off.toFixed(o.off < 0.1 ? 3 : 2)}°`
                : length(o.off, unit, 1)}
              {o.rms_held !== null && `, rms ${length(o.rms, unit, 1)} → ${length(o.rms_held, unit, 1)}`}
            </span>
          </span>
          <Button
            size="small"
            disabled={o.rms_held === null}
            title={o.rms_held === null ? "the scan speaks against it" : ""}
            onClick={() =>
              put(o.loop, [...loops[o.loop]!.relations, { kind: o.kind, first: o.first, second: o.second }])
            }
          >
            Hold
          </Button>
        </div>
      ))}
    </details>
  );
}
