import { Button } from "antd";
import { useBench } from "../job/context";
import { count, share, signed } from "../units";
import { flyTo } from "../view/stage";
import type { ScanMoved } from "./useScanMoved";

/** What a map of moved facets says in figures. */
export function MovedFacts({ moved, onClose }: { moved: ScanMoved | "measuring"; onClose: () => void }) {
  const { unit } = useBench();
  if (moved === "measuring") return <p className="quiet">measuring what changed …</p>;
  return (
    <div className="compared">
      <dl className="fact-list">
        <div>
          <dt>facets</dt>
          <dd>
            {count(moved.facets[0])} → {count(moved.facets[1])}
          </dd>
        </div>
        <div>
          <dt>made new</dt>
          <dd>{count(moved.new_facets)}</dd>
        </div>
        <div>
          <dt>moved surface</dt>
          <dd>{share(moved.moved_share)}</dd>
        </div>
        <div>
          <dt>
            <button type="button" className="link" onClick={() => flyTo(moved.largest_at, moved.outward, 70)}>
              surface moved most
            </button>
          </dt>
          <dd>{signed(moved.largest, unit, 1)}</dd>
        </div>
      </dl>
      <Button size="small" onClick={onClose}>
        Close the map
      </Button>
    </div>
  );
}
