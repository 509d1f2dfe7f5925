import { Button, Select } from "antd";
import { useState } from "react";
import type { Step } from "../api/client";
import { useBench } from "../job/context";
import { length, signed } from "../units";
import { goTo } from "../view/stage";
import { AlikeRows } from "./AlikeRows";
import { type Fit, type Frame, inSpace, type Shown } from "./drawing";
import { FitRows } from "./FitRows";
import { madeAlike, taken, WITHIN_PX } from "./fit";
import { useHandOf } from "./store";
import type { Do } from "./stroke";
import { useFit } from "./useFit";
import { useLaid } from "./useLaid";

const SECTION = "section";

/** The drawing against the section, or the edges of a picture under it: how far off it is, and what its sizes come to when it is adjusted. */
export function FitPanel({ step, frame, shown, act }: { step: Step; frame: Frame | null; shown: Shown; act: Do }) {
  const { edit, scanKey } = useBench();
  const { fit, set } = useHandOf("fit", "set");
  const pictures = (useLaid(step, shown)?.pictures ?? []).filter((p) => p.matrix !== null);
  const sources = [
    ...(scanKey ? [{ value: SECTION, label: "the section" }] : []),
    ...pictures.map((p) => ({ value: p.picture, label: p.name })),
  ];
  const [wanted, setWanted] = useState(SECTION);
  const source = sources.find((s) => s.value === wanted) ?? sources[0];
  const kept = shown.drawing;
  const { ask, busy, can } = useFit(step, frame, kept, source && source.value !== SECTION ? source.value : null);
  const [rounded, setRounded] = useState<string[]>([]);
  const [alike, setAlike] = useState<string[]>([]);
  if (!can || !frame || !source) return null;
  const begin = (adjust: boolean) => {
    setRounded([]);
    setAlike([]);
    ask(adjust);
  };
  const take = async (of: Fit) => {
    if (!of.drawing) return;
    const made = madeAlike(of, alike);
    if (!(await edit({ op: "set-params", step: step.id, params: { ...taken(of, rounded) } }))) return;
    set({ fit: null });
    if (made.length) await act(made);
  };
  return (
    <section className="fit-panel" aria-label="Against what was measured">
      <div className="field-label">Against {sources.length > 1 ? "what was measured" : source.label}</div>
      {sources.length > 1 && (
        <Select<string>
          size="small"
          style={{ width: "100%" }}
          aria-label="Against what"
          value={source.value}
          options={sources}
          onChange={setWanted}
        />
      )}
      <Button size="small" loading={busy} onClick={() => (fit && !fit.drawing ? set({ fit: null }) : begin(false))}>
        {fit && !fit.drawing ? "Hide how far off" : "How far off"}
      </Button>{" "}
      <Button size="small" loading={busy} onClick={() => begin(true)}>
        {source.value === SECTION ? "Fit to the section" : "Fit to its edges"}
      </Button>
      {fit && <Said fit={fit} frame={frame} others={source.value === SECTION ? "wear or rims" : "other edges"} />}
      {fit?.drawing && (
        <>
          {!fit.sizes.length && <p className="quiet small">No sizes yet: what is drawn goes where it fits best.</p>}
          <FitRows
            fit={fit}
            rounded={rounded}
            onRound={(name) =>
              setRounded(rounded.includes(name) ? rounded.filter((n) => n !== name) : [...rounded, name])
            }
          />
          <AlikeRows fit={fit} chosen={alike} onChoose={setAlike} />
          <Button size="small" type="primary" onClick={() => void take(fit)}>
            Take it
          </Button>{" "}
          <Button size="small" onClick={() => set({ fit: null })}>
            Leave it
          </Button>
        </>
      )}
    </section>
  );
}

function Said({ fit, frame, others }: { fit: Fit; frame: Frame; others: string }) {
  const { unit } = useBench();
  const { worst } = fit;
  return (
    <p className="small" data-said="fit">
      {(100 * fit.inside).toFixed(1)} % of {fit.places.toLocaleString("en")} places within ±{length(fit.within, unit)}
      {fit.drawing && `, rms ${length(fit.rms, unit, 1)}, ${fit.left_out} left out as ${others}`}.{" "}
      {worst && (
        <button type="button" className="link" onClick={() => goTo(inSpace(frame, [worst.at[0], worst.at[1]]))}>
          Worst {signed(worst.off, unit)}
        </button>
      )}
      {fit.alone.length > 0 && ` Nothing was measured near ${fit.alone.join(", ")}: as drawn, assumed.`}{" "}
      <span className="quiet">
        A whisker of {WITHIN_PX} pixels is off by {length(fit.within, unit)}.
      </span>
    </p>
  );
}
