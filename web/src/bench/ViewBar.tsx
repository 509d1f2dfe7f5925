import { Button, Slider, Switch } from "antd";
import { useLook } from "./stores";

interface Props {
  hasBody: boolean;
  onHome: () => void;
}

/** How the view looks: opacities, facet edges, whole part. */
export function ViewBar({ hasBody, onHome }: Props) {
  const look = useLook();
  const percent = { formatter: (v?: number) => `${v ?? 0} %` };
  return (
    <div className="view-bar" role="toolbar" aria-label="View">
      <label htmlFor="scan-opacity">Scan</label>
      <Slider
        id="scan-opacity"
        ariaLabelForHandle="Opacity of the scan"
        tooltip={percent}
        value={Math.round(look.scanOpacity * 100)}
        onChange={(v) => look.set({ scanOpacity: v / 100 })}
      />
      <label htmlFor="body-opacity">Body</label>
      <Slider
        id="body-opacity"
        ariaLabelForHandle="Opacity of the bodies"
        tooltip={percent}
        disabled={!hasBody}
        value={Math.round(look.bodyOpacity * 100)}
        onChange={(v) => look.set({ bodyOpacity: v / 100 })}
      />
      <label htmlFor="facet-edges">Facet edges</label>
      <Switch
        id="facet-edges"
        size="small"
        checked={look.facetEdges}
        onChange={(facetEdges) => look.set({ facetEdges })}
      />
      <Button size="small" onClick={onHome}>
        Whole part
      </Button>
    </div>
  );
}
