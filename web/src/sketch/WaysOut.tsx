import { Button } from "antd";
import { useBench } from "../job/context";
import type { Shown } from "./drawing";
import { RELATIONS, type RelationKind } from "./relations";
import { sizeText } from "./SizeLabels";
import { useHandOf } from "./store";
import type { Do } from "./stroke";

/** What contradicts itself, as a sentence for each set, with its ways out. Nothing of it is lost. */
export function WaysOut({ shown, act }: { shown: Shown; act: Do }) {
  const { unit } = useBench();
  const { set } = useHandOf("set");
  const says = (demand: string): string => {
    const k = Number(demand.slice(2));
    if (demand.startsWith("d:")) {
      const s = shown.drawing.sizes?.[k];
      const text = s && (s.kind === "angle" ? shown.drawing.angles : shown.drawing.lengths)?.[s.name]?.text;
      return s ? `${s.name} = ${text ?? sizeText(shown, k, unit)}` : demand;
    }
    const c = shown.drawing.constraints?.[k];
    return c ? `${RELATIONS[c.kind as RelationKind].word} (${c.of.join(", ")})` : demand;
  };
  if (shown.solved) return null;
  if (!shown.conflicts.length)
    return (
      <p className="above" role="alert">
        This could not be solved, though nothing in it contradicts itself. Draw it nearer to what is asked, or undo.
      </p>
    );
  return (
    <>
      {shown.conflicts.map((conflict) => (
        <section key={conflict.join()} className="ways-out" role="alert" aria-label="Contradiction">
          <p>
            {conflict.length === 1 ? "This cannot hold: " : "These cannot all hold: "}
            {conflict.map((d, i) => (
              <span key={d}>
                {i > 0 && " · "}
                <button type="button" className="link" onClick={() => set({ chosen: [d] })}>
                  {says(d)}
                </button>
              </span>
            ))}
          </p>
          {[...conflict].reverse().map((d) => (
            <div key={d} className="way-out">
              {d.startsWith("d:") && (
                <Button
                  size="small"
                  onClick={() =>
                    void act([{ act: "change-size", demand: d, value: null, reference: true, name: null }])
                  }
                >
                  Let {says(d).split(" = ")[0]} only read
                </Button>
              )}
              <Button size="small" onClick={() => void act([{ act: "release", demands: [d] }])}>
                Take away {says(d)}
              </Button>
            </div>
          ))}
        </section>
      ))}
    </>
  );
}
