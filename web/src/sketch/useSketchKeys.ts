import { useEffect, useRef } from "react";
import { isTyping } from "../ui/typing";
import { BRING_IN, BRING_WAYS } from "./bringIn";
import type { Shown } from "./drawing";
import { demandsIn, entitiesIn, type Group, useHand } from "./store";
import { type Do, finish, inTurn, place } from "./stroke";
import { TOOLS, toolOf, wayOf } from "./tools";

const GROUPS: Group[] = ["draw", "change", "hold"];

/** One level back: what is typed, places pointed at, the tool, what is chosen. False where there is nothing to step back from. */
export function stepBackInSketch(): boolean {
  const h = useHand.getState();
  if (h.spots.length) h.set({ spots: [], after: null, chain: null, bend: false, typed: {}, typing: null });
  else if (h.tool) h.drop();
  else if (h.chosen.length || h.profiles.length) h.set({ chosen: [], profiles: [] });
  else return false;
  return true;
}

/** Takes away what is chosen: entities with what hangs on them, relations and sizes by themselves. */
export function removeChosen(shown: Shown, act: Do) {
  const { chosen, set } = useHand.getState();
  const of = entitiesIn(shown, chosen);
  const demands = demandsIn(chosen);
  set({ chosen: [] });
  if (demands.length) void act([{ act: "release", demands }]);
  else if (of.length) void act([{ act: "remove", of }]);
}

export const TAKE_OVER = "take-over";

/** The way that a tool begins with. */
export const firstWay = (id: string): string => (id === BRING_IN ? BRING_WAYS[0]!.id : (toolOf(id)?.ways[0]?.id ?? ""));

/** The keys of the group that is open, in the order of the bar. */
export function keyed(group: Group): string[] {
  const own = TOOLS.filter((t) => t.group === group).map((t) => t.id);
  return group === "change" ? [TAKE_OVER, BRING_IN, ...own] : own;
}

/** Keys while one draws; they come before those of the bench. */
export function useSketchKeys(shown: Shown | undefined, act: Do) {
  const now = useRef({ shown, act });
  now.current = { shown, act };
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      const { shown: drawn, act: does } = now.current;
      if (!drawn || e.ctrlKey || e.metaKey) return;
      const h = useHand.getState();
      if (isTyping(e.target)) return;
      if (handled(e, drawn, does)) {
        e.preventDefault();
        e.stopImmediatePropagation();
        return;
      }
      const tool = toolOf(h.tool);
      const fields = tool ? (wayOf(tool, h.way).fields ?? []) : [];
      const asked = tool?.group === "draw" && fields[0] && h.spots.length > 0;
      if (asked && (/^[\d.(-]$/.test(e.key) || e.key === "Tab" || (h.typing !== null && e.key.length === 1))) {
        // What is typed is a size of what is being drawn.
        // Whoever types fast is ahead of the field that is about to have the keyboard.
        const now = fields.findIndex((f) => f.name === h.typing);
        const name = fields[e.key === "Tab" ? (now + 1) % fields.length : Math.max(now, 0)]!.name;
        if (e.key !== "Tab") h.set({ typed: { ...h.typed, [name]: (h.typed[name] ?? "") + e.key } });
        h.set({ typing: name });
        e.preventDefault();
        e.stopImmediatePropagation();
        return;
      }
      const digit = /^\d$/.test(e.key) ? (Number(e.key) + 9) % 10 : -1;
      const id = digit >= 0 ? keyed(h.group)[digit] : undefined;
      if (!id) return;
      h.take(h.group, id, firstWay(id));
      e.preventDefault();
      e.stopImmediatePropagation();
    };
    window.addEventListener("keydown", press, true);
    return () => window.removeEventListener("keydown", press, true);
  }, []);
}

function handled(e: KeyboardEvent, shown: Shown, act: Do): boolean {
  const h = useHand.getState();
  switch (e.key) {
    case "Escape":
      return stepBackInSketch();
    case "Enter":
      if (toolOf(h.tool)?.many && h.spots.length > 1) void inTurn(() => finish(h.spots, shown, act));
      else if (h.typing && h.pointer) void place(h.pointer, () => shown, act);
      return h.tool !== null;
    case "Delete":
    case "Backspace":
      if (h.chosen.length) removeChosen(shown, act);
      return h.chosen.length > 0;
    case "t":
      if (h.tool !== "line") return false;
      h.set({ bend: !h.bend });
      return true;
    case "n":
      h.take(GROUPS[(GROUPS.indexOf(h.group) + 1) % GROUPS.length]!, null);
      return true;
    default:
      return false;
  }
}
