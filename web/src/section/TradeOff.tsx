import { useQuery } from "@tanstack/react-query";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { length, typed } from "../units";
import { planeKey, planeOf } from "./useSection";

const W = 252;
const H = 106;
const LEFT = 34;
const FOOT = 18;
const HEAD = 20; // what the axis shows stands above it, where no dot lies

/** How many pieces explain the cut, against how closely they follow it: each dot is a tolerance to choose. */
export function TradeOff({ tolerance }: { tolerance: number }) {
  const { job, unit, scanKey } = useBench();
  const draft = useTool((s) => s.section)!;
  const recut = useTool((s) => s.recut);
  const { data, isFetching } = useQuery({
    queryKey: ["tradeoff", job.id, scanKey, ...planeKey(draft)],
    retry: false,
    gcTime: 30_000,
    queryFn: ({ signal }) =>
      got(
        api.POST("/api/jobs/{job_id}/outline-tradeoff", {
          params: { path: { job_id: job.id } },
          body: planeOf(draft, scanKey),
          signal,
        }),
      ),
  });
  if (!data) return <p className="quiet small">{isFetching ? "trying tolerances …" : ""}</p>;
  const most = Math.max(...data.map((d) => d.pieces), 1);
  const least = Math.min(...data.map((d) => d.pieces), most - 1);
  const high = Math.max(...data.map((d) => d.rms), 1e-6);
  const x = (pieces: number) => LEFT + ((pieces - least) / (most - least || 1)) * (W - LEFT - 12);
  const y = (rms: number) => HEAD + (1 - rms / high) * (H - FOOT - HEAD - 6);
  const now = data.reduce((a, b) => (Math.abs(b.tolerance - tolerance) < Math.abs(a.tolerance - tolerance) ? b : a));
  return (
    <svg className="trade-off" viewBox={`0 0 ${W} ${H}`} role="img" aria-label="Pieces against residual, by tolerance">
      <line x1={LEFT} x2={W - 4} y1={H - FOOT} y2={H - FOOT} />
      <line x1={LEFT} x2={LEFT} y1={HEAD - 4} y2={H - FOOT} />
      <text x={LEFT - 4} y={HEAD + 4} className="end">
        {length(high, unit).replace(` ${unit}`, "")}
      </text>
      <text x={LEFT - 4} y={H - FOOT} className="end">
        0
      </text>
      <text x={LEFT} y={H - 4}>
        {least}
      </text>
      <text x={W - 4} y={H - 4} className="end">
        {most} pieces
      </text>
      <polyline points={data.map((d) => `${x(d.pieces)},${y(d.rms)}`).join(" ")} />
      {data.map((d) => (
        // biome-ignore lint/a11y/useSemanticElements: a dot of a chart
        <circle
          key={d.tolerance}
          cx={x(d.pieces)}
          cy={y(d.rms)}
          r={d === now ? 5.5 : 4}
          className={d === now ? "now" : ""}
          role="button"
          tabIndex={0}
          aria-label={`${d.pieces} pieces at ${length(d.tolerance, unit, 1)}`}
          onClick={() => recut({ tolerance: typed(d.tolerance, unit) })}
          onKeyDown={(e) => e.key === "Enter" && recut({ tolerance: typed(d.tolerance, unit) })}
        >
          <title>
            {d.pieces} pieces{d.free ? `, ${d.free} free` : ""}, rms {length(d.rms, unit, 1)}, tolerance{" "}
            {length(d.tolerance, unit, 1)}
          </title>
        </circle>
      ))}
      <text x={2} y={10}>
        rms, {unit}
      </text>
    </svg>
  );
}
