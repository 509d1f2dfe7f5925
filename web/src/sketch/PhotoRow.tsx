import { Button, Checkbox, InputNumber } from "antd";
import { useBench } from "../job/context";
import { usePhoto } from "../photo/store";
import { useTool } from "../sheets/tool";
import { ProblemNote } from "../ui/ProblemNote";
import { length } from "../units";
import { LAY, type LaidPicture, laidSaid, type UnderPicture } from "./pictures";
import { useHandOf } from "./store";
import type { useLaying } from "./useLaid";

interface Props {
  under: UnderPicture;
  laid: LaidPicture | undefined;
  laying: ReturnType<typeof useLaying>;
}

/** One picture under the drawing: where it lies, and how it is brought to where it belongs. */
export function PhotoRow({ under, laid, laying }: Props) {
  const { unit } = useBench();
  const h = useHandOf("tool", "way", "laid", "group", "take", "drop");
  const id = under.picture;
  const inHand = h.tool === LAY && h.way === id;
  const open = () => {
    usePhoto.getState().open(id);
    useTool.getState().open("photo");
  };
  const number = (label: string, value: number, digits: number, onChange: (n: number) => void) => (
    <div className="quiet small">
      {label}
      <InputNumber
        size="small"
        aria-label={label}
        controls={false}
        changeOnWheel={false}
        value={Number(value.toFixed(digits))}
        onKeyDown={(e) => e.stopPropagation()}
        onChange={(n) => n !== null && onChange(n)}
      />
    </div>
  );
  const [x, y] = under.at;
  return (
    <div className="photo-row" data-picture={laid?.name ?? ""} data-laid={laid?.matrix ? "yes" : "no"}>
      <p>
        {laid?.name ?? "…"}
        {laid?.mm_per_px && <span className="quiet small"> {(1 / laid.mm_per_px).toFixed(1)} pixels per mm</span>}
      </p>
      {laid?.problem && <ProblemNote problem={laid.problem} />}
      {laid?.matrix && (
        <>
          <div className="photo-place">
            <Button
              size="small"
              type={inHand ? "primary" : "default"}
              aria-pressed={inHand}
              title="two places in the picture, each with where it belongs in the sketch"
              onClick={() => (inHand ? h.drop() : h.take(h.group, LAY, id))}
            >
              By two places
            </Button>
            <Button
              size="small"
              loading={laying.busy}
              title="moved and turned until its edges lie on what is drawn; it has to be near already"
              onClick={() => laying.lay({ id })}
            >
              By its edges
            </Button>
          </div>
          <div className="photo-numbers">
            {number("1st, mm", x, 3, (n) => void laying.change(id, { at: [n, y] }))}
            {number("2nd, mm", y, 3, (n) => void laying.change(id, { at: [x, n] }))}
            {number("turned, °", under.turn ?? 0, 2, (n) => void laying.change(id, { turn: n }))}
          </div>
          <Checkbox
            checked={under.mirrored ?? false}
            onChange={(e) => void laying.change(id, { mirrored: e.target.checked })}
          >
            Seen from behind
          </Checkbox>
        </>
      )}
      {h.laid?.under.picture === id && (
        <p className="small" role="status" data-said="laid">
          {laidSaid(h.laid, (n, digits) => length(n, unit, digits))}
        </p>
      )}
      <div>
        <Button size="small" type="link" onClick={open}>
          Open the picture
        </Button>
        <Button size="small" type="link" onClick={() => void laying.lift(id)}>
          Take it away
        </Button>
      </div>
    </div>
  );
}
