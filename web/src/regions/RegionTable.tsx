import { Table, type TableColumnsType, Tooltip } from "antd";
import { useBench } from "../job/context";
import { Copyable } from "../ui/Copyable";
import { Glyph } from "../ui/Glyph";
import { area, brief, workedOut } from "../units";
import { kindHue } from "../view/regionColours";
import { flyTo, goTo } from "../view/stage";
import { nameOf, type RegionRow, sizeMm, sizeOf, threadName } from "./facts";
import { useRegions } from "./store";

/** How exact a size is that is shown as a diameter or as a radius, mm. */
function spread(r: RegionRow, ofRadius: number): number {
  return (r.kind === "cylinder" && !r.is_fillet ? 4 : 2) * ofRadius;
}

const within = (target: EventTarget, selector: string) => (target as Element).closest(selector) !== null;

/** The regions that were found, to sort, fly to and choose. noise: of the scan, mm. */
export function RegionTable({ rows, noise }: { rows: RegionRow[]; noise: number }) {
  const { unit, palette } = useBench();
  const regions = useRegions();
  // Into a bore the way along its normal would lead through the wall opposite.
  const go = (r: RegionRow) =>
    r.outward < 0 && r.kind !== "plane" ? goTo(r.at) : flyTo(r.at, r.outwards, Math.max(Math.sqrt(r.area) * 2.5, 40));
  const choose = (id: number) => {
    const { chosen } = regions;
    regions.set({ chosen: chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id] });
  };
  const columns: TableColumnsType<RegionRow> = [
    {
      title: "Region",
      key: "kind",
      width: 126,
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
      width: 118,
      sorter: (a, b) => (sizeMm(a) ?? 0) - (sizeMm(b) ?? 0),
      render: (_, r) => (
        <span className="figures">
          {sizeOf(r, unit).replace(` ${unit}`, "")}
          {r.kind === "thread" && threadName(r) === null && <span className="above"> ▲</span>}
          {r.u.radius != null && r.kind !== "cone" && (
            <span className="quiet" title={`± ${workedOut(spread(r, r.u.radius), unit)}, two standard deviations`}>
              {" "}
              ± {brief(spread(r, r.u.radius), unit)}
            </span>
          )}
        </span>
      ),
    },
    {
      title: "rms",
      dataIndex: "rms",
      width: 54,
      align: "right",
      sorter: (a, b) => a.rms - b.rms,
      render: (mm: number, r) => (
        <span className={`figures${mm > 2 * (r.noise ?? noise) ? " above" : ""}`}>
          {r.kind === "freeform" ? "–" : brief(mm, unit, 1)}
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
    <Copyable name="regions">
      <Table<RegionRow>
        size="small"
        rowKey="id"
        className="region-table"
        columns={columns}
        dataSource={rows}
        pagination={false}
        scroll={{ y: 270 }}
        onRow={(r) => ({ onClick: (e) => !within(e.target, "button, label") && choose(r.id) })}
        rowSelection={{
          selectedRowKeys: regions.chosen,
          onChange: (keys) => regions.set({ chosen: keys as number[] }),
          columnWidth: 34,
        }}
      />
    </Copyable>
  );
}
