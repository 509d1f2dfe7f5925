import { useBench } from "../job/context";
import { useOpenSection } from "../section/useOpenSection";
import { useNewSketch } from "../sketch/useNewSketch";
import { BodyCard } from "./BodyCard";
import { CardHost } from "./CardHost";
import { EdgeCard } from "./EdgeCard";
import { FaceCard } from "./FaceCard";
import { usePicks } from "./picks";
import { SelectionCard } from "./SelectionCard";
import { useGrow } from "./useGrow";
import { useKeepRegion } from "./useKeepRegion";

/** The card of what is picked: bodies, faces, edges, or a region of the scan. `onFrame`: called after every frame. */
export function Cards({ onFrame }: { onFrame: { current: () => void } }) {
  const { tell } = useBench();
  const picks = usePicks();
  const { grown, facets, problem } = useGrow();
  const keep = useKeepRegion();
  const section = useOpenSection();
  const draw = useNewSketch();
  const cut = async () => {
    if (grown?.surface.kind !== "plane") return;
    const { origin, axis } = grown.surface;
    const id = await keep();
    if (id) section.at(id, origin, axis, { around: origin });
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
