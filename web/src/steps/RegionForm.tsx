import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { useEffect } from "react";
import { api, got } from "../api/client";
import { factsOf } from "../api/facts";
import { useBench } from "../job/context";
import { length, type Unit } from "../units";
import { unpackF4, unpackU4 } from "../view/buffers";
import { usePointed } from "../view/pointed";

interface Props {
  step: string;
  leaveWorn: boolean;
  onLeave: (on: boolean) => void;
}

/** Residuals of a round profile, drawn out from a circle; where nothing was seen the line is broken. */
export function roundPath(profile: [number, number][], times: number): string {
  const gap = (k: number) => (profile[k]![0] - profile[(k + profile.length - 1) % profile.length]![0] + 360) % 360 > 12;
  const whole = !profile.some((_, k) => gap(k));
  return (
    profile
      .map(([deg, mm], k) => {
        const a = (deg * Math.PI) / 180;
        const r = 60 + mm * times;
        return `${k && !gap(k) ? "L" : "M"}${(80 + r * Math.cos(a)).toFixed(2)},${(80 - r * Math.sin(a)).toFixed(2)}`;
      })
      .join("") + (whole ? "Z" : "")
  );
}

function Profile({ profile, round, unit }: { profile: [number, number][]; round: boolean; unit: Unit }) {
  if (profile.length < 3) return null;
  const most = Math.max(...profile.map((p) => Math.abs(p[1])), 1e-4);
  if (round) {
    const times = 16 / most;
    return (
      <svg className="form-profile" viewBox="0 0 160 160" role="img" aria-label="Residuals round the axis">
        <circle cx="80" cy="80" r="60" />
        <path d={roundPath(profile, times)} />
        <text x="80" y="78">{`± ${length(most, unit, 1)}`}</text>
        <text x="80" y="92">{`drawn ${Math.round(times)} times`}</text>
      </svg>
    );
  }
  const from = profile[0]![0];
  const span = profile.at(-1)![0] - from || 1;
  const at = (p: [number, number]) =>
    `${(10 + (140 * (p[0] - from)) / span).toFixed(1)},${(30 - (22 * p[1]) / most).toFixed(1)}`;
  return (
    <svg className="form-profile flat" viewBox="0 0 160 60" role="img" aria-label="Residuals along the region">
      <path className="level" d="M10 30H150" />
      <path d={`M${profile.map(at).join("L")}`} />
      <text x="80" y="58">{`± ${length(most, unit, 1)} along ${length(span, unit)}`}</text>
    </svg>
  );
}

/** A quarter of what nearly all residuals stay within: what the colours take for nothing. Its rim, which bends away, is not asked. */
export function stillBelow(values: Float32Array): number {
  const size = values.map(Math.abs).sort();
  return Math.max(size[Math.floor(0.95 * (size.length - 1))]! / 4, 1e-4) || 1e-4;
}

/** How true a region is: flat, round, straight; where it is worn; its residuals over the scan while this is open. */
export function RegionForm({ step, leaveWorn, onLeave }: Props) {
  const { job, unit, scanKey } = useBench();
  const set = usePointed((s) => s.set);
  const state = job.build.result?.steps.find((s) => s.id === step);
  const key = state?.key ?? null;
  const leftOut = factsOf(state?.facts, "region")?.left_out ?? 0;
  const { data } = useQuery({
    queryKey: ["form", job.id, key, scanKey],
    enabled: key !== null && Boolean(scanKey),
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () =>
      got(
        api.GET("/api/jobs/{job_id}/products/{key}/form", {
          params: { path: { job_id: job.id, key: key! }, query: { scan: scanKey } },
        }),
      ),
  });
  useEffect(() => {
    if (data) {
      const values = unpackF4(data.residuals);
      set({ residuals: { facets: unpackU4(data.facets), values, still: stillBelow(values) } });
    }
    return () => set({ residuals: null });
  }, [data, set]);
  if (!data) return null;
  const rows: [string, number | null][] = [
    ["Flat within", data.flatness],
    ["Round within", data.roundness],
    ["Cylindrical within", data.cylindricity],
    ["Straight within", data.straightness],
  ];
  return (
    <section aria-label="Form">
      <div className="field-label">Form, with noise averaged out</div>
      {rows
        .filter(([, v]) => v !== null)
        .map(([label, v]) => (
          <div className="fact" key={label}>
            <span>{label}</span>
            <span className="figures">
              {length(v!, unit, 1)} <span className="quiet">± {length(2 * data.u, unit, 1)}</span>
            </span>
          </div>
        ))}
      <Profile profile={data.profile as [number, number][]} round={data.roundness !== null} unit={unit} />
      {data.depth !== null && !leaveWorn && (
        <p className="above">
          ▲ A zone of it looks worn, by up to {length(data.depth, unit)}.{" "}
          <Button size="small" onClick={() => onLeave(true)}>
            Leave it out of the fit
          </Button>
        </p>
      )}
      {leaveWorn && (
        <p className="quiet small">
          {leftOut ? `${leftOut} worn facets have no say in the fit. ` : "No worn zone stands out. "}
          <Button size="small" onClick={() => onLeave(false)}>
            Take all of it
          </Button>
        </p>
      )}
    </section>
  );
}
