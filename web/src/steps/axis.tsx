import type { KindView } from "./kindView";

export const view: KindView = { lists: true };
