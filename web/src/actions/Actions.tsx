import { useBench } from "../job/context";
import type { Action } from "./action";
import { KeyPage } from "./KeyPage";
import { useOpenList } from "./open";
import { PinnedRow } from "./PinnedRow";
import { Search } from "./Search";
import { SideRow } from "./SideRow";
import { useActionKeys } from "./useActionKeys";
import { useHideActions } from "./useHideActions";
import { useLookActions } from "./useLookActions";
import { useMakeActions } from "./useMakeActions";

interface Props {
  onHome: () => void;
  onMove: (direction: "undo" | "redo") => void;
}

/** Everything that can be done, by its key, by its name, and on one page. */
export function Actions({ onHome, onMove }: Props) {
  const { job } = useBench();
  const { open, set } = useOpenList();
  const look = useLookActions(onHome);
  const hide = useHideActions();
  const make = useMakeActions();
  const change: Action[] = [
    { id: "undo", group: "Change", title: "Undo", help: job.undo ?? "nothing to undo", keys: "Ctrl+Z", idle: !job.undo, run: () => onMove("undo") },
    { id: "redo", group: "Change", title: "Redo", help: job.redo ?? "nothing to redo", keys: "Ctrl+Y", idle: !job.redo, run: () => onMove("redo") },
    { id: "search", group: "Open", title: "Search actions", help: "by name, with their keys", keys: "/", run: () => set("search") },
    { id: "keys", group: "Open", title: "All keys", help: "on one page", keys: "?", run: () => set("keys") },
  ]; // biome-ignore format: a row an action
  const all = [...look, ...hide, ...change, ...make];
  useActionKeys(all);
  return (
    <>
      <PinnedRow actions={all} />
      {open === "search" && <Search actions={all} />}
      {open === "keys" && <KeyPage actions={all} />}
      {open === "sides" && <SideRow />}
    </>
  );
}
