import { useAppearance } from "../view/appearance";
import { useChosenThings } from "../view/useChosenThings";
import { type Thing, useThings } from "../view/useThings";
import type { Action } from "./action";

const KINDS: { kind: Thing["kind"]; name: string }[] = [
  { kind: "scan", name: "scans" },
  { kind: "body", name: "bodies" },
  { kind: "place", name: "planes, axes, points and measurements" },
];

/** Hiding, showing, and looking at one thing alone. */
export function useHideActions(): Action[] {
  const { hidden, set } = useAppearance();
  const things = useThings();
  const chosen = useChosenThings();
  const hide = (ids: string[]) => set({ hidden: [...new Set([...hidden, ...ids])] });
  const group = "Hide and show" as const;
  const idle = chosen.length === 0;
  return [
    { id: "hide", group, title: "Hide the chosen", help: "what is picked, or what the open step has made", keys: "x", idle, run: () => hide(chosen) },
    { id: "alone", group, title: "Show the chosen alone", help: "everything else is hidden", keys: "o", idle, run: () => set({ hidden: things.map((t) => t.id).filter((id) => !chosen.includes(id)) }) },
    { id: "back", group, title: "Show everything", help: "nothing stays hidden", keys: "X", idle: hidden.length === 0, run: () => set({ hidden: [] }) },
    ...KINDS.map(({ kind, name }) => {
      const own = things.filter((t) => t.kind === kind).map((t) => t.id);
      const out = own.length > 0 && own.every((id) => hidden.includes(id));
      return {
        id: `${kind}s`,
        group,
        title: `${out ? "Show" : "Hide"} all ${name}`,
        help: "all of that kind at once",
        idle: own.length === 0,
        run: () => (out ? set({ hidden: hidden.filter((id) => !own.includes(id)) }) : hide(own)),
      };
    }),
  ]; // biome-ignore format: a row an action
}
