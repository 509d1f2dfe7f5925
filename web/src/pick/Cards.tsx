import { useKinds } from "../api/kinds";
import { useBench } from "../job/context";
import { useOpenSection } from "../section/useOpenSection";
import { useBegin } from "../sheets/useBegin";
import { useNewSketch } from "../sketch/useNewSketch";
import { typed } from "../units";
import { BodyCard } from "./BodyCard";
import { byRegion, regionShape } from "./begunBy";
import { CardHost } from "./CardHost";
import { EdgeCard } from "./EdgeCard";
import { FaceCard } from "./FaceCard";
import { usePicks } from "./picks";
import { SelectionCard } from "./SelectionCard";
import { useGrow } from "./useGrow";
import { useKeepRegion } from "./useKeepRegion";

/** The card of what is picked: bodies, faces, edges, or a region of the scan. `onFrame`: called after every frame. */
export function Cards({ onFrame }: { onFrame: { current: () => void } }) {
  const { tell, unit } = useBench();
  const picks = usePicks();
  const { grown, facets, problem } = useGrow();
  const keep = useKeepRegion();
  const section = useOpenSection();
  const draw = useNewSketch();
  const begin = useBegin();
  const kinds = useKinds();
  const cut = async () => {
    if (!grown) return;
    const { kind, origin, axis } = grown.surface;
    const id = await keep();
    if (!id) return;
    if (kind === "plane") section.onFace(id, origin, axis, origin);
    else section.at(id, origin, axis, { source: "radial", offset: "0 mm" });
  };
  /** A step of what is picked: that becomes a region first. */
  const start = async (kind: string) => {
    if (!grown) return;
    const { surface } = grown;
    const diameter = surface.kind === "cylinder" ? typed(2 * (surface.radius ?? 0), unit) : null;
    const id = await keep();
    const offer = id && byRegion(kinds, regionShape(surface), id, diameter).find((o) => o.kind.id === kind);
    if (offer) begin(offer.kind, offer.params);
  };
  const card =
    picks.bodies.length > 0 ? (
      <BodyCard />
    ) : picks.faces.length > 0 ? (
      <FaceCard />
    ) : picks.edges.length > 0 ? (
      <EdgeCard />
    ) : picks.seeds.length > 0 || picks.hand ? (
      <SelectionCard
        grown={grown}
        facets={facets}
        problem={problem}
        onKeep={() => void keep()}
        onSection={() => void cut().catch(tell)}
        onBegin={(kind) => void start(kind).catch(tell)}
        onDraw={() => void keep().then((id) => (id ? draw({ id }) : undefined))}
      />
    ) : null;
  return (
    card && (
      <CardHost anchor={picks.anchor} onFrame={onFrame}>
        {card}
      </CardHost>
    )
  );
}
