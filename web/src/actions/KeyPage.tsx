import { Modal } from "antd";
import type { Action } from "./action";
import { useOpenList } from "./open";

const BY_HAND: [string, string][] = [
  ["1 … 9", "the actions of the card that is open"],
  ["Enter", "takes what is being prepared"],
  ["Esc", "steps back one level"],
  ["↑ ↓", "step a figure; finer with Shift"],
  ["0 … 9", "while a grip is held: types its value"],
  ["Shift, Alt + click", "adds to what is picked, takes away from it"],
  ["right click", "lists what lies under the pointer"],
];

/** All keys on one page. */
export function KeyPage({ actions }: { actions: readonly Action[] }) {
  const groups = [...new Set(actions.filter((a) => a.keys).map((a) => a.group))];
  return (
    <Modal open footer={null} width={720} title="Keys" onCancel={() => useOpenList.getState().set(null)}>
      <div className="key-page">
        {groups.map((group) => (
          <section key={group} aria-label={group}>
            <h3>{group}</h3>
            {actions
              .filter((a) => a.group === group && a.keys)
              .map((a) => (
                <p key={a.id}>
                  <kbd>{a.keys}</kbd> {a.title}
                </p>
              ))}
          </section>
        ))}
        <section aria-label="Picking and typing">
          <h3>Picking and typing</h3>
          {BY_HAND.map(([keys, text]) => (
            <p key={keys}>
              <kbd>{keys}</kbd> {text}
            </p>
          ))}
        </section>
      </div>
    </Modal>
  );
}
