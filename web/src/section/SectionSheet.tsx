import { Button } from "antd";
import type { SectionOut } from "../api/client";
import { ProblemError } from "../api/client";
import { useBench } from "../job/context";
import { useTake } from "../sheets/taking";
import { useTool } from "../sheets/tool";
import { LengthInput } from "../ui/LengthInput";
import { ProblemNote } from "../ui/ProblemNote";
import { length } from "../units";
import { ValueField } from "../values/ValueField";
import { AlongFace } from "./AlongFace";
import { Gaps } from "./Gaps";
import { LoopList } from "./LoopList";
import { PlaneControls } from "./PlaneControls";
import { PutRight } from "./PutRight";
import { Related } from "./Related";
import { SaveSection } from "./SaveSection";
import { TradeOff } from "./TradeOff";
import { countKinds, isTaken, leftOut } from "./taken";

interface Props {
  fitted: SectionOut | undefined;
  problem: Error | null;
  busy: boolean;
  onTake: () => void;
}

const TITLES = { section: "Section", radial: "Turned profile", silhouette: "Silhouette" };
const WORDS = {
  section:
    "Drag the arrow, or type how far the plane lies from where it starts; the two knobs turn it. Negative goes into the material.",
  radial: "The mean of half-sections all around the axis, as a profile beside it.",
  silhouette:
    "The border of the shadow that the scan throws along the plane's normal, with the holes one can look through.",
};
/** Why some loops are not taken although nobody has left them out. */
function LeftOut({ apart }: { apart: SectionOut["loops"] }) {
  const open = apart.filter((l) => !l.closed).length;
  const beside = apart.length - open;
  const loops = (n: number, what: string) => `${n} ${what}${n === 1 ? "loop" : "loops"}`;
  return (
    <p className="quiet small">
      Left out:{" "}
      {[
        open ? `${loops(open, "open ")} (a block needs closed ones)` : "",
        beside ? `${loops(beside, "")} beside the face it was begun from` : "",
      ]
        .filter(Boolean)
        .join(", ")}
      . Tick what belongs to it all the same.
    </p>
  );
}

/** Where the section plane lies, how few pieces explain the cut, and which of them are taken. */
export function SectionSheet({ fitted, problem, busy, onTake }: Props) {
  const { unit } = useBench();
  const draft = useTool((s) => s.section)!;
  const recut = useTool((s) => s.recut);
  const close = useTool((s) => s.close);
  const pieces = fitted?.loops.flatMap((l) => l.pieces) ?? [];
  // A formula is only known here by where the cut came to lie.
  const fittedAt =
    fitted && /[a-z_]{3,}/i.test(draft.offset.replace(/inch/g, "")) ? length(fitted.offset_mm, unit, 1) : "";
  const unexplained = fitted?.loops.filter((l) => l.explained === false).length ?? 0;
  const left = fitted ? leftOut(fitted, draft) : [];
  const apart = fitted?.loops.filter((l, i) => !isTaken(l, i, left)) ?? [];
  const taken = pieces.length - left.length;
  const ready = fitted !== undefined && taken > 0;
  useTake(ready ? onTake : null);
  return (
    <section className="sheet" aria-label="Section">
      <h2>{TITLES[draft.source]}</h2>
      <p className="quiet">{WORDS[draft.source]}</p>
      {draft.source !== "radial" && (
        <ValueField
          label="Offset"
          shown={{ text: draft.offset, mark: draft.mark ?? "assumed", means: fittedAt, note: draft.note ?? "" }}
          of={{
            kind: "sketch",
            params: draft.region && !draft.acrossAxis ? { plane: { id: draft.region } } : {},
            place: "offset",
          }}
          onType={(offset) => recut({ offset, mark: "assumed", note: "" })}
          onCommit={(v) => v && recut({ offset: v.text, mark: v.mark ?? "assumed", note: v.note ?? "" })}
        />
      )}
      {fitted?.along && <AlongFace along={fitted.along} />}
      {draft.source === "section" && <PlaneControls />}
      {draft.source === "radial" && fitted?.runout != null && (
        <p className="figures">
          runout {length(fitted.runout, unit, 1)} <span className="quiet small">on 95 % of the profile</span>
        </p>
      )}
      <div className="field-label">Tolerance of the outline</div>
      <LengthInput
        label="Tolerance of the outline"
        value={draft.tolerance}
        placeholder={fitted ? length(fitted.tolerance, unit, 1) : ""}
        onCommit={(tolerance) => recut({ tolerance })}
      />
      {fitted && fitted.loops.length > 0 && draft.source === "section" ? (
        <TradeOff tolerance={fitted.tolerance} />
      ) : (
        <p className="quiet small">A larger tolerance explains the cut with fewer pieces.</p>
      )}
      {draft.edited && (
        <p className="quiet small">
          Pieces were changed by hand.{" "}
          <Button size="small" type="link" onClick={() => recut({})}>
            Look for them again
          </Button>
        </p>
      )}
      {problem instanceof ProblemError && <ProblemNote problem={problem.problem} />}
      {busy && <p className="quiet">fitting the outline …</p>}
      {unexplained > 0 && (
        <p className="quiet">
          {unexplained === 1 ? "One loop was" : `${unexplained} loops were`} too much to explain in the time there is
          and {unexplained === 1 ? "stays" : "stay"} free. A larger tolerance, or another place, makes it quicker.
        </p>
      )}
      {fitted && fitted.loops.length === 0 && !fitted.along && (
        <p className="quiet">The plane misses the scan here. Move it back into the part.</p>
      )}
      {fitted && fitted.loops.length > 0 && (
        <>
          <div className="field-label">
            {fitted.loops.length} {fitted.loops.length === 1 ? "loop" : "loops"}: {countKinds(pieces)}
          </div>
          {apart.length > 0 && draft.left === null && <LeftOut apart={apart} />}
          <Gaps fitted={fitted} />
          <LoopList fitted={fitted} />
        </>
      )}
      {fitted && fitted.loops.length > 0 && <PutRight fitted={fitted} />}
      {fitted && fitted.loops.length > 0 && <Related fitted={fitted} />}
      {fitted && fitted.loops.length > 0 && <SaveSection draft={draft} />}
      <div className="sheet-actions">
        <Button type="primary" disabled={!ready} onClick={onTake}>
          Take as a sketch <kbd>Enter</kbd>
        </Button>
        <Button onClick={close}>Cancel</Button>
      </div>
    </section>
  );
}
