/** What can be done on the bench, each with its words and, where it is done often, its key. No React. */

export interface Action {
  id: string;
  group: "Look" | "Hide and show" | "Make" | "Open" | "Change";
  title: string;
  /** One line of what it does. */
  help: string;
  /** As the keyboard says it: "x", "X", "q", "Ctrl+Z". */
  keys?: string;
  /** It would do nothing now. */
  idle?: boolean;
  run: () => void;
}

/** How well an action answers what is typed: every word has to be found; the title counts more than the help. */
export function fits(action: Action, typed: string): number {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const title = action.title.toLowerCase();
  const rest = `${action.help} ${action.group}`.toLowerCase();
  let score = 0;
  for (const word of words) {
    if (title.startsWith(word)) score += 4;
    else if (title.includes(` ${word}`)) score += 3;
    else if (title.includes(word)) score += 2;
    else if (rest.includes(word)) score += 1;
    else return 0;
  }
  return words.length === 0 ? 1 : score;
}

/** The actions that answer, best first, in their own order where they answer alike. */
export const found = (actions: readonly Action[], typed: string): Action[] =>
  actions
    .map((action, at) => ({ action, at, score: fits(action, typed) }))
    .filter((r) => r.score > 0)
    .sort((a, b) => b.score - a.score || a.at - b.at)
    .map((r) => r.action);
