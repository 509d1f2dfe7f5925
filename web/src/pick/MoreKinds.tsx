import { Button, type ButtonProps, Dropdown } from "antd";
import type { Begun } from "./starts";

/** Kinds of steps that a selection begins and that have no button of their own. */
export function MoreKinds({
  offers,
  onBegin,
  size,
}: { offers: Begun[]; onBegin: (b: Begun) => void } & Pick<ButtonProps, "size">) {
  if (!offers.length) return null;
  const items = offers.map(({ kind, title }) => ({ key: kind.id, label: title, title: kind.help }));
  const open = (id: string) => {
    const offer = offers.find(({ kind }) => kind.id === id);
    if (offer) onBegin(offer);
  };
  return (
    <Dropdown menu={{ items, onClick: ({ key }) => open(key) }} trigger={["click"]} placement="topLeft">
      <Button {...(size ? { size } : {})}>More …</Button>
    </Dropdown>
  );
}
