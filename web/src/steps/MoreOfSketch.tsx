import { Button, Dropdown } from "antd";
import { useKinds } from "../api/kinds";
import { begun } from "../pick/starts";
import { useBegin } from "../sheets/useBegin";

/** They have buttons of their own. */
const OWN_BUTTON = ["extrude", "revolve"];

/** Every other kind of step that declares that a sketch begins it. */
export function MoreOfSketch({ sketch }: { sketch: string }) {
  const kinds = useKinds();
  const begin = useBegin();
  const offers = begun(kinds, { takes: "sketch", shapes: [], refs: [{ id: sketch }] }).filter(
    ({ kind }) => !OWN_BUTTON.includes(kind.id),
  );
  if (!offers.length) return null;
  const open = (id: string) => {
    const offer = offers.find(({ kind }) => kind.id === id);
    if (!offer) return;
    begin(offer.kind, offer.params);
  };
  const items = offers.map(({ kind }) => ({ key: kind.id, label: kind.title, title: kind.help }));
  return (
    <Dropdown menu={{ items, onClick: ({ key }) => open(key) }} trigger={["click"]} placement="topLeft">
      <Button>More …</Button>
    </Dropdown>
  );
}
