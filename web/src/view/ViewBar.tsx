import { Button, ColorPicker, Input, Popover, Segmented, Slider, Switch, Tooltip } from "antd";
import { ConstructMenu } from "../construct/ConstructMenu";
import { useBench } from "../job/context";
import { type SelectBy, type SelectWhat, useSelecting } from "../pick/selecting";
import { useTool } from "../sheets/tool";
import { useAppearance } from "./appearance";
import type { Reduced } from "./reduced";
import { useShownBodies } from "./useShownBodies";

const millions = (n: number) => (n / 1e6).toFixed(1);

/** How picks are made and how the view looks: selection, opacities, what can be picked, facet edges, whole part. */
export function ViewBar({ onHome, reduced }: { onHome: () => void; reduced: Reduced | null }) {
  const look = useAppearance();
  const selecting = useSelecting();
  const { scanKey } = useBench();
  const bodies = useShownBodies();
  const { panel, open } = useTool();
  const percent = { formatter: (v?: number) => `${v ?? 0} %` };
  return (
    <div className="view-bar" role="toolbar" aria-label="View">
      <Segmented<SelectBy>
        size="small"
        aria-label="Select by"
        value={selecting.by}
        onChange={(by) =>
          selecting.set({
            by,
            ...(by === "lasso" && !scanKey ? { what: "edges" } : {}),
            ...(by === "brush" ? { what: "facets" } : {}),
          })
        }
        options={[
          { label: "Click", value: "click", title: "a click grows a region or picks a face" },
          { label: "Lasso", value: "lasso", title: "draw around facets" },
          { label: "Brush", value: "brush", title: "paint over facets" },
        ]}
      />
      {selecting.by === "lasso" && bodies.length > 0 && (
        <>
          <Segmented<SelectWhat>
            size="small"
            aria-label="What the lasso takes"
            value={selecting.what}
            onChange={(what) => selecting.set({ what })}
            options={scanKey ? ["facets", "edges", "faces"] : ["edges", "faces"]}
          />
          {selecting.what !== "facets" && (
            <Segmented
              size="small"
              aria-label="How much has to lie inside"
              value={selecting.whole ? "whole" : "touched"}
              onChange={(v) => selecting.set({ whole: v === "whole" })}
              options={[
                { label: "whole", value: "whole", title: "what lies inside as a whole" },
                { label: "touched", value: "touched", title: "also what lies inside in part" },
              ]}
            />
          )}
        </>
      )}
      {selecting.by !== "click" && (
        <Tooltip title="Through takes facets on the far side as well">
          <Segmented
            size="small"
            aria-label="How deep"
            value={selecting.through ? "through" : "visible"}
            onChange={(v) => selecting.set({ through: v === "through" })}
            options={["visible", "through"]}
          />
        </Tooltip>
      )}
      {scanKey && (
        <Button
          size="small"
          aria-pressed={panel === "regions"}
          type={panel === "regions" ? "primary" : "default"}
          title="take the whole scan apart into surfaces"
          onClick={() => open(panel === "regions" ? null : "regions")}
        >
          All regions
        </Button>
      )}
      <Button
        size="small"
        aria-pressed={panel === "measure"}
        type={panel === "measure" ? "primary" : "default"}
        title="lasting measurements"
        onClick={() => open(panel === "measure" ? null : "measure")}
      >
        Measure
      </Button>
      <ConstructMenu />
      <Slider
        id="scan-opacity"
        ariaLabelForHandle="Opacity of the scan"
        tooltip={percent}
        value={Math.round(look.scanOpacity * 100)}
        onChange={(v) => look.set({ scanOpacity: v / 100 })}
      />
      <Popover trigger="click" placement="topRight" content={<Things />} destroyOnHidden>
        <Button size="small">Shown …</Button>
      </Popover>
      <Button size="small" onClick={onHome}>
        Whole
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

/** Every thing in the view: its name and colour, how see-through it is, and whether a click can take it. */
function Things() {
  const { job, palette, edit } = useBench();
  const look = useAppearance();
  const bodies = useShownBodies();
  const free = (id: string) => !look.unpickable.includes(id);
  const setFree = (id: string, on: boolean) =>
    look.set({ unpickable: on ? look.unpickable.filter((x) => x !== id) : [...look.unpickable, id] });
  return (
    <table className="things">
      <thead>
        <tr>
          <th />
          <th>name</th>
          <th>opacity</th>
          <th>can be picked</th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <td />
          <td>{job.recipe.evidence.find((e) => e.kind === "scan")?.name ?? "scan"}</td>
          <td>
            <Slider
              ariaLabelForHandle="Opacity of the scan"
              value={Math.round(look.scanOpacity * 100)}
              onChange={(v) => look.set({ scanOpacity: v / 100 })}
            />
          </td>
          <td>
            <Switch
              size="small"
              aria-label="Scan can be picked"
              checked={free("scan")}
              onChange={(on) => setFree("scan", on)}
            />
          </td>
        </tr>
        {bodies.map((b) => (
          <tr key={b.id}>
            <td>
              <ColorPicker
                size="small"
                value={b.colour ?? palette.body}
                onChangeComplete={(c) =>
                  void edit({ op: "set-body", id: b.id, colour: c.toHexString().slice(0, 7).toLowerCase() })
                }
              />
            </td>
            <td>
              <Input
                key={b.name}
                size="small"
                aria-label={`Name of ${b.name}`}
                defaultValue={b.name}
                onKeyDown={(e) => {
                  e.stopPropagation();
                  if (e.key === "Enter") e.currentTarget.blur();
                }}
                onBlur={(e) =>
                  e.target.value.trim() &&
                  e.target.value !== b.name &&
                  void edit({ op: "set-body", id: b.id, name: e.target.value.trim() })
                }
              />
            </td>
            <td>
              <Slider
                ariaLabelForHandle={`Opacity of ${b.name}`}
                value={Math.round((look.opacities[b.id] ?? look.bodyOpacity) * 100)}
                onChange={(v) => look.set({ opacities: { ...look.opacities, [b.id]: v / 100 } })}
              />
            </td>
            <td>
              <Switch
                size="small"
                aria-label={`${b.name} can be picked`}
                checked={free(b.id)}
                onChange={(on) => setFree(b.id, on)}
              />
            </td>
          </tr>
        ))}
        <tr>
          <td />
          <td>
            <label htmlFor="facet-edges">sides of the facets</label>
          </td>
          <td>
            <Switch
              id="facet-edges"
              size="small"
              checked={look.facetEdges}
              onChange={(facetEdges) => look.set({ facetEdges })}
            />
          </td>
          <td />
        </tr>
        {bodies.length === 0 && (
          <tr>
            <td />
            <td colSpan={3} className="quiet">
              There is no body yet.
            </td>
          </tr>
        )}
      </tbody>
    </table>
  );
}
