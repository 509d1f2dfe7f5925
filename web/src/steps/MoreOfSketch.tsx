import { Button, Dropdown } from "antd";
import { useKinds } from "../api/kinds";
import { usePicks } from "../pick/picks";
import { begun } from "../pick/starts";
import { useTool } from "../sheets/tool";
import { useShownBodies } from "../view/useShownBodies";

/** They have buttons of their own. */
const OWN_BUTTON = ["extrude", "revolve"];

/** Every other kind of step that declares that a sketch begins it. */
export function MoreOfSketch({ sketch }: { sketch: string }) {
  const kinds = useKinds();
  const bodies = useShownBodies();
  const offers = begun(kinds, { takes: "sketch", shapes: [], refs: [{ id: sketch }] }).filter(
    ({ kind }) => !OWN_BUTTON.includes(kind.id),
  );
  if (!offers.length) return null;
  const open = (id: string) => {
    const offer = offers.find(({ kind }) => kind.id === id);
    if (!offer) return;
    usePicks.getState().clear();
    // The one body there is stands ready for whatever is to be added to it or taken from it.
    const targets = offer.kind.fields.some((f) => f.name === "bodies") && bodies.length === 1 ? bodies : [];
    const body = offer.kind.fields.some((f) => f.name === "body") && bodies[0] ? { body: { id: bodies[0].id } } : {};
    useTool.getState().openDraft({
      kind: id,
      params: { ...offer.params, ...body, ...(targets.length ? { bodies: targets.map((b) => ({ id: b.id })) } : {}) },
    });
  };
  const items = offers.map(({ kind }) => ({ key: kind.id, label: kind.title, title: kind.help }));
  return (
    <Dropdown menu={{ items, onClick: ({ key }) => open(key) }} trigger={["click"]} placement="topLeft">
      <Button>More …</Button>
    </Dropdown>
  );
}
