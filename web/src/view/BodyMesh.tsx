import { useEffect, useRef } from "react";
import type { Mesh } from "three";
import { Cap } from "../clip/Cap";
import { useClipPlanes } from "../clip/clip";
import { EdgeLines, HoveredEdge } from "../pick/EdgeLines";
import type { Palette } from "../theme";
import { FaceSkin, useSomeFaces } from "./FaceSkin";
import type { BodyGeometry } from "./geometry";
import { Hatched } from "./Hatched";
import { OpenBody } from "./OpenBody";
import { Skin } from "./Skin";
import { stage } from "./stage";
import { useGeometry } from "./useGeometry";
import { usePassingBody } from "./usePassingBody";

const NONE: readonly number[] = [];

interface Look {
  id: string;
  bodyKey: string;
  palette: Palette;
  colour: string | null;
  opacity: number;
  /** A coloured scan wins where both surfaces coincide. */
  behind: boolean;
  pickable: boolean;
  /** Its place among the bodies. */
  number: number;
  /** It is picked as a whole. */
  chosen: boolean;
  /** Faces to show as picked, and one to show as an offer. */
  picked: readonly number[];
  /** Faces that a step which is being prepared speaks of. */
  meant: readonly number[];
  pickedEdges: readonly number[];
  offered: number | null;
  /** Faces that a step which is being prepared makes, and whether it adds or takes away. */
  fresh: readonly number[];
  adds: boolean;
  /** It closes no volume. */
  open?: boolean;
  /** It can be seen now. */
  onReady?: () => void;
}

/** A body with its edges: from the store, or as it came with a preview. That stays in sight until what follows it has been loaded. */
export function BodyMesh({ url, view, ...look }: Look & { url: string; view: string | null }) {
  const stored = useRef<string | null>(null);
  if (!view) stored.current = url;
  const { from, geometry } = useGeometry<BodyGeometry>(stored.current, "body");
  const came = useRef<string | null>(null);
  if (view || from === url) came.current = view;
  const passing = usePassingBody(came.current);
  const body = passing ?? geometry;
  return body && <Drawn body={body} {...look} passing={passing !== null} />;
}

function Drawn({
  body,
  id,
  bodyKey,
  palette,
  colour,
  opacity,
  behind,
  pickable,
  number,
  chosen,
  picked,
  meant,
  pickedEdges,
  offered,
  fresh,
  adds,
  passing,
  open,
  onReady,
}: Look & { body: BodyGeometry; passing: boolean }) {
  const mesh = useRef<Mesh>(null);
  const shown = opacity > 0.01;
  useEffect(() => {
    const own = mesh.current;
    if (!own || !shown) return;
    stage.seen.set(id, own);
    return () => {
      if (stage.seen.get(id) === own) stage.seen.delete(id);
    };
  }, [id, shown]);
  useEffect(() => {
    if (!mesh.current || !pickable || !shown || passing) return;
    const edges = { positions: body.edges.getAttribute("position").array, edgeOf: body.edgeOf };
    stage.bodies.set(id, { id, key: bodyKey, mesh: mesh.current, faces: body.faces, edges });
    onReady?.();
    return () => {
      stage.bodies.delete(id);
    };
  }, [id, bodyKey, body, pickable, shown, passing, onReady]);
  const made = useSomeFaces(body, passing ? fresh : NONE);
  const planes = useClipPlanes();
  if (!shown) return null;
  const solid = opacity > 0.995;
  return (
    <group position={body.origin}>
      <mesh ref={mesh} geometry={body.surface} renderOrder={1}>
        <meshLambertMaterial
          color={colour ?? palette.body}
          transparent={!solid}
          opacity={opacity}
          depthWrite={solid}
          polygonOffset
          polygonOffsetFactor={behind ? 6 : 1}
          polygonOffsetUnits={behind ? 40 : 1}
          clippingPlanes={planes}
        />
      </mesh>
      <lineSegments geometry={body.edges}>
        <lineBasicMaterial
          color={passing ? palette.active : palette.ink}
          transparent
          opacity={behind ? 0.35 : 0.8}
          clippingPlanes={planes}
        />
      </lineSegments>
      {open && !passing && <OpenBody body={body} bodyKey={bodyKey} palette={palette} />}
      {pickedEdges.length > 0 && <EdgeLines body={body} edges={pickedEdges} colour={palette.active} />}
      {!passing && <HoveredEdge body={body} bodyKey={bodyKey} colour={palette.below} />}
      {planes[0] && !open && (
        <Cap geometry={body.surface} origin={body.origin} plane={planes[0]} number={number} palette={palette} />
      )}
      {chosen && <Skin geometry={body.surface} colour={palette.active} opacity={0.35} order={4} />}
      <FaceSkin body={body} numbers={picked} colour={palette.active} opacity={0.6} />
      <FaceSkin body={body} numbers={meant} colour={palette.active} opacity={0.25} />
      {made && <Hatched geometry={made} colour={adds ? palette.active : palette.below} lean={adds ? "/" : "\\"} />}
      {offered !== null && <FaceSkin body={body} numbers={[offered]} colour={palette.below} opacity={0.7} />}
    </group>
  );
}
