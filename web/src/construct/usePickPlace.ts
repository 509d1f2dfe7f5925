import { useCallback, useRef } from "react";
import type { Vec3 } from "../api/build";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { type Armed, useArmed, useDisarmed } from "../pick/armed";
import { edgeRef } from "../pick/parts";
import type { PartRef } from "../pick/spots";
import { faceRef } from "../steps/stepValues";

export interface Spot {
  facet: number;
  weights: [number, number, number];
}

/** Asks for one pick in the view and says what it was: a face, edge or spot of a body, a piece of a sketch, a region of the scan (kept
 * as a step when it is none yet), or a spot on the scan. */
export function usePickPlace() {
  const { job, scanId, scanKey, edit, tell } = useBench();
  const { armed, arm } = useArmed();
  const mine = useRef<Armed>(null);
  useDisarmed((a) => a === mine.current);
  const path = { job_id: job.id };
  const spotAt = useCallback(
    (facet: number, point: Vec3): Promise<Spot> =>
      got(
        api.POST("/api/jobs/{job_id}/spot", {
          params: { path: { job_id: job.id } },
          body: { scan: scanKey, facet, point },
        }),
      ),
    [job.id, scanKey],
  );
  /** The region step that holds a facet; a new one when none does. */
  const regionAt = async (facet: number): Promise<string | null> => {
    const query = { scan: scanKey, facet };
    const known = await got(api.GET("/api/jobs/{job_id}/regions-at", { params: { path, query } }));
    if (known[0]) return known[0];
    const body = { scan: scanKey, seeds: [facet], removed: [], surface: "auto" as const };
    const grown = await got(api.POST("/api/jobs/{job_id}/grow", { params: { path }, body }));
    const id = crypto.randomUUID();
    const params = { scan: { id: scanId }, seeds: grown.source_seeds, surface: grown.surface.kind };
    return (await edit({ op: "add-step", id, kind: "region", params })) ? id : null;
  };
  const pick = (
    hint: string,
    on: {
      edge?: (ref: ReturnType<typeof edgeRef>) => void;
      face?: (ref: ReturnType<typeof faceRef>) => void;
      /** Of surface, that a face has to have; any where there are none. */
      shapes?: readonly string[];
      region?: (id: string) => void;
      spot?: (spot: Spot) => void;
      part?: (ref: PartRef) => void;
      offers?: Armed["offers"];
      /** It goes on until it is stopped. */
      several?: boolean;
    },
  ) => {
    if (armed?.hint === hint) return arm(null);
    const taken = () => (on.several ? undefined : arm(null));
    const scan = on.region || on.spot;
    const asked: Armed = { hint };
    if (on.part && on.offers) {
      asked.offers = on.offers;
      asked.onPart = (ref) => {
        taken();
        on.part!(ref);
      };
    }
    if (on.edge)
      asked.onEdge = (p) => {
        taken();
        on.edge!(edgeRef(p.body, p.edge));
      };
    if (on.face)
      asked.onFace = (p) => {
        if (on.shapes?.length && !on.shapes.includes(p.face.kind)) return;
        taken();
        on.face!(faceRef(p.body, p.face));
      };
    if (scan)
      asked.onFacet = (facet, at) => {
        taken();
        const done = on.spot
          ? spotAt(facet, at).then(on.spot)
          : regionAt(facet).then((id) => (id ? on.region!(id) : undefined));
        done.catch(tell);
      };
    mine.current = asked;
    arm(asked);
  };
  return { pick, waiting: armed?.hint ?? null };
}
