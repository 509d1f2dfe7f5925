import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry } from "three";
import type { BodyGeometry } from "./geometry";
import { Skin } from "./Skin";

function facesOf(body: BodyGeometry, wanted: ReadonlySet<number>): BufferGeometry {
  const index = body.surface.index!.array;
  const corners: number[] = [];
  for (let t = 0; t < body.faces.length; t++)
    if (wanted.has(body.faces[t]!)) corners.push(index[3 * t]!, index[3 * t + 1]!, index[3 * t + 2]!);
  const g = new BufferGeometry();
  g.setAttribute("position", body.surface.getAttribute("position"));
  g.setAttribute("normal", body.surface.getAttribute("normal"));
  g.setIndex(new BufferAttribute(new Uint32Array(corners), 1));
  return g;
}

/** Triangles of some of a body's faces; none where there are none. */
export function useSomeFaces(body: BodyGeometry, numbers: readonly number[]): BufferGeometry | null {
  const text = numbers.join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: by what they say, so that the same faces are not cut out anew
  const found = useMemo(() => (numbers.length ? facesOf(body, new Set(numbers)) : null), [body, text]);
  useEffect(() => () => found?.dispose(), [found]);
  return found;
}

interface Props {
  body: BodyGeometry;
  numbers: readonly number[];
  colour: string;
  opacity: number;
}

/** Some of a body's faces in a colour of their own. */
export function FaceSkin({ body, numbers, colour, opacity }: Props) {
  const found = useSomeFaces(body, numbers);
  return found && <Skin geometry={found} colour={colour} opacity={opacity} order={4} />;
}
