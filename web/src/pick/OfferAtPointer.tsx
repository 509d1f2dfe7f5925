import { project } from "../view/stage";
import { useOffered } from "./offered";

/** Says what a click would take, beside it. */
export function OfferAtPointer() {
  const over = useOffered((s) => s.over);
  const at = over ? ("mark" in over ? over.at : over.ref.place) : null;
  if (!over || !at) return null;
  const p = project(at);
  return (
    <div className="drag-reading" role="status" aria-label="Would be picked" style={{ left: p.x + 16, top: p.y + 14 }}>
      {over.said}
    </div>
  );
}
