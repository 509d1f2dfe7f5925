import { Button } from "antd";
import { useRef } from "react";
import { useAddScan } from "../scan/useAddScan";
import { useTool } from "../sheets/tool";

/** The view of a job that has no scan: what it can rest on, and how to bring one in. */
export function NoScan() {
  const open = useTool((s) => s.open);
  const { busy, bring } = useAddScan();
  const file = useRef<HTMLInputElement>(null);
  return (
    <div className="no-scan">
      <h3>This job has no scan</h3>
      <p className="quiet">It rests on readings and named values. Bring a scan or a solid in whenever there is one.</p>
      <div className="button-rows">
        <Button type="primary" onClick={() => open("desk")}>
          Go to the caliper desk
        </Button>
        <Button loading={busy} onClick={() => file.current?.click()}>
          Bring in a scan or a solid
        </Button>
      </div>
      <input
        ref={file}
        type="file"
        hidden
        aria-label="First scan"
        accept=".stl,.obj,.ply,.3mf,.gz,.zip,.step,.stp,.iges,.igs"
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          if (chosen) void bring(chosen);
          e.target.value = "";
        }}
      />
    </div>
  );
}
