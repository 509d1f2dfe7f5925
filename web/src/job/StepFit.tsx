import { Tooltip } from "antd";
import { points } from "../units";
import { useBench } from "./context";

/** What a step did to the fit: points of a percent, of the first body the share itself. */
export function StepFit({ step }: { step: string }) {
  const { job } = useBench();
  const fit = job.build.result?.fit?.by_step?.[step];
  if (!fit) return <span className="step-fit" />;
  const worse = fit.change !== null && fit.change < -0.0005;
  return (
    <Tooltip title={`${(100 * fit.inside_share).toFixed(1)} % of the scan inside after this step`}>
      <span className={`step-fit figures ${worse ? "worse" : ""}`}>
        {fit.change === null ? `${(100 * fit.inside_share).toFixed(0)} %` : points(fit.change)}
      </span>
    </Tooltip>
  );
}
