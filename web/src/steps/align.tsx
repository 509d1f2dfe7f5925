import { factsOf } from "../api/facts";
import { AlignPicks } from "./AlignPicks";
import type { KindView, PartProps } from "./kindView";
import { SolidFile } from "./SolidFile";

type File = { blob: string; name: string } | null | undefined;

function Picks({ params, state, onChange }: PartProps) {
  return <AlignPicks params={params} facts={factsOf(state?.facts, "align")} onChange={onChange} />;
}

function Below({ params, onChange }: PartProps) {
  if (params.by !== "solid") return null;
  return <SolidFile value={(params.solid as File) ?? null} onChange={(solid) => onChange({ solid })} />;
}

export const view: KindView = {
  slots: { by: Picks },
  Below,
  waits: (p) => (p.by === "datum" && !p.primary) || (p.by === "solid" && !p.solid),
  looks: true,
  tells: true,
};
