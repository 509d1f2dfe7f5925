import type { Action } from "./action";
import { usePinned } from "./pinned";

/** The actions that were pinned in the search, a click away. */
export function PinnedRow({ actions }: { actions: readonly Action[] }) {
  const { ids } = usePinned();
  const rows = ids.flatMap((id) => actions.find((a) => a.id === id) ?? []);
  if (!rows.length) return null;
  return (
    <div className="pinned-row" role="toolbar" aria-label="Pinned actions">
      {rows.map((a) => (
        <button type="button" key={a.id} disabled={a.idle ?? false} title={a.help} onClick={a.run}>
          {a.title}
          {a.keys && <kbd>{a.keys}</kbd>}
        </button>
      ))}
    </div>
  );
}
