import { useMemo } from "react";
import { FatLines } from "../view/FatLines";
import type { BodyGeometry } from "../view/geometry";
import { useHover } from "./hover";

/** Segments of some edges of a body, xyz xyz …, relative to its origin. */
export function segmentsOf(body: BodyGeometry, chosen: readonly number[]): Float32Array {
  const wanted = new Set(chosen);
  const from = body.edges.getAttribute("position").array;
  const out: number[] = [];
  body.edgeOf.forEach((edge, s) => {
    if (wanted.has(edge)) for (let i = 0; i < 6; i++) out.push(from[6 * s + i]!);
  });
  return Float32Array.from(out);
}

interface Props {
  body: BodyGeometry;
  edges: readonly number[];
  colour: string;
}

/** Edges of a body drawn strongly, over what lies before them. */
export function EdgeLines({ body, edges, colour }: Props) {
  const segments = useMemo(() => segmentsOf(body, edges), [body, edges]);
  return <FatLines segments={segments} colour={colour} width={4} />;
}

/** The edge under the pointer, drawn by itself: nothing else of the view is drawn anew for it. */
export function HoveredEdge({ body, bodyKey, colour }: { body: BodyGeometry; bodyKey: string; colour: string }) {
  const edge = useHover((s) => (s.edge?.key === bodyKey ? s.edge.edge : null));
  const edges = useMemo(() => (edge === null ? [] : [edge]), [edge]);
  return edges.length ? <EdgeLines body={body} edges={edges} colour={colour} /> : null;
}
