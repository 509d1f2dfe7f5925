import { Button, Segmented, Tooltip } from "antd";
import type { GrowOut } from "../api/client";
import { ProblemError } from "../api/client";
import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { Glyph } from "../ui/Glyph";
import { LengthInput } from "../ui/LengthInput";
import { ProblemNote } from "../ui/ProblemNote";
import { surfaceName, surfaceSize } from "../ui/surfaces";
import { area, count, length } from "../units";
import { showPlace } from "../view/showPlace";
import { byRegion, regionShape } from "./begunBy";
import { MoreKinds } from "./MoreKinds";
import { type SurfaceChoice, usePicks } from "./picks";
import { type RegionDoes, regionActions } from "./regionActions";
import { SaveSet } from "./SaveSet";
import { useCardKeys } from "./useCardKeys";

const KINDS: { label: string; value: SurfaceChoice }[] = [
  { label: "auto", value: "auto" },
  { label: "plane", value: "plane" },
  { label: "cylinder", value: "cylinder" },
  { label: "cone", value: "cone" },
  { label: "sphere", value: "sphere" },
  { label: "torus", value: "torus" },
];
const kindWord = (kind: SurfaceChoice) => KINDS.find((k) => k.value === kind)?.label ?? kind;

interface Props extends RegionDoes {
  grown: GrowOut | undefined;
  /** Facets that are in hand, in the view's numbering. */
  facets: Uint32Array | null;
  problem: Error | null;
}

/** What is picked, in plain words, and the few things that can be done with just that. */
export function SelectionCard({ grown, facets, problem, ...does }: Props) {
  const { unit } = useBench();
  const kinds = useKinds();
  const picks = usePicks();
  const offers = grown ? byRegion(kinds, regionShape(grown.surface), "", null) : [];
  const actions = grown ? regionActions(grown, picks.anchor, offers, does) : [];
  useCardKeys(actions);
  return (
    <section className="card" aria-label="Selection">
      {grown && (
        <>
          <header>
            <Glyph kind={grown.surface.kind} />
            <h3>{picks.hand ? `${count(grown.count)} facets by hand` : title(grown, unit)}</h3>
          </header>
          <p className="figures">
            {picks.hand ? title(grown, unit) : `${count(grown.count)} facets`} · {area(grown.area, unit)}
            <br />
            rms {length(grown.rms, unit, 1)} · largest deviation {length(Math.abs(grown.largest), unit, 1)}
          </p>
        </>
      )}
      {!grown && !problem && <p className="quiet">{picks.hand ? "fitting …" : "growing …"}</p>}
      {problem instanceof ProblemError && <ProblemNote problem={problem.problem} onGo={showPlace} />}
      <div className="card-row">
        <Segmented<SurfaceChoice>
          size="small"
          aria-label="Kind of surface"
          value={picks.surface}
          onChange={picks.setSurface}
          options={KINDS}
        />
      </div>
      {picks.hand && grown && grown.rms > 0.3 && (
        <p className="above">No single surface explains these: leave out what bends away, or cut a section instead.</p>
      )}
      {grown && grown.untried.length > 0 && (
        <p className="above">
          The region is so large that there was no time to try {grown.untried.map(kindWord).join(", ")}. If it is one of
          these, choose it above.
        </p>
      )}
      {picks.hand && <p className="quiet small">Shift adds · Alt takes away · nothing grows beyond what is drawn</p>}
      <div className="card-row" hidden={picks.hand !== null}>
        <span className="quiet">within</span>
        <LengthInput
          label="Tolerance of the region"
          value={picks.tolerance}
          placeholder={grown ? length(grown.tolerance, unit, 1) : ""}
          onCommit={picks.setTolerance}
        />
        <Tooltip title="Shift-click adds facets on the same surface, Alt-click takes a patch away">
          <span className="quiet hint">Shift adds · Alt removes</span>
        </Tooltip>
      </div>
      <div className="card-actions">
        {actions.map((a) => (
          <Button key={a.key} size="small" onClick={a.run} title={a.hint}>
            {a.key && <kbd>{a.key}</kbd>} {a.text}
          </Button>
        ))}
        <MoreKinds offers={offers.filter((o) => o.seldom)} onBegin={({ kind }) => does.onBegin(kind.id)} size="small" />
        <SaveSet facets={facets} />
        <Button size="small" type="text" onClick={picks.clear}>
          <kbd>Esc</kbd> Clear selection
        </Button>
      </div>
    </section>
  );
}

function title(grown: GrowOut, unit: Parameters<typeof length>[1]): string {
  const { surface } = grown;
  if (surface.kind === "plane") return `Plane, flat within ${length(Math.abs(grown.largest), unit)}`;
  const name = surfaceName(surface.kind, surface.outward < 0);
  const size = surfaceSize(surface, unit);
  return size ? `${name}, ${size}` : name;
}
