import { useBench } from "../job/context";
import { faceTitle } from "../steps/stepValues";
import { useFaces } from "../steps/useFaces";
import { usePointed } from "../view/pointed";
import { stage } from "../view/stage";
import type { ShownBody } from "../view/useShownBodies";
import type { ArrowRow } from "./ArrowList";
import { useArmed } from "./armed";
import { useHover } from "./hover";
import { useOffered } from "./offered";
import { edgeTitle } from "./parts";
import { useBorders } from "./useBorders";

export type PartsOf = "edges" | "faces" | "spots" | "lines";

/** Kinds of parts that what is awaited takes. */
export function useAwaited(): PartsOf[] {
  const armed = useArmed((s) => s.armed);
  const { spots, pieces } = useOffered();
  return [
    ...(armed?.onEdge ? ["edges" as const] : []),
    ...(armed?.onFace ? ["faces" as const] : []),
    ...(armed?.onPart && spots.length > 0 ? ["spots" as const] : []),
    ...(armed?.onPart && pieces.length > 0 ? ["lines" as const] : []),
  ];
}

/** Takes back whatever a row has shown. */
export function showNothing() {
  useHover.getState().over(null);
  useOffered.getState().point(null);
  usePointed.getState().set({ offered: null });
  stage.now?.invalidate();
}

const shown = (what: () => void) => () => {
  what();
  stage.now?.invalidate();
};

/** The parts of one kind as rows of a list: of a body, or spots and lines of all that is shown. */
export function usePartRows(of: PartsOf, body: ShownBody | undefined, chosen: readonly string[]): ArrowRow[] {
  const { unit } = useBench();
  const armed = useArmed((s) => s.armed);
  const borders = useBorders(of === "edges" ? (body?.key ?? null) : null);
  const faces = useFaces(of === "faces" ? (body?.key ?? null) : null);
  const { spots, pieces } = useOffered();
  if (of === "spots" || of === "lines")
    return (of === "spots" ? spots : pieces).map((p) => ({
      key: p.key,
      text: p.said,
      over: shown(() => useOffered.getState().point(p)),
      take: () => armed?.onPart?.(p.ref),
    }));
  if (!body) return [];
  if (of === "faces")
    return faces.map((face, index) => ({
      key: face.name,
      text: faceTitle(face, unit),
      note: face.label,
      chosen: chosen.includes(face.name),
      over: shown(() => usePointed.getState().set({ offered: { body: body.id, name: face.name } })),
      take: () => armed?.onFace?.({ body: body.id, key: body.key, index, face }),
    }));
  return (borders?.edges ?? []).flatMap((edge, index) =>
    edge.name && !edge.smooth && !edge.border
      ? [
          {
            key: edge.name,
            text: edgeTitle(edge, unit),
            note: edge.label,
            chosen: chosen.includes(edge.name),
            over: shown(() => useHover.getState().over({ key: body.key, edge: index })),
            take: () => armed?.onEdge?.({ body: body.id, key: body.key, index, edge }),
          },
        ]
      : [],
  );
}
