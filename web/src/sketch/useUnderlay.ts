import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Mesh } from "three";
import type { Vec3 } from "../api/build";
import { api, got, type SectionOut } from "../api/client";
import { cutOfMesh } from "../clip/CutLines";
import { useBench } from "../job/context";
import { movedAlong } from "../section/plane";
import { stage } from "../view/stage";
import { useShownBodies } from "../view/useShownBodies";
import { type Frame, onSheet, type XY } from "./drawing";
import type { Underlay } from "./snap";
import { useHand } from "./store";

const HAIR = 2e-3; // mm

export interface Evidence {
  /** The scan's section in the plane, explained by pieces; none while it is asked for, or where there is no scan. */
  section: SectionOut | undefined;
  /** Its pieces on the plane, and the cuts of bodies as pairs of points. */
  pieces: { kind: string; path: XY[] }[];
  bodies: [XY, XY][];
  under: Underlay;
}

/** What lies under the drawing: the scan's section in its plane, and where the plane cuts bodies. */
export function useUnderlay(frame: Frame | null): Evidence {
  const { job, scanKey } = useBench();
  const wanted = useHand((s) => s.section);
  const bodies = useShownBodies();
  const { data: section } = useQuery({
    queryKey: ["under", job.id, scanKey, frame],
    enabled: frame !== null && scanKey !== "" && wanted,
    retry: false,
    gcTime: 60_000,
    queryFn: () =>
      got(
        api.POST("/api/jobs/{job_id}/section", {
          params: { path: { job_id: job.id } },
          body: {
            scan: scanKey,
            source: "section",
            origin: frame!.origin,
            normal: frame!.normal,
            u_axis: frame!.u,
            turn_u: 0,
            turn_v: 0,
            offset: "0 mm",
            fitted: true,
            bridge: false,
            wishes: [],
          },
        }),
      ),
  });
  const shown = wanted ? section : undefined;
  const pieces = useMemo(() => {
    if (!frame || !shown) return [];
    return shown.loops.flatMap((l) =>
      l.pieces.map((p) => ({ kind: p.kind as string, path: p.path.map((q) => onSheet(frame, q as Vec3)) })),
    );
  }, [frame, shown]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the bodies on the stage follow the list
  const cuts = useMemo(() => {
    if (!frame) return [];
    return [...stage.bodies.values()].flatMap((b) => pairs(frame, cutBeside(b.mesh, frame)));
  }, [frame, bodies]);
  const under = useMemo(
    () => ({
      paths: [...pieces.map((p) => p.path), ...cuts],
      ends: pieces.flatMap((p) => (p.path.length > 1 ? [p.path[0]!, p.path.at(-1)!] : [])),
    }),
    [pieces, cuts],
  );
  return { section: shown, pieces, bodies: cuts, under };
}

/** A hair to one side, else to the other: of a face that lies in the plane its border is meant, and not the facets that show it. */
function cutBeside(mesh: Mesh, frame: Frame): Float32Array {
  const at = (off: number) => cutOfMesh(mesh, movedAlong(frame.origin, frame.normal, off), frame.normal);
  const below = at(-HAIR);
  return below.length ? below : at(HAIR);
}

function pairs(frame: Frame, cut: Float32Array): [XY, XY][] {
  const out: [XY, XY][] = [];
  for (let i = 0; i + 5 < cut.length; i += 6)
    out.push([
      onSheet(frame, [cut[i]!, cut[i + 1]!, cut[i + 2]!]),
      onSheet(frame, [cut[i + 3]!, cut[i + 4]!, cut[i + 5]!]),
    ]);
  return out;
}
