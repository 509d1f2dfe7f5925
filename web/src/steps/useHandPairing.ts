import { useRef } from "react";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { useArmed } from "../pick/armed";
import type { FacePick } from "../pick/picks";
import type { SeatPair } from "./SeatPairs";
import { faceRef } from "./stepValues";

/** A face and a region picked in either order become a pair, pair after pair until Escape. */
export function useHandPairing(body: string, pairs: SeatPair[], onPaired: (pairs: SeatPair[]) => void) {
  const { job, scanKey, tell } = useBench();
  const { armed, arm } = useArmed();
  const half = useRef<{ face?: FacePick; seed?: number }>({});
  // The next pair may be picked before the last one is in: each is added to what there is by then.
  const now = useRef({ pairs, onPaired });
  now.current = { pairs, onPaired };
  const pair = async (face: FacePick, seed: number) => {
    const surface = face.face.kind === "cylinder" ? "cylinder" : "plane";
    try {
      const grown = await got(
        api.POST("/api/jobs/{job_id}/grow", {
          params: { path: { job_id: job.id } },
          body: { scan: scanKey, seeds: [seed], removed: [], surface },
        }),
      );
      const rest = now.current.pairs.filter((p) => p.face.name !== face.face.name);
      now.current.onPaired([...rest, { face: faceRef(body, face.face), region: null, seeds: grown.source_seeds }]);
    } catch (e) {
      tell(e);
    }
  };
  const byHand = (want: "face" | "facet") => {
    const goOn = () => {
      const { face, seed } = half.current;
      if (face && seed !== undefined) {
        half.current = {};
        void pair(face, seed);
      }
      byHand(want === "face" ? "facet" : "face");
    };
    const onFace = (pick: FacePick) => {
      half.current.face = pick;
      goOn();
    };
    const onFacet = (facet: number) => {
      half.current.seed = facet;
      goOn();
    };
    arm(
      want === "face"
        ? { hint: "Click the face to seat", onFace }
        : { hint: "Click the region of the scan it should lie on", onFacet },
    );
  };

  const begin = () => {
    half.current = {};
    if (armed) arm(null);
    else byHand("face");
  };
  const untouched = half.current.face === undefined && half.current.seed === undefined;
  return { armed, begin, regionFirst: armed?.onFace && untouched ? () => byHand("facet") : null };
}
