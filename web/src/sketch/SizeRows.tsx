import { Button, Input, Tooltip } from "antd";
import { Fragment } from "react";
import type { Mark, Step } from "../api/client";
import { useBench } from "../job/context";
import { ValueField } from "../values/ValueField";
import type { Shown } from "./drawing";
import { FigureBeside } from "./FigureBeside";
import { sidesOf } from "./relations";
import { sizeText } from "./SizeLabels";
import { useHandOf } from "./store";
import type { Do } from "./stroke";
import { useLaid } from "./useLaid";

const GIVES = [
  { moves: "both", mark: "●●", says: "both sides give way alike when it changes" },
  { moves: "first", mark: "●○", says: "the first side gives way when it changes" },
  { moves: "second", mark: "○●", says: "the second side gives way when it changes" },
] as const;

/** Which side of a size gives way; a click changes it. */
function Gives({ shown, k, act }: { shown: Shown; k: number; act: Do }) {
  const { set } = useHandOf("set");
  const size = shown.drawing.sizes?.[k];
  if (!size || size.reference || !sidesOf(shown.drawing, size.of)) return null;
  const at = GIVES.findIndex((g) => g.moves === size.moves);
  const now = GIVES[Math.max(at, 0)]!;
  return (
    <Tooltip title={now.says}>
      <Button
        size="small"
        type="text"
        aria-label={`${size.name}: ${now.says}`}
        onClick={() => {
          const moves = GIVES[(Math.max(at, 0) + 1) % GIVES.length]!.moves;
          set({ chosen: [`d:${k}`] });
          void act([{ act: "change-size", demand: `d:${k}`, value: null, reference: null, name: null, moves }]);
        }}
      >
        {now.mark}
      </Button>
    </Tooltip>
  );
}

/** The drawing's sizes: name, value with where it comes from, what it reads, and whether it drives anything. */
export function SizeRows({ shown, step, act }: { shown: Shown; step: Step; act: Do }) {
  const { unit, edit } = useBench();
  const { chosen, set } = useHandOf("chosen", "set");
  const kept = shown.drawing;
  const beside = useLaid(step, shown)?.beside ?? [];
  if (!kept.sizes?.length) return <p className="quiet small">No sizes yet: type them while you draw, or hold one.</p>;
  return (
    <table className="size-rows">
      <tbody>
        {kept.sizes.map((s, k) => {
          const place = s.kind === "angle" ? "angles" : "lengths";
          const value = kept[place]?.[s.name];
          const id = `d:${k}`;
          const told = beside.find((b) => b.size === s.name);
          return (
            <Fragment key={s.name}>
              <tr className={chosen.includes(id) ? "chosen" : ""} onMouseEnter={() => set({ over: s.of[0]! })}>
                <td>
                  <Input
                    size="small"
                    variant="borderless"
                    className="size-name"
                    aria-label={`Name of ${s.name}`}
                    defaultValue={s.name}
                    onKeyDown={(e) => {
                      e.stopPropagation();
                      if (e.key === "Enter") e.currentTarget.blur();
                    }}
                    onBlur={(e) => {
                      const name = e.target.value.trim();
                      if (name && name !== s.name)
                        void act([{ act: "change-size", demand: id, value: null, reference: null, name }]);
                    }}
                  />
                </td>
                <td className="size-value">
                  {s.reference ? (
                    <span className="figures quiet">{sizeText(shown, k, unit)}</span>
                  ) : (
                    <ValueField
                      compact
                      label={s.name}
                      shown={{
                        text: value?.text ?? "",
                        mark: (value?.mark ?? "assumed") as Mark,
                        means: sizeText(shown, k, unit),
                        note: value?.note ?? "",
                      }}
                      of={{
                        kind: "sketch",
                        params: step.params,
                        place: `${place}[${s.name}]`,
                        own: step.id,
                        dimension: s.kind === "angle" ? "angle" : "length",
                      }}
                      onCommit={(v) => {
                        if (!v) return;
                        const values = { ...kept[place], [s.name]: v };
                        void edit({ op: "set-params", step: step.id, params: { [place]: values } });
                      }}
                    />
                  )}
                </td>
                <td>
                  <Gives shown={shown} k={k} act={act} />
                  <Tooltip title={s.reference ? "drives nothing; let it hold again" : "let it only read"}>
                    <Button
                      size="small"
                      type="text"
                      onClick={() =>
                        void act([{ act: "change-size", demand: id, value: null, reference: !s.reference, name: null }])
                      }
                    >
                      {s.reference ? "reads" : "holds"}
                    </Button>
                  </Tooltip>
                  <Button
                    size="small"
                    type="text"
                    aria-label={`Take away ${s.name}`}
                    onClick={() => void act([{ act: "release", demands: [id] }])}
                  >
                    ×
                  </Button>
                </td>
              </tr>
              {told && (
                <tr>
                  <td colSpan={3}>
                    <FigureBeside beside={told} kept={kept} step={step} />
                  </td>
                </tr>
              )}
            </Fragment>
          );
        })}
      </tbody>
    </table>
  );
}
