import { Button } from "antd";
import type { Desk } from "../api/client";
import { useBench } from "../job/context";

/** The scan's scale by readings that are tied to it, and its correction as a step. */
export function ScaleCheck({ desk }: { desk: Desk | undefined }) {
  const { job, scanId, edit } = useBench();
  if (!scanId) return null;
  const scale = desk?.scale;
  const put = job.recipe.steps.find((s) => s.kind === "rescale");
  const correct = () => {
    if (!scale) return;
    const note = `by ${scale.pairs} readings, ± ${(2 * scale.u * 100).toFixed(3)} %`;
    const params = { scan: { id: scanId }, factor: { text: scale.factor.toFixed(6), mark: "caliper", note } };
    void edit({ op: "add-step", kind: "rescale", params, id: crypto.randomUUID() });
  };
  return (
    <section className="desk-part" aria-label="Scale of the scan">
      <div className="desk-part-head">
        <h2>Scale of the scan</h2>
      </div>
      {!scale && (
        <p className="quiet">
          Tie at least two readings to regions of the scan: large sizes tell best whether the scanner was out of scale.
        </p>
      )}
      {scale && (
        <div className="value-line">
          <span className="figures">
            {scale.scale >= 0 ? "+" : "−"}
            {Math.abs(100 * scale.scale).toFixed(3)} % ± {(200 * scale.u).toFixed(3)} %
          </span>
          <span className={scale.significant ? "above" : "quiet"}>
            {scale.significant
              ? `▲ the scan is ${scale.scale > 0 ? "larger" : "smaller"} than ${scale.pairs} readings say`
              : `${scale.pairs} readings see no scale error`}
          </span>
          {scale.significant && (
            <Button size="small" onClick={correct} disabled={put !== undefined}>
              {put ? "Corrected by a step" : "Correct it by a step"}
            </Button>
          )}
        </div>
      )}
    </section>
  );
}
