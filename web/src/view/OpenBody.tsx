import { useMemo } from "react";
import { BackSide, Color, ShaderMaterial } from "three";
import { useClipPlanes } from "../clip/clip";
import { EdgeLines } from "../pick/EdgeLines";
import { useBorders } from "../pick/useBorders";
import type { Palette } from "../theme";
import type { BodyGeometry } from "./geometry";

const VERTEX = `
#include <clipping_planes_pars_vertex>
void main() {
  vec4 mvPosition = modelViewMatrix * vec4(position, 1.0);
  gl_Position = projectionMatrix * mvPosition;
  #include <clipping_planes_vertex>
}`;
const FRAGMENT = `
uniform vec3 ink;
uniform vec3 paper;
#include <clipping_planes_pars_fragment>
void main() {
  #include <clipping_planes_fragment>
  float stripe = mod(gl_FragCoord.x + gl_FragCoord.y, 9.0);
  gl_FragColor = vec4(stripe < 2.0 ? ink : paper, 1.0);
}`;

interface Props {
  body: BodyGeometry;
  bodyKey: string;
  palette: Palette;
}

/** What tells an open body from a solid: its backs are hatched, its borders drawn strongly. */
export function OpenBody({ body, bodyKey, palette }: Props) {
  const planes = useClipPlanes();
  const borders = useBorders(bodyKey);
  const hatched = useMemo(
    () =>
      new ShaderMaterial({
        vertexShader: VERTEX,
        fragmentShader: FRAGMENT,
        side: BackSide,
        clipping: true,
        clippingPlanes: planes,
        uniforms: { ink: { value: new Color(palette.quiet) }, paper: { value: new Color(palette.paper) } },
      }),
    [palette, planes],
  );
  const ends = useMemo(() => (borders?.edges ?? []).flatMap((e, k) => (e.border ? [k] : [])), [borders]);
  return (
    <>
      <mesh geometry={body.surface} material={hatched} />
      {ends.length > 0 && <EdgeLines body={body} edges={ends} colour={palette.above} />}
    </>
  );
}
