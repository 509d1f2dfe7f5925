import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { byPicks } from "../pick/begunBy";
import { usePicks } from "../pick/picks";
import { plainParams } from "../pick/starts";
import { useOpenSection } from "../section/useOpenSection";
import { type Panel, useTool } from "../sheets/tool";
import { useBegin } from "../sheets/useBegin";
import { useNewSketch } from "../sketch/useNewSketch";
import { kindView } from "../steps/kindViews";
import type { Action } from "./action";

/** Steps that only another part of the bench can begin: an outline is taken, an agreement proposed. */
const BEGUN_ELSEWHERE = ["traced", "intent", "region", "solid", "extrude", "seat"];

const PANELS: { panel: Panel; title: string; help: string }[] = [
  { panel: "regions", title: "All regions", help: "find every surface of the scan" },
  { panel: "measure", title: "Measure", help: "lasting measurements, and new ones" },
  { panel: "values", title: "Values and readings", help: "names that formulas use" },
  { panel: "variants", title: "Variants", help: "the job with other values, side by side" },
  { panel: "checkpoints", title: "Checkpoints", help: "named states of the job, to compare and go back to" },
  { panel: "deliver", title: "Deliver", help: "STEP for machining, meshes for printing" },
  { panel: "desk", title: "Caliper desk", help: "readings, their takes and what they are tied to" },
  { panel: "photo", title: "Photo desk", help: "photos and drawings to measure in and trace" },
  { panel: "scanner", title: "Virtual scanner", help: "a practice scan of a known solid" },
];

/** Every kind of step that can be begun from nothing, or with what is picked where that begins it, and every sheet. */
export function useMakeActions(): Action[] {
  const { scanId } = useBench();
  const { open, openDraft } = useTool();
  const kinds = useKinds();
  const draw = useNewSketch();
  const begin = useBegin();
  const section = useOpenSection();
  const made = Object.values(kinds)
    .filter((k) => !BEGUN_ELSEWHERE.includes(k.id))
    .filter((k) => scanId || k.makes !== "scan")
    .map((k) => ({
      id: `make-${k.id}`,
      group: "Make" as const,
      title: k.title,
      help: k.help,
      run: () => {
        if (kindView(k.id).draws) return void draw();
        const picked = byPicks(kinds, usePicks.getState()).find((b) => b.kind.id === k.id);
        if (picked) return begin(picked.kind, picked.params);
        const plain = plainParams(k.fields.filter((f) => f.type !== "ref"));
        const scan = scanId && k.fields.some((f) => f.name === "scan") ? { scan: { id: scanId } } : {};
        openDraft({ kind: k.id, params: { ...plain, ...scan } });
      },
    }));
  const opened = PANELS.map(({ panel, title, help }) => ({
    id: `open-${panel}`,
    group: "Open" as const,
    title,
    help,
    idle: panel === "regions" && !scanId,
    run: () => open(panel),
  }));
  const cut: Action = {
    id: "section",
    group: "Make",
    title: "Section through the part",
    help: "the outline of the scan in a plane, to be taken as a sketch",
    idle: !scanId,
    run: section.through,
  };
  return [...opened, cut, ...made];
}
