import "@testing-library/jest-dom/vitest";
import { cleanup, configure } from "@testing-library/react";
import { afterEach } from "vitest";
import { resetBench } from "../shell/reset";
import { stage } from "../view/stage";

// All files share one page: what a test leaves on the stage or in a store would be there for the next.
afterEach(() => {
  cleanup();
  resetBench();
  stage.now = null;
  stage.scan = null;
  stage.bodies.clear();
  stage.seen.clear();
});
configure({ asyncUtilTimeout: 20_000 });

// jsdom has neither; Ant Design asks for both.
window.matchMedia ??= ((query: string) => ({
  matches: false,
  media: query,
  addEventListener: () => undefined,
  removeEventListener: () => undefined,
  addListener: () => undefined,
  removeListener: () => undefined,
})) as unknown as typeof window.matchMedia;
globalThis.ResizeObserver ??= class {
  observe() {}
  unobserve() {}
  disconnect() {}
} as unknown as typeof ResizeObserver;
