/** What the way a step goes suggests to make of it, and whether that is followed by itself. */
import { create } from "zustand";
import type { StepFacts } from "../api/build";
import type { Problem } from "../api/client";
import { useTool } from "../sheets/tool";
import { usePassing } from "./passing";

export type Proposal = "add" | "subtract";

const isProposal = (x: unknown): x is Proposal => x === "add" || x === "subtract";

/** The operation that a draft has by proposal, or had to begin with: none while nothing proposes. Somebody's own choice is another one. */
export const useFollowed = create<{ last: string | null }>(() => ({ last: null }));

/** Whether nobody has chosen otherwise. */
export const isFollowed = (operation: unknown, last: string | null) => isProposal(operation) && operation === last;

/** What facts propose; where the choice changes nothing there are none, but an offer of what would. */
export function proposalOf(facts: StepFacts | null | undefined, refused: Problem | null): Proposal | null {
  const told = facts && "proposes" in facts ? facts.proposes : null;
  const offered = refused?.offer?.choices.operation;
  return isProposal(told) ? told : isProposal(offered) ? offered : null;
}

/** Facts of the step that is being prepared. */
export function newestFacts(passing: Record<string, StepFacts>, steps: readonly { id: string }[]) {
  return Object.entries(passing).find(([id]) => !steps.some((s) => s.id === id))?.[1];
}

/** Resolves when the newest preview is of the draft as it is, or there is no draft any more. */
export function caughtUp(): Promise<void> {
  const is = () => {
    const { draft } = useTool.getState();
    return !draft || usePassing.getState().settled === draft.params;
  };
  return new Promise((done) => {
    const stops: (() => void)[] = [];
    const look = () => {
      if (!is()) return;
      for (const stop of stops) stop();
      done();
    };
    stops.push(usePassing.subscribe(look), useTool.subscribe(look));
    look();
  });
}
