import { useEffect, useRef } from "react";
import type { StepState, Vec3 } from "../api/build";
import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { usePassing } from "../steps/passing";
import { type Typed, withPlace } from "../steps/stepValues";
import { usePreview } from "../steps/usePreview";
import { roughLength, typed } from "../units";
import { Handle } from "../view/Handle";
import { stage } from "../view/stage";

type Grip = StepState["handles"][number];

const valueAt = (params: unknown, place: string): Typed | undefined =>
  place
    .split(/[.[\]]+/)
    .filter(Boolean)
    .reduce<unknown>((at, part) => (at as Record<string, unknown> | undefined)?.[part], params) as Typed | undefined;

/** The grips of the step that is open or being prepared, where the step says they stand: dragging types the value. */
export function Handles() {
  const { job, unit, palette, edit } = useBench();
  const draft = useTool((s) => s.draft);
  const setDraft = useTool((s) => s.setDraft);
  const id = useTool((s) => s.step);
  const drafted = usePassing((s) => s.handles);
  const { show } = usePreview();
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
  const pull = (grip: Grip, mm: number) => {
    const text = typed(Math.round((mm / grip.per) * 10) / 10, unit);
    const part = withPlace(params, grip.place, { text, mark: "assumed" });
    if (draft) return setDraft(part);
    pulled.current = part;
    show({ op: "set-params", step: step!.id, params: part });
  };
  const release = () => {
    if (pulled.current && step) void edit({ op: "set-params", step: step.id, params: pulled.current });
    pulled.current = null;
  };
  return grips.map((grip) => {
    const now = roughLength(valueAt(params, grip.place)?.text ?? "", unit);
    const at = Number.isFinite(now) ? now * grip.per : 0;
    return (
      <Handle
        key={grip.place}
        origin={grip.origin as Vec3}
        direction={grip.direction as Vec3}
        at={at}
        colour={palette.active}
        onDrag={(mm) => pull(grip, mm)}
        onRelease={release}
      />
    );
  });
}
