import { Button } from "antd";
import { FileDoor } from "../intake/FileDoor";
import { ANY_FILE } from "../intake/files";
import { useBringIn } from "../intake/useBringIn";
import { useTool } from "../sheets/tool";

/** The view of a job that has no scan: what it can rest on, and how to bring one in. */
export function NoScan() {
  const open = useTool((s) => s.open);
  const { busy, bring } = useBringIn();
  return (
    <div className="no-scan">
      <h3>This job has no scan</h3>
      <p className="quiet">It rests on readings and named values. Bring a scan or a solid in whenever there is one.</p>
      <div className="button-rows">
        <Button type="primary" onClick={() => open("desk")}>
          Go to the caliper desk
        </Button>
        <FileDoor
          label="First scan"
          accept={ANY_FILE}
          several
          loading={busy !== null}
          onFiles={(files) => void bring(files)}
        >
          Bring in a scan or a solid
        </FileDoor>
      </div>
    </div>
  );
}
