import { useBench } from "../job/context";
import { useTool } from "../sheets/tool";
import { useAppearance } from "../view/appearance";
import { kindView } from "./kindViews";
import { usePassing } from "./passing";
import { caughtUp, isFollowed, newestFacts, proposalOf, useFollowed } from "./proposal";

/**
 * Puts the step that is being prepared into the job, and opens it. What becomes of it is proposed by the way it goes: whoever presses Enter
 * before that is known gets what it then says, not what was said of values before.
 */
export function useKeepDraft(): () => Promise<void> {
  const { job, edit } = useBench();
  return async () => {
    const { open, select } = useTool.getState();
    const before = useTool.getState().draft;
    const { keeping, set } = usePassing.getState();
    if (!before || keeping) return;
    set({ keeping: true });
    try {
      const follows = () => isFollowed(useTool.getState().draft?.params.operation, useFollowed.getState().last);
      if (follows()) await caughtUp();
      const draft = useTool.getState().draft;
      if (draft?.kind !== before.kind) return; // put down meanwhile
      const { passing, refused } = usePassing.getState();
      const proposes = follows() ? proposalOf(newestFacts(passing, job.recipe.steps), refused) : null;
      const params = proposes ? { ...draft.params, operation: proposes } : draft.params;
      const id = crypto.randomUUID();
      if (!(await edit({ op: "add-step", id, kind: draft.kind, params }))) return;
      useTool.getState().kept();
      const { kept, hidden } = kindView(draft.kind);
      if (hidden) useAppearance.setState((s) => ({ hidden: [...s.hidden, id] }));
      if (kept) open(kept);
      else select(id);
    } finally {
      set({ keeping: false });
    }
  };
}
