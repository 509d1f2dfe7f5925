/** How cut material looks: short strokes, leaning another way for each body. No React. */
import { Color, ShaderMaterial } from "three";
import type { Palette } from "../theme";

const VERTEX = "void main() { gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }";
// Rows of strokes, every other row moved by half a stroke, as a pen would set them.
const FRAGMENT = `
uniform vec3 ink;
uniform vec3 paper;
uniform vec2 lean;
uniform float pitch;
void main() {
  vec2 q = vec2(dot(gl_FragCoord.xy, lean), dot(gl_FragCoord.xy, vec2(-lean.y, lean.x)));
  float row = floor(q.y / pitch);
  float across = q.y - row * pitch;
  float along = mod(q.x + mod(row, 2.0) * 9.0, 18.0);
  bool stroke = across < 1.6 && along < 12.5;
  gl_FragColor = vec4(stroke ? ink : paper, 1.0);
}`;

/** Degrees that the strokes of the n-th body lean by: neighbours never alike. */
export const leanOf = (n: number): number => [35, 145, 80, 10, 115][n % 5]!;

export function hatch(palette: Palette, n: number): ShaderMaterial {
  const a = (leanOf(n) * Math.PI) / 180;
  return new ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    uniforms: {
      ink: { value: new Color(palette.ink).lerp(new Color(palette.sheet), 0.45) },
      paper: { value: new Color(palette.sheet) },
      lean: { value: [Math.cos(a), Math.sin(a)] },
      pitch: { value: 6 + (n % 3) },
    },
  });
}
