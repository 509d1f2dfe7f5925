import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { useAppearance } from "../view/appearance";
import { kindView } from "./kindViews";

/** Puts the step that is being prepared into the job, and opens it. */
export function useKeepDraft(): () => Promise<void> {
  const { edit } = useBench();
  return async () => {
    const { draft, open, select } = useTool.getState();
    if (!draft) return;
    const id = crypto.randomUUID();
    if (!(await edit({ op: "add-step", id, ...draft }))) return;
    const { kept, hidden } = kindView(draft.kind);
    if (hidden) useAppearance.setState((s) => ({ hidden: [...s.hidden, id] }));
    if (kept) open(kept);
    else select(id);
  };
}
