import { type BufferGeometry, DoubleSide } from "three";

import { useClipPlanes } from "../clip/clip";

interface Props {
  geometry: BufferGeometry;
  colour: string;
  opacity: number;
  position?: [number, number, number];
  order: number;
}

/** A see-through skin over part of a surface: painting the surface's shared corners would bleed into its neighbours. */
export function Skin({ geometry, colour, opacity, position = [0, 0, 0], order }: Props) {
  const planes = useClipPlanes();
  return (
    <mesh geometry={geometry} position={position} renderOrder={order}>
      <meshLambertMaterial
        color={colour}
        transparent
        opacity={opacity}
        depthWrite={false}
        side={DoubleSide}
        clippingPlanes={planes}
        polygonOffset
        polygonOffsetFactor={-order + 1}
        polygonOffsetUnits={-order + 1}
      />
    </mesh>
  );
}
