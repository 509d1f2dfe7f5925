import { Button, Segmented } from "antd";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import type { EvidenceOf } from "../job/evidence/kinds";
import { usePicks } from "../pick/picks";
import { count } from "../units";
import { packU4 } from "../view/buffers";

/** What the scan is in the job, and how much of it the fit is measured against. */
export function ScanRole({ scan }: { scan: EvidenceOf<"scan"> }) {
  const { job, scanId, scanKey, edit, tell } = useBench();
  const hand = usePicks((s) => s.hand);
  const zone = async () => {
    if (!hand) return;
    try {
      const body = { scan: scanKey, facets: packU4(hand), surface: "auto" as const };
      const kept = await got(
        api.POST("/api/jobs/{job_id}/keep-picked", { params: { path: { job_id: job.id } }, body }),
      );
      await edit({ op: "set-scan", id: scanId, zone: kept });
    } catch (e) {
      tell(e);
    }
  };
  return (
    <>
      <div className="field-label">What it is</div>
      <Segmented
        block
        aria-label="What the scan is"
        value={scan.role ?? "part"}
        options={[
          { value: "part", label: "the part" },
          { value: "reference", label: "for reference" },
        ]}
        onChange={(role) => void edit({ op: "set-scan", id: scanId, role: role === "part" ? "part" : "reference" })}
      />
      <p className="quiet small">
        {scan.role === "reference"
          ? "Shown beside the part; the fit is not measured against it."
          : scan.zone
            ? `The fit counts ${count(scan.zone.count)} painted facets only.`
            : "The fit is measured against all of it. Draw around facets with the lasso to limit it."}
      </p>
      <div className="button-rows">
        {hand && (
          <Button size="small" onClick={() => void zone()}>
            Fit only what is drawn ({count(hand.length)} facets)
          </Button>
        )}
        {scan.zone && (
          <Button size="small" onClick={() => void edit({ op: "set-scan", id: scanId, clear_zone: true })}>
            Fit all of it again
          </Button>
        )}
      </div>
    </>
  );
}
