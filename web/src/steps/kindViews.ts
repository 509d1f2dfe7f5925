import type { KindView } from "./kindView";

const found = import.meta.glob<{ view?: KindView }>(["./[a-z]*.tsx", "!./*.test.tsx"], { eager: true });

/** Of kinds that have more than their schema, by the kind's id. */
const VIEWS: Record<string, KindView> = Object.fromEntries(
  Object.entries(found).flatMap(([path, module]) =>
    module.view ? [[path.replace(/^\.\/|\.tsx$/g, ""), module.view]] : [],
  ),
);

export const kindView = (kind: string): KindView => VIEWS[kind] ?? {};
