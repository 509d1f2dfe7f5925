import { Button, Input, Progress, Slider, Table, type TableColumnsType, Tooltip } from "antd";
import { useEffect } from "react";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { Glyph } from "../ui/Glyph";
import { area, count, length, share } from "../units";
import { kindHue } from "../view/regionColours";
import { flyTo, goTo } from "../view/stage";
import { alike, nameOf, type RegionRow, sizeMm, sizeOf } from "./facts";
import { ProposalRows } from "./ProposalRows";
import { useRegions } from "./store";
import { useFindRegions } from "./useFindRegions";

/** All regions of the scan: found in one go, listed, coloured, and kept as steps. */
export function RegionsSheet() {
  const { job, unit, palette, scanKey } = useBench();
  const close = useTool((s) => s.close);
  const regions = useRegions();
  const { find, recall, stop, keep, progress } = useFindRegions();
  useEffect(() => {
    recall().catch(() => undefined);
  }, [recall]);
  const found = regions.scan === scanKey ? regions.found : null;
  const rows = found?.regions ?? [];
  const kinds = [...new Set(rows.map((r) => r.kind))];
  const kept = job.recipe.steps.filter((s) => s.kind === "region");
  const shown = rows.filter((r) => !regions.hidden.includes(r.kind));
  const chosen = rows.filter((r) => regions.chosen.includes(r.id));
  // Into a bore the way along its normal would lead through the wall opposite.
  const go = (r: RegionRow) =>
    r.outward < 0 && r.kind !== "plane" ? goTo(r.at) : flyTo(r.at, r.outwards, Math.max(Math.sqrt(r.area) * 2.5, 40));
  const columns: TableColumnsType<RegionRow> = [
    {
      title: "Region",
      key: "kind",
      width: 96,
      sorter: (a, b) => nameOf(a).localeCompare(nameOf(b)),
      render: (_, r) => (
        <button type="button" className="region-name" onClick={() => go(r)} title="fly there">
          <span style={{ color: kindHue(r.kind, palette) }}>
            <Glyph kind={r.kind} />
          </span>
          {nameOf(r)}
          {r.same_surface !== r.id && (
            <Tooltip title={`on the same surface as region ${r.same_surface + 1}`}>
              <span className="quiet"> = {r.same_surface + 1}</span>
            </Tooltip>
          )}
          {r.worn_area > 0 && (
            <Tooltip
              title={`${area(r.worn_area, unit)} of it seem worn away and have no say in these figures. Keep it, and its sheet offers to leave them out.`}
            >
              <span className="above" role="img" aria-label="worn in part">
                ▲
              </span>
            </Tooltip>
          )}
        </button>
      ),
    },
    {
      title: "Size",
      key: "size",
      align: "right",
      width: 138,
      sorter: (a, b) => (sizeMm(a) ?? 0) - (sizeMm(b) ?? 0),
      render: (_, r) => (
        <span className="figures">
          {sizeOf(r, unit).replace(` ${unit}`, "")}
          {r.u.radius != null && r.kind !== "cone" && (
            <span className="quiet">
              {" "}
              ± {length((r.kind === "cylinder" && !r.is_fillet ? 4 : 2) * r.u.radius, unit).replace(` ${unit}`, "")}
            </span>
          )}
        </span>
      ),
    },
    {
      title: "rms",
      dataIndex: "rms",
      width: 58,
      align: "right",
      sorter: (a, b) => a.rms - b.rms,
      render: (mm: number, r) => (
        <span className={`figures${found && mm > 2 * found.noise ? " above" : ""}`}>
          {r.kind === "freeform" ? "–" : length(mm, unit, 1).replace(` ${unit}`, "")}
        </span>
      ),
    },
    {
      title: "Area",
      dataIndex: "area",
      align: "right",
      defaultSortOrder: "descend",
      sorter: (a, b) => a.area - b.area,
      render: (mm2: number) => <span className="figures">{area(mm2, unit).split(" ")[0]}</span>,
    },
  ];
  return (
    <section className="sheet wide-sheet regions-sheet" aria-label="Regions of the scan">
      <h2>Regions of the scan</h2>
      {!found && !progress && (
        <p className="quiet">
          The whole scan taken apart into planes, cylinders, cones, balls, beads and freeform rests. Every threshold
          follows the scan's own noise.
        </p>
      )}
      <label className="field-label" htmlFor="coarseness">
        How far a facet may lie off its surface
      </label>
      <div className="slider-line">
        <span className="quiet small">finer</span>
        <Slider
          id="coarseness"
          ariaLabelForHandle="Finer or coarser"
          min={0.5}
          max={2.5}
          step={0.1}
          value={regions.coarseness}
          tooltip={{ formatter: (v) => `${(v ?? 1).toFixed(1)} × the noise's own` }}
          onChange={(coarseness) => regions.set({ coarseness })}
        />
        <span className="quiet small">coarser</span>
      </div>
      <div className="value-line">
        <label htmlFor="least-area">Smallest region</label>
        <Input
          id="least-area"
          size="small"
          className="least-area"
          suffix="mm²"
          value={regions.least}
          onChange={(e) => regions.set({ least: e.target.value })}
          onKeyDown={(e) => e.stopPropagation()}
        />
        <div className="top-gap" />
        {progress ? (
          <Button size="small" onClick={() => void stop()}>
            Stop
          </Button>
        ) : (
          <Button size="small" type={found ? "default" : "primary"} onClick={() => void find(kept.map((s) => s.id))}>
            {found ? "Look again" : "Find regions"}
          </Button>
        )}
      </div>
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
            {rows.length} regions · noise {length(found.noise, unit, 1)} · {share(found.unassigned)} of the area in none
            · sizes in {unit}, areas in {unit}²
          </p>
          <fieldset className="kind-chips">
            <legend className="hidden-label">Kinds that are shown</legend>
            {kinds.map((k) => {
              const on = !regions.hidden.includes(k);
              return (
                <Button
                  key={k}
                  size="small"
                  aria-pressed={on}
                  className={on ? "chip" : "chip off"}
                  onClick={() =>
                    regions.set({ hidden: on ? [...regions.hidden, k] : regions.hidden.filter((x) => x !== k) })
                  }
                >
                  <span style={{ color: kindHue(k, palette) }}>
                    <Glyph kind={k} />
                  </span>
                  {count(rows.filter((r) => r.kind === k).length)} {k}
                </Button>
              );
            })}
          </fieldset>
          <Table<RegionRow>
            size="small"
            rowKey="id"
            className="region-table"
            columns={columns}
            dataSource={shown}
            pagination={false}
            scroll={{ y: 270 }}
            rowSelection={{
              selectedRowKeys: regions.chosen,
              onChange: (keys) => regions.set({ chosen: keys as number[] }),
              columnWidth: 34,
            }}
          />
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
              {chosen.length > 1 ? `Keep ${chosen.length} as regions` : "Keep as a region"}
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
