import { Modal } from "antd";
import { useState } from "react";
import { useTypedFirst } from "../ui/typedFirst";
import { type Action, found } from "./action";
import { useOpenList } from "./open";
import { usePinned } from "./pinned";

const MOST = 12;

/** Actions by name: typed, chosen with the arrow keys, taken with Enter. */
export function Search({ actions }: { actions: readonly Action[] }) {
  const close = () => useOpenList.getState().set(null);
  const { ids, toggle } = usePinned();
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const { first, afterOpenChange } = useTypedFirst<HTMLInputElement>();
  const rows = found(actions, typed).slice(0, MOST);
  const take = (action: Action | undefined) => {
    if (!action || action.idle) return;
    close();
    action.run();
  };
  return (
    <Modal
      open
      footer={null}
      closable={false}
      onCancel={close}
      width={560}
      destroyOnHidden
      title={null}
      afterOpenChange={afterOpenChange}
    >
      <input
        ref={first}
        className="action-search"
        role="combobox"
        aria-expanded
        aria-controls="actions-found"
        aria-activedescendant={rows[at] ? `action-${rows[at].id}` : undefined}
        aria-label="Search actions"
        placeholder="what do you want to do?"
        // biome-ignore lint/a11y/noAutofocus: it was opened to type in
        autoFocus
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          e.stopPropagation();
          if (e.key === "Escape") close();
          if (e.key === "Enter" && (e.ctrlKey || e.metaKey) && rows[at]) toggle(rows[at].id);
          else if (e.key === "Enter") take(rows[at]);
          if (e.key !== "ArrowDown" && e.key !== "ArrowUp") return;
          e.preventDefault();
          setAt((k) => Math.max(0, Math.min(rows.length - 1, k + (e.key === "ArrowDown" ? 1 : -1))));
        }}
      />
      <div id="actions-found" role="listbox" aria-label="Actions" className="action-rows">
        {rows.map((a, k) => (
          <button
            type="button"
            role="option"
            key={a.id}
            id={`action-${a.id}`}
            aria-selected={k === at}
            disabled={a.idle}
            onMouseEnter={() => setAt(k)}
            onClick={() => take(a)}
          >
            <b>
              {a.title}
              {ids.includes(a.id) && <span className="quiet"> pinned</span>}
            </b>
            <span className="quiet">{a.help}</span>
            {a.keys ? <kbd>{a.keys}</kbd> : <span />}
          </button>
        ))}
        {rows.length === 0 && <p className="quiet">Nothing is called like that.</p>}
      </div>
      <p className="quiet small">Enter does it · Ctrl+Enter pins it to the row over the view, or takes it off</p>
    </Modal>
  );
}
