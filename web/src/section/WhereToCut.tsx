import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useState } from "react";
import { api, got, ProblemError } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { ProblemNote } from "../ui/ProblemNote";
import { length, signed, typed } from "../units";

type Path = [number, number][];

/** A small picture of an outline. */
function Thumb({ paths }: { paths: Path[] }) {
  const all = paths.flat();
  const xs = all.map((p) => p[0]);
  const ys = all.map((p) => p[1]);
  const [x0, y0] = [Math.min(...xs), Math.min(...ys)];
  const size = Math.max(Math.max(...xs) - x0, Math.max(...ys) - y0, 1e-6);
  const at = (p: [number, number]) =>
    `${(2 + (44 * (p[0] - x0)) / size).toFixed(1)},${(46 - (44 * (p[1] - y0)) / size).toFixed(1)}`;
  return (
    <svg className="cut-thumb" viewBox="0 0 48 48" aria-hidden="true">
      {paths.map((p, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: loops have no other name
        <polyline key={i} points={p.map(at).join(" ")} />
      ))}
    </svg>
  );
}

/** Places along the plane's direction where few pieces explain the cut, best first. */
export function WhereToCut() {
  const { job, unit, scanKey } = useBench();
  const draft = useTool((s) => s.section)!;
  const recut = useTool((s) => s.recut);
  const [asked, setAsked] = useState(false);
  const { data, isFetching, error } = useQuery({
    queryKey: ["where-to-cut", job.id, scanKey, draft.origin, draft.normal],
    enabled: asked,
    retry: false,
    gcTime: 60_000,
    queryFn: ({ signal }) =>
      got(
        api.POST("/api/jobs/{job_id}/where-to-cut", {
          params: { path: { job_id: job.id } },
          body: { scan: scanKey, origin: draft.origin, normal: draft.normal },
          signal,
        }),
      ),
  });
  return (
    <details className="fold" onToggle={(e) => setAsked(e.currentTarget.open)}>
      <summary>Where to cut</summary>
      {isFetching && <p className="quiet small">cutting here and there …</p>}
      {error instanceof ProblemError && <ProblemNote problem={error.problem} />}
      {data?.map((c) => (
        <Button
          key={c.offset}
          type="text"
          className="cut-offer"
          title="few pieces, steady, clear of fillets and rims come first"
          onClick={() =>
            recut({
              offset: typed(Math.round(c.offset * 100) / 100, unit),
              mark: "assumed",
              note: "",
              turnU: 0,
              turnV: 0,
            })
          }
        >
          <Thumb paths={c.paths as Path[]} />
          <span>
            <b className="figures">{signed(c.offset, unit)}</b> · {c.pieces} pieces
            {c.loops > 1 ? ` in ${c.loops} loops` : ""}
            <br />
            <span className="quiet small">
              rms {length(c.rms, unit, 1)}
              {c.steady > 0 && ` · alike over ${length(c.steady, unit)}`}
              {c.leaning > 0.15 && ` · ${Math.round(100 * c.leaning)} % leans`}
              {c.gaps > 0 &&
                ` · ${c.gaps} ${c.gaps === 1 ? "gap" : "gaps"} bridged, ${Math.round(100 * c.assumed_share)} % assumed`}
              {c.open_share > 0.01 && ` · ${Math.round(100 * c.open_share)} % open`}
            </span>
          </span>
        </Button>
      ))}
    </details>
  );
}
