import { useQueries } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { useDeclarations } from "../api/kinds";
import { useBench } from "../job/context";
import { sketchQuestion } from "../steps/useSketch";
import { FatLines } from "../view/FatLines";
import { segmentsOf } from "../view/paths";
import { useShownBodies } from "../view/useShownBodies";
import { useArmed } from "./armed";
import { useOffered } from "./offered";
import { SpotMarks } from "./SpotMarks";
import { type Piece, piecesOf, spotsOf } from "./spots";
import { bordersQuestion } from "./useBorders";

/** Spots of the bodies and pieces of the sketches that what is awaited can take: found while it is awaited, and drawn. */
export function OfferedInView() {
  const asked = useArmed((s) => s.armed?.offers);
  const { palette } = useBench();
  const spots = useSpots();
  const pieces = usePieces();
  const { offer } = useOffered.getState();
  useEffect(() => {
    offer(spots, pieces);
    return () => offer([], []);
  }, [spots, pieces, offer]);
  if (!asked) return null;
  return (
    <>
      <Lines pieces={pieces} colour={palette.quiet} width={2} />
      <SpotMarks spots={spots} palette={palette} />
      <Pointed colour={palette.below} />
    </>
  );
}

function useSpots() {
  const { job, unit } = useBench();
  const marks = useArmed((s) => s.armed?.offers?.spots);
  const bodies = useShownBodies().filter((b) => !b.view);
  const wanted = marks?.length ? bodies : [];
  const known = useQueries({ queries: wanted.map((b) => bordersQuestion(job.id, b.key)) });
  const told = known.map((k) => k.data);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the lists are new each time, what they hold is not
  return useMemo(
    () =>
      wanted.flatMap((b, k) => {
        const borders = told[k];
        return borders ? spotsOf(b.id, borders, marks ?? [], unit) : [];
      }),
    [marks, unit, wanted.map((b) => b.key).join(), told.map((t) => t?.edges.length).join()],
  );
}

function usePieces(): Piece[] {
  const { job } = useBench();
  const { kinds } = useDeclarations();
  const asked = useArmed((s) => s.armed?.offers);
  const steps = job.build.result?.steps ?? [];
  const at = asked?.above ? steps.findIndex((s) => s.id === asked.above) : steps.length;
  const sketches = asked?.pieces
    ? steps.slice(0, at).filter((s) => kinds[s.kind]?.makes === "sketch" && s.key !== null && s.status === "ok")
    : [];
  const known = useQueries({ queries: sketches.map((s) => sketchQuestion(job.id, s.key)) });
  const told = known.map((k) => k.data);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the lists are new each time, what they hold is not
  return useMemo(
    () =>
      sketches.flatMap((s, k) => piecesOf(s.id, s.name, [...(told[k]?.entities ?? []), ...(told[k]?.helpers ?? [])])),
    [sketches.map((s) => s.key).join(), told.map((t) => t?.entities.length).join()],
  );
}

function Lines({ pieces, colour, width }: { pieces: readonly Piece[]; colour: string; width: number }) {
  const segments = useMemo(() => Float32Array.from(pieces.flatMap((p) => segmentsOf(p.path))), [pieces]);
  return <FatLines segments={segments} colour={colour} width={width} />;
}

/** What the pointer is at, drawn by itself. */
function Pointed({ colour }: { colour: string }) {
  const over = useOffered((s) => s.over);
  const piece = useMemo(() => (over && "path" in over ? [over] : []), [over]);
  return <Lines pieces={piece} colour={colour} width={4} />;
}
