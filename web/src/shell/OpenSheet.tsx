import type { ReactNode } from "react";
import { MeasureSheet } from "../construct/MeasureSheet";
import { DuplicateSheet } from "../duplicate/DuplicateSheet";
import { CheckpointSheet } from "../history/CheckpointSheet";
import { useBench } from "../job/context";
import { useSeen } from "../job/seen";
import { RegionsSheet } from "../regions/RegionsSheet";
import { ScannerSheet } from "../scan/ScannerSheet";
import { ScanSheet } from "../scan/ScanSheet";
import { SectionSheet } from "../section/SectionSheet";
import type { useSection } from "../section/useSection";
import { DeliverSheet } from "../sheets/DeliverSheet";
import { RepairSheet } from "../sheets/RepairSheet";
import { type Panel, useTool } from "../sheets/tool";
import { DraftSheet } from "../steps/DraftSheet";
import { kindView } from "../steps/kindViews";
import { StepSheet } from "../steps/StepSheet";
import { ValuesSheet } from "../values/ValuesSheet";
import { VariantsSheet } from "../variants/VariantsSheet";

interface Props {
  section: ReturnType<typeof useSection>;
  onTake: () => void;
  onKeep: () => void;
}

const PANELS: Partial<Record<Panel, () => ReactNode>> = {
  deliver: DeliverSheet,
  checkpoints: CheckpointSheet,
  values: ValuesSheet,
  variants: VariantsSheet,
  regions: RegionsSheet,
  measure: MeasureSheet,
  scanner: ScannerSheet,
};
const WIDE: Panel[] = ["values", "variants", "regions", "checkpoints"];

/** How much room the open sheet takes: none, some, or more. */
export function useSheetWidth(): "" | "with-sheet" | "with-sheet with-wide-sheet" {
  const { job } = useBench();
  const { section, draft, step, panel, repair, copied } = useTool();
  const kind = draft?.kind ?? job.recipe.steps.find((s) => s.id === step)?.kind;
  if ((panel && WIDE.includes(panel)) || repair || (kind && kindView(kind).wide)) return "with-sheet with-wide-sheet";
  return section || draft || step || panel || copied ? "with-sheet" : "";
}

/** The one sheet that is open, if any. */
export function OpenSheet({ section, onTake, onKeep }: Props) {
  const { scanId } = useBench();
  const tool = useTool();
  const asOf = useSeen((s) => s.asOf);
  if (tool.section)
    return <SectionSheet fitted={section.fitted} problem={section.problem} busy={section.busy} onTake={onTake} />;
  if (tool.draft) return <DraftSheet after={asOf} onKeep={onKeep} />;
  if (tool.panel === "scan") return <ScanSheet key={scanId} />;
  const Sheet = tool.panel && PANELS[tool.panel];
  if (Sheet) return <Sheet />;
  if (tool.repair) return <RepairSheet key={tool.repair.step + tool.repair.place} {...tool.repair} />;
  if (tool.copied) return <DuplicateSheet key={tool.copied.join()} ids={tool.copied} />;
  return tool.step ? <StepSheet /> : null;
}
