import { useQuery } from "@tanstack/react-query";
import { Button, Checkbox, Dropdown, Segmented, Select } from "antd";
import { useEffect, useRef, useState } from "react";
import { api, type DefectPlace, got } from "../api/client";
import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { useSeen } from "../job/seen";
import { usePicks } from "../pick/picks";
import { useTool } from "../sheets/tool";
import { count, length } from "../units";
import { packU4 } from "../view/buffers";
import { usePointed } from "../view/pointed";
import { mendOf } from "./defects";
import { HealthList } from "./HealthList";
import { MovedFacts } from "./MovedFacts";
import { useAddScan } from "./useAddScan";
import { useScanMoved } from "./useScanMoved";

const OWN_BUTTON = ["align", "merge", "mend"];

/** One scan: its health with what mends it, its place in the job, and what it is compared with. */
export function ScanSheet() {
  const { job, scanId, scanKey, unit, edit, tell } = useBench();
  const tool = useTool();
  const set = usePointed((s) => s.set);
  const see = useSeen((s) => s.set);
  const hand = usePicks((s) => s.hand);
  const kinds = useKinds();
  const { moved, measure, clear } = useScanMoved();
  const [holes, setHoles] = useState(false);
  const file = useRef<HTMLInputElement>(null);
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
  const draft = (kind: string, params: Record<string, unknown> = {}) => {
    const fields = kinds[kind]?.fields ?? [];
    const plain = Object.fromEntries(fields.filter((f) => f.type !== "ref").map((f) => [f.name, f.fallback]));
    tool.openDraft({ kind, params: { ...plain, scan: { id: scanId }, ...params } });
  };
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
  const others = scans.filter((s) => s.id !== scanId && !result?.merged?.[s.id]);
  const more = Object.values(kinds).filter((k) => k.makes === "scan" && !OWN_BUTTON.includes(k.id));
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
      {health && (
        <p className="quiet figures">
          {count(health.facets)} facets · noise {length(health.noise, unit, 1)}
        </p>
      )}
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
      <div className="field-label">Work on it</div>
      <div className="button-rows">
        <Button onClick={() => draft("align", { primary: null, secondary: [], also: [] })}>Put on its axes</Button>
        <Button disabled={others.length === 0} onClick={() => draft("merge", { others: [] })}>
          Merge scans
        </Button>
        <Dropdown
          menu={{
            items: more.map((k) => ({ key: k.id, label: k.title, title: k.help })),
            onClick: ({ key }) => draft(key, key === "trim" && hand ? { by: "facets" } : {}),
          }}
        >
          <Button>More mends ▾</Button>
        </Dropdown>
      </div>
      <div className="field-label">What it is</div>
      <Segmented
        block
        aria-label="What the scan is"
        value={scan.role ?? "part"}
        options={[
          { value: "part", label: "the part" },
          { value: "reference", label: "for reference" },
        ]}
        onChange={(role) => void edit({ op: "set-scan", id: scanId, role: role as "part" })}
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
      <div className="sheet-actions">
        <Button loading={adding.busy} onClick={() => file.current?.click()}>
          Bring in another scan
        </Button>
        <Button onClick={() => tool.open("scanner")}>Virtual scanner</Button>
        <Button onClick={tool.close}>Close</Button>
      </div>
      <input
        ref={file}
        type="file"
        hidden
        aria-label="Another scan"
        accept=".stl,.obj,.ply,.3mf,.gz,.zip"
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          if (chosen) void adding.bring(chosen);
          e.target.value = "";
        }}
      />
    </section>
  );
}
