/** A scan has no inside that could be hatched: the backs of its facets are darker, so that one sees what one looks into. No React. */
import type { WebGLProgramParametersWithUniforms } from "three";

export function darkBacks(shader: WebGLProgramParametersWithUniforms) {
  shader.fragmentShader = shader.fragmentShader.replace(
    "#include <color_fragment>",
    "#include <color_fragment>\n  if (!gl_FrontFacing) diffuseColor.rgb *= 0.62;",
  );
}
