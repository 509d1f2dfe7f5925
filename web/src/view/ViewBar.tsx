import { Button, Popover, Slider, Tooltip } from "antd";
import type { MouseEvent } from "react";
import { ConstructMenu } from "../construct/ConstructMenu";
import { useBench } from "../job/context";
import { SelectBar } from "../pick/SelectBar";
import { useSelecting } from "../pick/selecting";
import { useTool } from "../sheets/tool";
import { useAppearance } from "./appearance";
import type { Reduced } from "./reduced";
import { Things } from "./Things";

const millions = (n: number) => (n / 1e6).toFixed(1);

/** How picks are made and how the view looks: selection, opacities, what can be picked, facet edges, whole part. */
export function ViewBar({ onHome, reduced }: { onHome: () => void; reduced: Reduced | null }) {
  const look = useAppearance();
  const { scanKey } = useBench();
  const { panel, open } = useTool();
  // While it is drawn around parts the bar has what that needs, in one row.
  const clicks = useSelecting((s) => s.by === "click");
  // Clicked, it gives the keyboard back: Enter is for what is being prepared, and not for the view once more.
  const home = (e: MouseEvent<HTMLElement>) => {
    onHome();
    if (e.detail > 0) e.currentTarget.blur();
  };
  const percent = { formatter: (v?: number) => `${v ?? 0} %` };
  return (
    <div className="view-bar" role="toolbar" aria-label="View">
      <SelectBar />
      {scanKey && clicks && (
        <Button
          size="small"
          aria-pressed={panel === "regions"}
          className={panel === "regions" ? "on" : ""}
          aria-label="All regions"
          type={panel === "regions" ? "primary" : "default"}
          title="find every surface of the scan"
          onClick={() => open(panel === "regions" ? null : "regions")}
        >
          <span>
            <span className="while-roomy">All </span>regions
          </span>
        </Button>
      )}
      {clicks && (
        <Button
          size="small"
          aria-pressed={panel === "measure"}
          type={panel === "measure" ? "primary" : "default"}
          title="lasting measurements"
          onClick={() => open(panel === "measure" ? null : "measure")}
        >
          Measure
        </Button>
      )}
      {clicks && <ConstructMenu />}
      <Slider
        id="scan-opacity"
        ariaLabelForHandle="Opacity of the scan"
        tooltip={percent}
        value={Math.round(look.scanOpacity * 100)}
        onChange={(v) => look.set({ scanOpacity: v / 100 })}
      />
      <Popover trigger="click" placement="topRight" content={<Things />} destroyOnHidden>
        <Button size="small">Show / hide</Button>
      </Popover>
      <Button size="small" aria-label="Fit view" onClick={home}>
        <span>
          Fit<span className="while-roomy"> view</span>
        </span>
      </Button>
      {reduced && (
        <Tooltip title="Picks, fits and deviations use every facet of the scan; only the picture is reduced.">
          <span className="reduced-note">
            shown with {millions(reduced.facetOf.length)} of {millions(reduced.shownBy.length)} M facets
          </span>
        </Tooltip>
      )}
    </div>
  );
}
