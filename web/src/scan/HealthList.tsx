import { Button, Tooltip } from "antd";
import { useState } from "react";
import type { Defect, DefectPlace, Health } from "../api/client";
import { useBench } from "../job/context";
import { length } from "../units";
import { usePointed } from "../view/pointed";
import { rawPoint } from "../view/pose";
import { flyTo } from "../view/stage";
import { defectMeans, defectTitle, mendOf } from "./defects";

const SHOWN = 12;

interface Props {
  health: Health;
  onMend: (kind: string, place?: DefectPlace) => void;
}

/** What is wrong with the scan, kind by kind; a click on a place flies there and marks it. */
export function HealthList({ health, onMend }: Props) {
  const [open, setOpen] = useState<string | null>(health.defects.find((d) => d.blocking)?.kind ?? null);
  if (health.defects.length === 0) return <p className="quiet">Nothing is wrong with this scan.</p>;
  return (
    <ul className="health">
      {health.defects.map((d) => (
        <Entry
          key={d.kind}
          defect={d}
          open={open === d.kind}
          onOpen={() => setOpen(open === d.kind ? null : d.kind)}
          onMend={onMend}
        />
      ))}
    </ul>
  );
}

interface EntryProps {
  defect: Defect;
  open: boolean;
  onOpen: () => void;
  onMend: (kind: string, place?: DefectPlace) => void;
}

function Entry({ defect, open, onOpen, onMend }: EntryProps) {
  const { scanId, unit, pose, edit } = useBench();
  const set = usePointed((s) => s.set);
  const marked = usePointed((s) => s.marked);
  const left = defect.places.filter((p) => p.left).length;
  const asked = defect.places.length > 0 && left === defect.places.length;
  const mend = mendOf(defect.kind, scanId);
  const leave = (p: DefectPlace) =>
    edit({ op: "leave-defect", scan: scanId, kind: defect.kind, point: rawPoint(pose, p.point), left: !p.left });
  return (
    <li className={asked ? "left" : ""}>
      <div className="value-line">
        <button type="button" className="link health-kind" aria-expanded={open} onClick={onOpen}>
          <span className={defect.blocking && !asked ? "mark-blocks" : "mark-harmless"} aria-hidden>
            {defect.blocking && !asked ? "■" : "○"}
          </span>
          {defectTitle(defect.kind, defect.count)}
        </button>
        <span className="quiet small">{asked ? "left as is" : defect.blocking ? "blocks" : "harmless"}</span>
        {mend && !asked && (
          <Button size="small" onClick={() => onMend(defect.kind)}>
            Mend
          </Button>
        )}
      </div>
      {open && (
        <div className="places">
          <p className="quiet small">{defectMeans(defect.kind)}</p>
          {defect.places.slice(0, SHOWN).map((p, i) => (
            <div className="value-line" key={p.point.join()}>
              <button
                type="button"
                className={`link figures${marked?.point === p.point ? " now" : ""}`}
                onClick={() => {
                  set({ marked: { point: p.point, size: p.size, facets: p.facets } });
                  flyTo(p.point, p.normal, Math.max(40, 7 * p.size));
                }}
              >
                {i + 1} · {p.size > 0 ? `${length(p.size, unit)} across` : "a point"}
              </button>
              {p.left && <span className="quiet small">left as is</span>}
              <Tooltip title={p.left ? "Ask for it again" : "Harmless here: it is not asked for again"}>
                <Button size="small" type="text" onClick={() => void leave(p)}>
                  {p.left ? "Ask again" : "Leave it"}
                </Button>
              </Tooltip>
              {defect.kind === "hole" && !p.left && (
                <Button size="small" type="text" onClick={() => onMend("hole", p)}>
                  Fill
                </Button>
              )}
            </div>
          ))}
          {defect.count > SHOWN && defect.places.length > SHOWN && (
            <p className="quiet small">and {(defect.count - SHOWN).toLocaleString("en")} smaller ones</p>
          )}
        </div>
      )}
    </li>
  );
}
