import type { Palette } from "../theme";
import type { BodyGeometry } from "./geometry";
import { useGeometry } from "./useGeometry";

interface Props {
  url: string;
  palette: Palette;
  opacity: number;
  behind: boolean;
}

/** A body with its edges; `behind` lets a coloured scan win where both surfaces coincide. */
export function BodyMesh({ url, palette, opacity, behind }: Props) {
  const body = useGeometry<BodyGeometry>(url, "body");
  if (!body || opacity <= 0.01) return null;
  const solid = opacity > 0.995;
  return (
    <group position={body.origin}>
      <mesh geometry={body.surface} renderOrder={1}>
        <meshLambertMaterial
          color={palette.body}
          transparent={!solid}
          opacity={opacity}
          depthWrite={solid}
          polygonOffset
          polygonOffsetFactor={behind ? 6 : 1}
          polygonOffsetUnits={behind ? 40 : 1}
        />
      </mesh>
      <lineSegments geometry={body.edges}>
        <lineBasicMaterial color={palette.ink} transparent opacity={behind ? 0.35 : 0.8} />
      </lineSegments>
    </group>
  );
}
