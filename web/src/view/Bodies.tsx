import { useBench } from "../job/context";
import { usePicks } from "../pick/picks";
import { useChosenEdges } from "../pick/useChosenEdges";
import { useChosenFaces } from "../pick/useChosenFaces";
import { useTool } from "../sheets/tool";
import { useFaces } from "../steps/useFaces";
import { useAppearance } from "./appearance";
import { BodyMesh } from "./BodyMesh";
import { usePointed } from "./pointed";
import { type ShownBody, useShownBodies } from "./useShownBodies";

/** The face that is offered, on the body it belongs to. */
function useOffered(bodies: readonly ShownBody[]): { body: string; face: number } | null {
  const offered = usePointed((s) => s.offered);
  const body = bodies.find((b) => b.id === offered?.body && !b.view);
  const face = useFaces(body?.key ?? null).findIndex((f) => f.name === offered?.name);
  return body && face >= 0 ? { body: body.id, face } : null;
}

/** The bodies on the bench, those that only a typed value would give among them. */
export function Bodies({ coloured, onReady }: { coloured: boolean; onReady: () => void }) {
  const { job, palette } = useBench();
  const bodies = useShownBodies();
  const edgesOf = useChosenEdges(bodies);
  const facesOf = useChosenFaces(bodies);
  const offered = useOffered(bodies);
  const operation = useTool((s) => s.draft?.params.operation);
  const { faces, bodies: whole } = usePicks();
  const { opacities, bodyOpacity, unpickable, hidden } = useAppearance();
  const seen = bodies.filter((b) => !hidden.includes(b.id));
  return seen.map((b, number) => {
    const drawn = {
      id: b.id,
      bodyKey: b.key,
      palette,
      colour: b.colour,
      opacity: opacities[b.id] ?? (b.reference ? Math.min(0.5, bodyOpacity) : bodyOpacity),
      behind: coloured,
      pickable: !unpickable.includes(b.id),
      number,
      chosen: whole.some((p) => p.key === b.key),
      picked: faces.filter((f) => f.key === b.key).map((f) => f.index),
      meant: facesOf[b.id] ?? [],
      pickedEdges: edgesOf(b.id, b.key),
      open: b.open,
      fresh: operation === "add" || operation === "subtract" ? b.fresh : [],
      adds: operation === "add",
      offered: b.id === offered?.body ? offered.face : null,
    };
    const url = `/api/jobs/${job.id}/products/${b.key}/view`;
    return <BodyMesh key={b.id} url={url} view={b.view} onReady={onReady} {...drawn} />;
  });
}
