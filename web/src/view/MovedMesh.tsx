import { useThree } from "@react-three/fiber";
import { useEffect, useState } from "react";
import { BufferAttribute, type BufferGeometry } from "three";
import type { Vec3 } from "../api/build";
import type { Palette } from "../theme";
import { colourise } from "./deviation";
import { mapFrom } from "./geometry";

interface Props {
  url: string;
  /** Below this nothing counts as moved, mm. */
  still: number;
  palette: Palette;
}

/** The later state's bodies, coloured by how far each place moved. */
export function MovedMesh({ url, still, palette }: Props) {
  const [map, setMap] = useState<{ surface: BufferGeometry; origin: Vec3 } | null>(null);
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    let live = true;
    let own: BufferGeometry | null = null;
    mapFrom(url)
      .then(({ surface, origin, values }) => {
        own = surface;
        surface.setAttribute("color", new BufferAttribute(colourise(values, still, palette), 3, true));
        if (live) setMap({ surface, origin });
        invalidate();
      })
      .catch(() => undefined);
    return () => {
      live = false;
      own?.dispose();
    };
  }, [url, still, palette, invalidate]);
  if (!map) return null;
  return (
    <mesh geometry={map.surface} position={map.origin}>
      <meshLambertMaterial vertexColors flatShading />
    </mesh>
  );
}
