import { useMutation, useQuery } from "@tanstack/react-query";
import { Button, InputNumber, Segmented, Select, Tooltip } from "antd";
import { useState } from "react";
import { api, type CaliperState, type Desk, got, type Reading, type Session } from "../api/client";
import { useBench } from "../job/context";
import { useFocus } from "./useDesk";

interface Props {
  session: Session | undefined;
  focused: Reading | undefined;
  desk: Desk | undefined;
}

const NEW: CaliperState = {
  resolution_mm: 0.01,
  limit_mm: 0.02,
  repeat_mm: 0.008,
  error_mm: 0.006,
  zero_mm: 0.03,
  unit: "mm",
  shown_mm: 0,
  taken: 0,
  seed: 7,
};

/** The simulated caliper: jaws on a true size, zero, unit and send. What it sends goes the way of a real one. */
export function CaliperPanel({ session, focused, desk }: Props) {
  const { job, tell } = useBench();
  const path = { job_id: job.id };
  const [state, setState] = useState<CaliperState>(NEW);
  const [size, setSize] = useState<string>("own");
  const [own, setOwn] = useState(25);
  const [sent, setSent] = useState<string | null>(null);
  const { data: sizes = [] } = useQuery({
    queryKey: ["truth-sizes", job.id],
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => got(api.GET("/api/jobs/{job_id}/truth-sizes", { params: { path } })),
  });
  const { mutate, isPending } = useMutation({
    mutationFn: (body: { press: "measure" | "close" | "zero" | "send"; true_mm: number }) =>
      got(api.POST("/api/jobs/{job_id}/caliper/simulated", { params: { path }, body: { ...body, state } })),
    onSuccess: (out) => {
      setState(out.state);
      setSent(out.line);
    },
    onError: tell,
  });
  const stuck = useFocus((s) => s.stuck);
  const drop = () =>
    got(api.DELETE("/api/jobs/{job_id}/caliper", { params: { path } }))
      .then(() => useFocus.getState().set({ stuck: 0 }))
      .catch(tell);
  const chosen = sizes.find((s) => s.name === size);
  const truth = chosen?.mm ?? own;
  const press = (key: "measure" | "close" | "zero" | "send") => mutate({ press: key, true_mm: truth });
  const shown = state.unit === "mm" ? state.shown_mm!.toFixed(2) : (state.shown_mm! / 25.4).toFixed(4);
  const open = Math.min(Math.max(state.shown_mm!, 0), 60) * 1.6;
  return (
    <section className="desk-card" aria-label="Simulated caliper">
      <h2>Simulated caliper</h2>
      <svg className="caliper" viewBox="0 0 280 74" aria-hidden="true">
        <rect x="8" y="14" width="264" height="12" rx="1" />
        {Array.from({ length: 32 }, (_, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: marks of a ruler
          <path key={k} d={`M${26 + k * 8} 26 v${k % 5 === 0 ? -7 : -4}`} />
        ))}
        <path className="jaw" d="M8 14 h18 v44 l-7 12 v-44 h-11 z" />
        <path className="jaw" d={`M${26 + open} 10 h52 v20 h-45 v40 l-7 -12 z`} />
      </svg>
      <div className="caliper-display figures" role="status" aria-label="Display">
        {shown} <small>{state.unit}</small>
      </div>
      <div className="value-line caliper-keys">
        <Button size="small" loading={isPending} onClick={() => press("measure")}>
          Measure
        </Button>
        <Button size="small" onClick={() => press("close")}>
          Close
        </Button>
        <Tooltip title="Makes what it shows with closed jaws nothing">
          <Button size="small" onClick={() => press("zero")}>
            Zero
          </Button>
        </Tooltip>
        <Segmented
          size="small"
          aria-label="Unit of the display"
          value={state.unit ?? "mm"}
          options={["mm", "inch"]}
          onChange={(unit) => setState({ ...state, unit: unit as "mm" })}
        />
        <Button size="small" type="primary" disabled={!focused} onClick={() => press("send")}>
          Send
        </Button>
      </div>
      <div className="value-line">
        <Select
          size="small"
          className="wide"
          aria-label="What the jaws are on"
          value={size}
          options={[
            ...sizes.map((s) => ({ value: s.name, label: `${s.model}: ${s.name}` })),
            { value: "own", label: "a size of my own" },
          ]}
          onChange={setSize}
        />
        {size === "own" && (
          <InputNumber
            size="small"
            aria-label="True size"
            suffix="mm"
            min={0}
            max={1000}
            value={own}
            onKeyDown={(e) => e.stopPropagation()}
            onChange={(v) => setOwn(v ?? 0)}
          />
        )}
      </div>
      <p className="quiet small">
        {sent ? `Sent ${sent}. ` : ""}
        {focused ? `Takes go to ${focused.name}` : "Choose the reading that takes go to"}
        {focused && session ? `, in "${session.name}".` : "."}
      </p>
      {stuck > 0 && (
        <div className="value-line">
          <span className="above small">▲ {stuck} sent, and taken by no reading</span>
          <Button size="small" onClick={() => void drop()}>
            Throw away
          </Button>
        </div>
      )}
      {desk && (
        <details className="small">
          <summary>Connect a caliper of your own</summary>
          <p className="quiet">One value with its unit per line, such as 12.03 mm, posted as plain text to</p>
          <code className="address">{`${globalThis.location.origin}${desk.address}`}</code>
        </details>
      )}
    </section>
  );
}
