import type { Sheet, Shown } from "./drawing";
import { placeOf } from "./places";
import { sidesOf } from "./relations";

/** Of the size that is chosen: a mark at either side, filled where it gives way. */
export function SideMarks({ shown, sheet, chosen }: { shown: Shown; sheet: Sheet; chosen: readonly string[] }) {
  const k = chosen.length === 1 && chosen[0]!.startsWith("d:") ? Number(chosen[0]!.slice(2)) : -1;
  const size = shown.drawing.sizes?.[k];
  const sides = size && !size.reference ? sidesOf(shown.drawing, size.of) : null;
  if (!size || !sides) return null;
  return sides.map((id, i) => {
    const [x, y] = placeOf(shown, sheet, [id], 0, 0);
    const gives = size.moves === "both" || size.moves === (i === 0 ? "first" : "second");
    return <circle key={id} className={`side-mark ${gives ? "gives" : ""}`} data-side={id} cx={x} cy={y} r={5} />;
  });
}
