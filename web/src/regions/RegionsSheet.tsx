import { Button, Progress } from "antd";
import { useEffect, useRef } from "react";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { length, share, workedOut } from "../units";
import { AlikeAround } from "./AlikeAround";
import { FindForm } from "./FindForm";
import { alike, keepWords } from "./facts";
import { KindChips } from "./KindChips";
import { ProposalRows } from "./ProposalRows";
import { RegionTable } from "./RegionTable";
import { useRegions } from "./store";
import { ThreadsNear } from "./ThreadsNear";
import { ToSolid } from "./ToSolid";
import { useFindRegions } from "./useFindRegions";

/** All regions of the scan: found in one go, listed, coloured, and kept as steps. */
export function RegionsSheet() {
  const { job, unit, scanKey } = useBench();
  const close = useTool((s) => s.close);
  const regions = useRegions();
  const { find, recall, stop, keep, progress } = useFindRegions();
  const kept = job.recipe.steps.filter((s) => s.kind === "region");
  // Whoever opens this wants the regions: they are looked for at once, unless they are known already.
  const begin = useRef(() => find(kept.map((s) => s.id)));
  begin.current = () => find(kept.map((s) => s.id));
  useEffect(() => {
    recall()
      .then((known) => (known ? undefined : begin.current()))
      .catch(() => undefined);
  }, [recall]);
  const found = regions.scan === scanKey ? regions.found : null;
  const rows = found?.regions ?? [];
  const shown = rows.filter((r) => !regions.hidden.includes(r.kind));
  const chosen = rows.filter((r) => regions.chosen.includes(r.id));
  return (
    <section className="sheet wide-sheet regions-sheet" aria-label="Regions of the scan">
      <h2>Regions of the scan</h2>
      {!found && !progress && (
        <p className="quiet">
          The whole scan divided into planes, cylinders, cones, spheres, tori, threads and freeform rests. Every
          threshold follows the scan's own noise.
        </p>
      )}
      <FindForm
        busy={progress !== null}
        again={found !== null}
        onFind={() => void find(kept.map((s) => s.id))}
        onStop={() => void stop()}
      />
      {kept.length > 0 && !progress && (
        <p className="quiet small">
          {kept.length === 1
            ? "The region step of this job keeps its"
            : `The ${kept.length} region steps of this job keep their`}{" "}
          facets.
        </p>
      )}
      {progress && (
        <div aria-live="polite">
          <Progress percent={progress.percent} size="small" showInfo={false} />
          <p className="quiet small">{progress.what} …</p>
        </div>
      )}
      {found && !progress && (
        <>
          <p className="figures small">
            {rows.length} regions ·{" "}
            {found.mesh === "modelled"
              ? `exact to ${workedOut(found.noise, unit)}`
              : `noise ${length(found.noise, unit, 1)}`}{" "}
            · {share(found.unassigned)} of the area in none · sizes in {unit}, areas in {unit}²
          </p>
          <ToSolid mesh={found.mesh} />
          <AlikeAround found={found} keep={keep} />
          <KindChips rows={rows} />
          <RegionTable rows={shown} noise={found.noise} />
          <ThreadsNear rows={chosen.length > 0 ? chosen : rows} />
          <div className="value-line gap">
            <Button
              size="small"
              disabled={chosen.length !== 1}
              onClick={() => regions.set({ chosen: alike(chosen[0]!, rows) })}
            >
              Choose alike
            </Button>
            <div className="top-gap" />
            <Button
              size="small"
              type="primary"
              disabled={chosen.length === 0}
              onClick={() => void keep(regions.chosen).then((ok) => ok && regions.set({ chosen: [] }))}
            >
              {keepWords(chosen)}
            </Button>
          </div>
          <ProposalRows found={found} />
        </>
      )}
      <div className="value-line">
        <div className="top-gap" />
        <Button onClick={close}>Close</Button>
      </div>
    </section>
  );
}
