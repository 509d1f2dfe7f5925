import { Table, type TableColumnsType, Tooltip } from "antd";
import type { Desk, Reading } from "../api/client";
import { useBench } from "../job/context";
import { Stamp } from "../ui/Stamp";
import { signed } from "../units";
import { bare, inU, ownUnit, type ReadingFacts } from "./facts";
import { useFocus } from "./useDesk";

interface Props {
  readings: Reading[];
  facts: Record<string, ReadingFacts>;
  desk: Desk | undefined;
}

/** One row a reading: mean, spread and uncertainty, and how it stands to the scan. A row in focus takes the next takes. */
export function ReadingTable({ readings, facts, desk }: Props) {
  const { unit, scanId } = useBench();
  const focus = useFocus();
  const figure = (f: ReadingFacts | undefined, mm: number | null | undefined, extra = 1) =>
    f?.dimension === "angle" ? (mm ?? 0).toFixed(3) : bare(mm, ownUnit(f, unit), extra);
  /** A reading made in another unit than the job's says so; its column's head cannot. */
  const named = (f: ReadingFacts | undefined) => {
    const own = f?.dimension === "angle" ? "deg" : ownUnit(f, unit);
    return own === unit ? "" : ` ${own}`;
  };
  const columns: TableColumnsType<Reading> = [
    {
      title: "Reading",
      key: "name",
      render: (_, r) => (
        <span className="desk-name">
          <Stamp mark={r.source ?? "caliper"} />
          <button
            type="button"
            className="reading-pick"
            aria-pressed={focus.reading === r.id}
            onClick={() => focus.set({ reading: r.id })}
          >
            {r.name}
          </button>
          {r.pin && (
            <Tooltip title="pinned on the part">
              <svg className="pin-mark" viewBox="0 0 12 12" role="img" aria-label="pinned on the part">
                <path d="M6 11V7M3 3a3 3 0 1 1 6 0a3 3 0 1 1-6 0" />
              </svg>
            </Tooltip>
          )}
        </span>
      ),
    },
    {
      title: "Measures",
      key: "what",
      render: (_, r) => (
        <span className="quiet">
          {r.measures === "other" ? "–" : r.measures}
          {(r.over ?? 1) > 1 ? ` over ${r.over}` : ""}
        </span>
      ),
    },
    {
      title: "Takes",
      key: "n",
      align: "right",
      render: (_, r) => {
        const struck = r.takes?.filter((t) => t.struck).length ?? 0;
        return (
          <span className="figures">
            {facts[r.id]?.n ?? 0}
            {struck > 0 && <span className="quiet"> ({struck} struck)</span>}
          </span>
        );
      },
    },
    {
      title: `Mean, ${unit}`,
      key: "mean",
      align: "right",
      render: (_, r) => (
        <b className="figures">
          {figure(facts[r.id], facts[r.id]?.mean)}
          {named(facts[r.id])}
        </b>
      ),
    },
    {
      title: <Tooltip title="standard deviation of the takes">s</Tooltip>,
      key: "s",
      align: "right",
      render: (_, r) => <span className="figures">{figure(facts[r.id], facts[r.id]?.s, 2)}</span>,
    },
    {
      title: <Tooltip title="expanded uncertainty of the mean, k = 2">± U (k = 2)</Tooltip>,
      key: "U",
      align: "right",
      render: (_, r) => <span className="figures">{figure(facts[r.id], facts[r.id]?.U95, 2)}</span>,
    },
    {
      title: "One gap",
      key: "each",
      align: "right",
      render: (_, r) =>
        (r.over ?? 1) > 1 && facts[r.id] ? (
          <span className="figures">{figure(facts[r.id], facts[r.id]?.each)}</span>
        ) : (
          ""
        ),
    },
    {
      title: "Minus scan",
      key: "scan",
      align: "right",
      render: (_, r) => {
        const a = desk?.against.find((x) => x.reading === r.id);
        if (!a) return <span className="quiet">not tied</span>;
        const { text, far } = inU(a.away);
        return (
          <Tooltip title={`${a.what}; ${text} of their joint uncertainty`}>
            <span className={`figures${far ? " above" : ""}`}>
              {signed(a.difference, unit, 1).replace(` ${unit}`, "")} {far ? "▲" : ""}
            </span>
          </Tooltip>
        );
      },
    },
    {
      title: "Doubts",
      key: "doubts",
      render: (_, r) => {
        const f = facts[r.id];
        const rows = [
          ...(f && f.outliers.length > 0 ? [`${f.outliers.length} take${f.outliers.length > 1 ? "s" : ""} apart`] : []),
          ...(f && !f.agree ? ["ways disagree"] : []),
        ];
        return rows.length > 0 ? <span className="above">▲ {rows.join(", ")}</span> : "";
      },
    },
  ];
  return (
    <Table<Reading>
      size="small"
      rowKey="id"
      pagination={false}
      columns={scanId ? columns : columns.filter((c) => c.key !== "scan")}
      dataSource={readings}
      rowClassName={(r) => (focus.reading === r.id ? "in-focus" : "")}
      onRow={(r) => ({ onClick: () => focus.set({ reading: r.id }) })}
    />
  );
}
