import { useKinds } from "../api/kinds";
import { MoreKinds } from "../pick/MoreKinds";
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
  return <MoreKinds offers={offers} onBegin={({ kind, params }) => begin(kind, params)} />;
}
