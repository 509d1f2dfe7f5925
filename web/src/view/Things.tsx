import { ColorPicker, Input, Slider, Switch } from "antd";
import { useBench } from "../job/context";
import { useAppearance } from "./appearance";
import { useShownBodies } from "./useShownBodies";

/** Every thing in the view: its name and colour, how see-through it is, and whether a click can take it. */
export function Things() {
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
