import { Button, Tooltip } from "antd";
import { useBench } from "../job/context";
import { Glyph } from "../ui/Glyph";
import { length, signed } from "../units";
import { goTo } from "../view/stage";
import type { SeatPair, SeatRow } from "./SeatPairs";

interface Props {
  pair: SeatPair;
  row: SeatRow;
  name: string;
  onPoint: () => void;
  onLeave: () => void;
  /** None where nothing is lost. */
  onRepair: (() => void) | null;
}

/** One pair: the face, how far the scan lies from it before and after, and why it was refused. */
export function SeatPairRow({ pair: p, row, name, onPoint, onLeave, onRepair }: Props) {
  const { job, unit } = useBench();
  const refused = row.status === "refused";
  return (
    <li className={refused ? "refused" : ""} onMouseEnter={onPoint}>
      <Glyph kind={p.face.kind} />
      <button
        type="button"
        className="step-name"
        title={`${name} → ${p.region ? (job.recipe.steps.find((s) => s.id === p.region?.id)?.name ?? "a region") : "a region grown from a pick"}`}
        onClick={() => p.face.place && goTo(p.face.place)}
      >
        {name}
      </button>
      <Tooltip
        title={
          row.offset == null
            ? ""
            : `moves ${signed(row.offset, unit, 1)}; left over: tilt ${row.tilt?.toFixed(2)} deg${row.shift ? `, shift ${length(row.shift, unit, 1)}` : ""}; ${row.facets} facets`
        }
      >
        <span className="figures seat-figures">
          {row.before == null || refused
            ? ""
            : `${length(row.before, unit, 1).split(" ")[0]} → ${length(row.after ?? 0, unit, 1).split(" ")[0]}`}
        </span>
      </Tooltip>
      <Button size="small" type="text" aria-label={`Leave ${name} out`} onClick={onLeave}>
        ×
      </Button>
      {row.status === "stands" && (
        <div className="seat-stands">{`stays, within the noise: ${signed(row.offset ?? 0, unit, 1)} off; ${row.reason}`}</div>
      )}
      {refused && (
        <div className="seat-reason">
          refused: {row.reason}{" "}
          {onRepair && (
            <button type="button" className="link" onClick={onRepair}>
              repair
            </button>
          )}
        </div>
      )}
    </li>
  );
}
