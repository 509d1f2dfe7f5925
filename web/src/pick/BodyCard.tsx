import { Button } from "antd";
import { useHideActions } from "../actions/useHideActions";
import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { useBegin } from "../sheets/useBegin";
import { Glyph } from "../ui/Glyph";
import { area, volume } from "../units";
import { byBodies } from "./begunBy";
import { usePicks } from "./picks";
import { SaveSet } from "./SaveSet";
import { useCardKeys } from "./useCardKeys";

/** Bodies that are picked as a whole, and what can be done with them. */
export function BodyCard() {
  const { job, unit } = useBench();
  const { bodies, clear } = usePicks();
  const begin = useBegin();
  const kinds = useKinds();
  const hiding = useHideActions().filter((a) => a.id === "hide" || a.id === "alone");
  const known = (job.build.result?.bodies ?? []).filter((b) => bodies.some((p) => p.body === b.id));
  const started = byBodies(kinds, bodies);
  const actions = [
    ...started.map(({ kind, params }, k) => ({
      key: String(k + 1),
      text: kind.title,
      hint: kind.help,
      run: () => {
        begin(kind, params);
      },
    })),
    ...hiding.map((a) => ({ key: a.keys!, text: a.title.replace(" the chosen", ""), hint: a.help, run: a.run })),
  ];
  useCardKeys(actions.filter((a) => /[0-9]/.test(a.key)));
  const sum = (of: (b: (typeof known)[number]) => number) => known.reduce((total, b) => total + of(b), 0);
  const faces = sum((b) => b.faces.length);
  return (
    <section className="card" aria-label="Selection">
      <header>
        <Glyph kind="body" />
        <h3>{bodies.length === 1 ? (known[0]?.name ?? "Body") : `${bodies.length} bodies`}</h3>
      </header>
      <p className="figures">
        {known.some((b) => b.open > 0)
          ? "open"
          : volume(
              sum((b) => b.volume),
              unit,
            )}{" "}
        ·{" "}
        {area(
          sum((b) => b.area),
          unit,
        )}
        <br />
        {faces.toLocaleString("en")} faces
      </p>
      <div className="card-actions">
        {actions.map((a) => (
          <Button key={a.key} size="small" onClick={a.run} title={a.hint}>
            <kbd>{a.key}</kbd> {a.text}
          </Button>
        ))}
        <SaveSet />
        <Button size="small" type="text" onClick={clear}>
          <kbd>Esc</kbd> Clear selection
        </Button>
      </div>
    </section>
  );
}
