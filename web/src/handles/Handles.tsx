import { useEffect, useRef } from "react";
import type { StepState, Vec3 } from "../api/build";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { usePassing } from "../steps/passing";
import { type Typed, withPlace } from "../steps/stepValues";
import { usePreview } from "../steps/usePreview";
import { roughLength, typed, type Unit } from "../units";
import { stage } from "../view/stage";
import { AngleHandle } from "./AngleHandle";
import { useDragging } from "./dragging";
import { LengthHandle } from "./LengthHandle";

type Grip = StepState["handles"][number];

const valueAt = (params: unknown, place: string): Typed | undefined =>
  place
    .split(/[.[\]]+/)
    .filter(Boolean)
    .reduce<unknown>((at, part) => (at as Record<string, unknown> | undefined)?.[part], params) as Typed | undefined;

/** What a dragged value is typed as: tenths of a millimetre, half degrees. */
const said = (grip: Grip, value: number, unit: Unit) =>
  grip.kind === "angle" ? `${Math.round(value * 2) / 2} deg` : typed(Math.round((value / grip.per) * 10) / 10, unit);

/** The grips of the step that is open or being prepared, where the step says they stand: dragging types the value. */
export function Handles() {
  const { job, unit, palette, edit } = useBench();
  const draft = useTool((s) => s.draft);
  const setDraft = useTool((s) => s.setDraft);
  const id = useTool((s) => s.step);
  const drafted = usePassing((s) => s.handles);
  const { show, clear } = usePreview();
  const pulled = useRef<Record<string, unknown> | null>(null);
  const step = job.recipe.steps.find((s) => s.id === id);
  const own = job.build.result?.steps.find((s) => s.id === id)?.handles ?? [];
  const grips: readonly Grip[] = draft ? drafted : own;
  const params = (draft ? draft.params : step?.params) as Record<string, unknown> | undefined;
  const standing = params ? grips.map((g) => g.place).join(" ") : "";
  useEffect(() => {
    // Whoever drives the page waits for this.
    if (stage.now) stage.now.canvas.dataset.grips = standing;
  }, [standing]);
  if (!params) return null;
  const put = (grip: Grip, text: string) => withPlace(params, grip.place, { text, mark: "assumed" });
  const pull = (grip: Grip, value: number) => {
    const text = said(grip, value, unit);
    const part = put(grip, text);
    useDragging.getState().set({
      said: text,
      take: (figure) => {
        if (draft) setDraft(put(grip, figure));
        else void edit({ op: "set-params", step: step!.id, params: put(grip, figure) });
      },
      leave: clear,
    });
    if (draft) return setDraft(part);
    pulled.current = part;
    show({ op: "set-params", step: step!.id, params: part });
  };
  const release = () => {
    if (pulled.current && step) void edit({ op: "set-params", step: step.id, params: pulled.current });
    pulled.current = null;
  };
  return grips.map((grip) => {
    const text = valueAt(params, grip.place)?.text ?? "";
    const own = { origin: grip.origin as Vec3, colour: palette.active, onRelease: release };
    if (grip.kind === "angle" && grip.zero)
      return (
        <AngleHandle
          key={grip.place}
          {...own}
          axis={grip.direction as Vec3}
          zero={grip.zero as Vec3}
          at={Number.parseFloat(text) || 0}
          onDrag={(deg) => pull(grip, deg)}
        />
      );
    const mm = roughLength(text, unit);
    return (
      <LengthHandle
        key={grip.place}
        {...own}
        direction={grip.direction as Vec3}
        at={Number.isFinite(mm) ? mm * grip.per : 0}
        onDrag={(at) => pull(grip, at)}
      />
    );
  });
}
