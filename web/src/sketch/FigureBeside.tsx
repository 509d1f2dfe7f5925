import { Button } from "antd";
import type { Step } from "../api/client";
import { useBench } from "../job/context";
import { Stamp } from "../ui/Stamp";
import { length, signed } from "../units";
import type { Kept } from "./drawing";
import { type Beside, figureText } from "./pictures";

/** What a figure in a picture under the drawing says of a size, whether it agrees, and taking it. */
export function FigureBeside({ beside, kept, step }: { beside: Beside; kept: Kept; step: Step }) {
  const { unit, edit } = useBench();
  const size = kept.sizes?.find((s) => s.name === beside.size);
  if (!size) return null;
  const angle = size.kind === "angle";
  const place = angle ? "angles" : "lengths";
  const own = kept[place]?.[beside.size];
  const taken = own?.text === beside.text;
  const off = angle ? `${beside.off.toFixed(2)}°` : signed(beside.off, unit);
  const take = () =>
    edit({
      op: "set-params",
      step: step.id,
      params: {
        [place]: {
          ...kept[place],
          [beside.size]: { text: beside.text, mark: beside.source, note: `as ${beside.reading} states it` },
        },
      },
    });
  return (
    <div className="figure-beside small" data-beside={beside.size}>
      <Stamp mark={beside.source} /> {beside.reading}{" "}
      <span className="figures">{figureText({ ...beside, angle }, (n) => length(n, unit))}</span>
      {taken ? (
        <span className="quiet"> holds it</span>
      ) : (
        <>
          <span className={beside.allowed === false ? "above" : "quiet"}>
            {" "}
            {off}
            {beside.allowed === false && ", outside its tolerance"}
            {beside.allowed === true && ", inside its tolerance"}
          </span>{" "}
          {!size.reference && (
            <Button size="small" type="link" onClick={() => void take()}>
              Take it
            </Button>
          )}
        </>
      )}
    </div>
  );
}
