import type { KindView, PartProps } from "./kindView";
import { PickedFacets } from "./PickedFacets";

type Picked = { blob: string; count: number } | null | undefined;

const byHand = (params: Record<string, unknown>) => (params.by ?? "facets") === "facets";

function Below({ params, onChange }: PartProps) {
  if (!byHand(params)) return null;
  return <PickedFacets value={(params.picked as Picked) ?? null} onChange={(picked) => onChange({ picked })} />;
}

export const view: KindView = { Below, waits: (params) => byHand(params) && !params.picked };
