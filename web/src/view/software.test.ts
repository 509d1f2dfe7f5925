import { beforeEach, expect, it, vi } from "vitest";

const RENDERER = 0x9246;

function canvasOf(renderer: string | null) {
  const lost = vi.fn();
  const extensions: Record<string, unknown> = {
    WEBGL_lose_context: { loseContext: lost },
    ...(renderer === null ? {} : { WEBGL_debug_renderer_info: { UNMASKED_RENDERER_WEBGL: RENDERER } }),
  };
  const gl = {
    getExtension: (n: string) => extensions[n] ?? null,
    getParameter: (p: number) => p === RENDERER && renderer,
  };
  const made = vi.fn(() => ({ getContext: () => gl }) as unknown as HTMLCanvasElement);
  return { made, lost };
}

beforeEach(() => vi.resetModules());

it.each([
  ["ANGLE (Vulkan 1.3.0 (SwiftShader Device (Subzero)), SwiftShader driver)", true],
  ["Mesa, llvmpipe (LLVM 15.0.7, 256 bits)", true],
  ["ANGLE (Some maker, Some card Direct3D11 vs_5_0 ps_5_0)", false],
  [null, false],
])("%s draws in software: %s", async (renderer, soft) => {
  const { drawnInSoftware } = await import("./software");
  const { made, lost } = canvasOf(renderer);
  expect(drawnInSoftware(made)).toBe(soft);
  expect(lost).toHaveBeenCalledOnce(); // a browser has few contexts to give away
  drawnInSoftware(made);
  expect(made).toHaveBeenCalledOnce();
});

it("a browser without WebGL draws nothing at all", async () => {
  const { drawnInSoftware } = await import("./software");
  expect(drawnInSoftware(() => ({ getContext: () => null }) as unknown as HTMLCanvasElement)).toBe(false);
});
