const BY_THE_PROCESSOR = /swiftshader|llvmpipe|softpipe|software|basic render/i;

let known: boolean | null = null;

/** Whether this browser has its pictures drawn by the processor, as on many virtual machines; asked of a canvas that is let go of again. */
export function drawnInSoftware(canvas: () => HTMLCanvasElement = () => document.createElement("canvas")): boolean {
  known ??= BY_THE_PROCESSOR.test(rendererOf(canvas()));
  return known;
}

function rendererOf(canvas: HTMLCanvasElement): string {
  const gl = canvas.getContext("webgl2");
  const told = gl?.getExtension("WEBGL_debug_renderer_info");
  const name = gl && told ? String(gl.getParameter(told.UNMASKED_RENDERER_WEBGL)) : "";
  gl?.getExtension("WEBGL_lose_context")?.loseContext();
  return name;
}
