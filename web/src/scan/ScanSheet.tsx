import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Select } from "antd";
import { useEffect, useState } from "react";
import { api, type DefectPlace, got } from "../api/client";
import { FileDoor } from "../intake/FileDoor";
import { accept } from "../intake/files";
import { useBench } from "../job/context";
import { useSeen } from "../job/seen";
import { useTool } from "../sheets/tool";
import { count } from "../units";
import { usePointed } from "../view/pointed";
import { mendOf } from "./defects";
import { HealthList } from "./HealthList";
import { MovedFacts } from "./MovedFacts";
import { NoiseLook } from "./NoiseLook";
import { ScanRole } from "./ScanRole";
import { ScanWork } from "./ScanWork";
import { useAddScan } from "./useAddScan";
import { useScanMoved } from "./useScanMoved";

/** One scan: its health with what mends it, its place in the job, and what it is compared with. */
export function ScanSheet() {
  const { job, scanId, edit } = useBench();
  const tool = useTool();
  const set = usePointed((s) => s.set);
  const see = useSeen((s) => s.set);
  const { moved, measure, clear } = useScanMoved();
  const [holes, setHoles] = useState(false);
  const adding = useAddScan();
  const scans = job.recipe.evidence.filter((e) => e.kind === "scan");
  const scan = scans.find((s) => s.id === scanId);
  const result = job.build.result;
  const healthKey = result?.health?.[scanId];
  const { data: health } = useQuery({
    queryKey: ["health", job.id, scanId, healthKey, scan?.leave],
    enabled: healthKey !== undefined,
    queryFn: () =>
      got(
        api.GET("/api/jobs/{job_id}/scans/{scan_id}/health", { params: { path: { job_id: job.id, scan_id: scanId } } }),
      ),
  });
  useEffect(
    () => () => {
      set({ marked: null, moved: null });
    },
    [set],
  );
  if (!scan) return null;
  const mended = result?.raw?.[scanId] !== undefined && result.raw[scanId] !== result.scans[scanId];
  const open = health?.defects.filter((d) => d.blocking && d.places.some((p) => !p.left)) ?? [];
  const add = async (kind: string, params: Record<string, unknown>) => {
    const id = crypto.randomUUID();
    set({ marked: null });
    if (await edit({ op: "add-step", id, kind, params })) tool.select(id);
  };
  const mend = (kind: string, place?: DefectPlace) => {
    const step = mendOf(kind, scanId, place);
    if (step) void add(step.kind, step.params);
  };
  return (
    <section className="sheet" aria-label="Scan">
      <h2>{scan.name}</h2>
      {scans.length > 1 && (
        <Select
          aria-label="Scan to work on"
          className="wide"
          value={scanId}
          options={scans.map((s) => ({ value: s.id, label: s.name }))}
          onChange={(scan) => {
            see({ scan });
            set({ marked: null, moved: null });
          }}
        />
      )}
      {health && <NoiseLook facets={`${count(health.facets)} facets`} noise={health.noise} />}
      {health?.unit_guess && (
        <div className="value-line above">
          <span>
            Its size looks like {health.unit_guess}, not {scan.unit}.
          </span>
          <Button
            size="small"
            onClick={() => void edit({ op: "set-scan", id: scanId, unit: health.unit_guess as "mm" })}
          >
            It is in {health.unit_guess}
          </Button>
        </div>
      )}
      <div className="field-label">Health</div>
      {!health && <p className="quiet">looking the scan over …</p>}
      {health && <HealthList key={health.scan} health={health} onMend={mend} />}
      {open.length > 0 && (
        <>
          <Button type="primary" block onClick={() => void add("mend", { scan: { id: scanId }, holes })}>
            Mend what blocks
          </Button>
          <Checkbox className="gap" checked={holes} onChange={(e) => setHoles(e.target.checked)}>
            fill every hole too
          </Checkbox>
        </>
      )}
      {mended && !moved && (
        <Button block className="gap" onClick={() => void measure(null, null)}>
          Compare with the raw scan
        </Button>
      )}
      {moved && <MovedFacts moved={moved} onClose={clear} />}
      <ScanWork />
      <ScanRole scan={scan} />
      <div className="sheet-actions">
        <FileDoor
          label="Another scan"
          accept={accept("mesh")}
          loading={adding.busy}
          onFiles={([one]) => one && void adding.bring(one)}
        >
          Bring in another scan
        </FileDoor>
        <Button onClick={() => tool.open("scanner")}>Virtual scanner</Button>
        <Button onClick={tool.close}>Close</Button>
      </div>
    </section>
  );
}
