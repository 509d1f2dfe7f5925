import { Switch } from "antd";
import { Fragment, useState } from "react";
import { useBench } from "../job/context";
import { SaveSet } from "../pick/SaveSet";
import { useAppearance } from "./appearance";
import { BodyBranch } from "./BodyBranch";
import { ThingRow } from "./ThingRow";
import { useShownBodies } from "./useShownBodies";

/** Every scan and body: drawn or not, its name and colour, and several of them taken together under a name. */
export function Things() {
  const { job, palette, scanId } = useBench();
  const look = useAppearance();
  const bodies = useShownBodies();
  const [ticked, setTicked] = useState<string[]>([]);
  const [opened, setOpened] = useState<string[]>([]);
  const open = (id: string) => setOpened(opened.includes(id) ? opened.filter((x) => x !== id) : [...opened, id]);
  const tick = (id: string) => ({
    ticked: ticked.includes(id),
    onTick: (on: boolean) => setTicked(on ? [...ticked, id] : ticked.filter((x) => x !== id)),
  });
  const scans = job.recipe.evidence.filter((e) => e.kind === "scan");
  const part = (id: string) => ({
    part: bodies.some((b) => b.id === id) ? ("body" as const) : ("evidence" as const),
    id,
  });
  return (
    <table className="things">
      <thead>
        <tr>
          <th />
          <th />
          <th>name</th>
          <th>shown</th>
          <th>opacity</th>
          <th>can be picked</th>
        </tr>
      </thead>
      <tbody>
        {scans.map((s) => (
          <ThingRow
            key={s.id}
            id={s.id}
            name={s.name}
            pickId={s.id === scanId ? "scan" : s.id}
            opacity={look.scanOpacity}
            onOpacity={(scanOpacity) => look.set({ scanOpacity })}
            {...tick(s.id)}
          />
        ))}
        {bodies.map((b) => (
          <Fragment key={b.id}>
            <ThingRow
              own
              branch={{ open: opened.includes(b.id), onOpen: () => open(b.id) }}
              id={b.id}
              name={b.name}
              pickId={b.id}
              colour={b.colour ?? palette.body}
              opacity={look.opacities[b.id] ?? look.bodyOpacity}
              onOpacity={(share) => look.set({ opacities: { ...look.opacities, [b.id]: share } })}
              {...tick(b.id)}
            />
            {opened.includes(b.id) && (
              <tr>
                <td />
                <td colSpan={5}>
                  <BodyBranch id={b.id} name={b.name} />
                </td>
              </tr>
            )}
          </Fragment>
        ))}
        <tr>
          <td />
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
          <td colSpan={2}>
            {ticked.length > 0 ? (
              <SaveSet only things={ticked.map(part)} text={`Group ${ticked.length} under a name`} />
            ) : (
              <span className="quiet">{bodies.length ? "" : "There is no body yet."}</span>
            )}
          </td>
        </tr>
      </tbody>
    </table>
  );
}
