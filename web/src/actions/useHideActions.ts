import { useAppearance } from "../view/appearance";
import { useChosenThings } from "../view/useChosenThings";
import { isOut, type Thing, useThings } from "../view/useThings";
import type { Action } from "./action";

const KINDS: { kind: Thing["kind"]; name: string }[] = [
  { kind: "scan", name: "scans" },
  { kind: "body", name: "bodies" },
  { kind: "sketch", name: "sketches" },
  { kind: "region", name: "kept regions" },
  { kind: "place", name: "planes, axes, points and curves" },
  { kind: "measurement", name: "measurements" },
  { kind: "pin", name: "readings and probes" },
];

/** Hiding, showing, and looking at one thing alone. */
export function useHideActions(): Action[] {
  const { hidden, shown, set, hide, show } = useAppearance();
  const things = useThings();
  const chosen = useChosenThings();
  const group = "Hide and show" as const;
  const idle = chosen.length === 0;
  const out = (t: Thing) => isOut(t, { hidden, shown });
  const gone = things.filter((t) => chosen.includes(t.id)).some(out);
  const alone = () =>
    set({ hidden: things.filter((t) => !t.quiet && !chosen.includes(t.id)).map((t) => t.id), shown: chosen });
  return [
    { id: "hide", group, title: `${gone ? "Show" : "Hide"} the chosen`, help: "what is picked, or what the open step has made", keys: "x", idle, run: () => (gone ? show : hide)(chosen) },
    { id: "alone", group, title: "Show the chosen alone", help: "everything else is hidden", keys: "o", idle, run: alone },
    { id: "back", group, title: "Show everything", help: "nothing stays hidden", keys: "X", idle: hidden.length === 0, run: () => set({ hidden: [] }) },
    ...KINDS.map(({ kind, name }) => {
      const own = things.filter((t) => t.kind === kind);
      const ids = own.map((t) => t.id);
      const all = own.length > 0 && own.every(out);
      return {
        id: `${kind}s`,
        group,
        title: `${all ? "Show" : "Hide"} all ${name}`,
        help: "all of that kind at once",
        idle: own.length === 0,
        run: () => (all ? show : hide)(ids),
      };
    }),
  ]; // biome-ignore format: a row an action
}
