import { useEffect, useRef, useState } from "react";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { finished, useLive } from "../job/useTask";
import type { SeatPair, SeatRow } from "./SeatPairs";
import { faceRef } from "./stepValues";

interface Asked {
  /** The seat step; none while it is being prepared. */
  step: string | null;
  body: string;
  /** The product of the body as it is then, and the step before. */
  key: string | null;
  before: string | null;
  pairs: SeatPair[];
  onChange: (pairs: SeatPair[]) => void;
}

/** Pairs as the tool proposes them: for faces by name, or for all of the body. */
export function useSeatProposals({ step, body, key, before, pairs, onChange }: Asked) {
  const { job, tell } = useBench();
  const live = useLive();
  const [proposed, setProposed] = useState<SeatRow[]>([]);
  const [looking, setLooking] = useState(false);
  const [said, setSaid] = useState("");
  const propose = async (names: string[] | null) => {
    setLooking(true);
    const path = { job_id: job.id };
    try {
      const first = await got(
        api.POST("/api/jobs/{job_id}/seats", {
          params: { path },
          body: { body, faces: names, after: before, tilt: "3 deg" },
        }),
      );
      const row = await finished(
        first,
        () => got(api.GET("/api/jobs/{job_id}/seats/{task_id}", { params: { path: { ...path, task_id: first.id } } })),
        live,
      );
      if (!live() || !row.result) return;
      const found = row.result.pairs;
      const taken = new Set(pairs.map((p) => p.face.name));
      const all = await got(
        api.GET("/api/jobs/{job_id}/products/{key}/faces", { params: { path: { ...path, key: key! } } }),
      );
      const more = found
        .filter((f) => !taken.has(f.face))
        .map((f) => {
          const face = all.find((x) => x.name === f.face)!;
          const region = f.region ? { id: f.region } : null;
          return { face: faceRef(body, face), region, seeds: region ? [] : [f.seed] };
        });
      setProposed((old) => [...old, ...found]);
      onChange([...pairs, ...more]);
      setSaid(`${found.length} of ${names?.length ?? all.length} faces have a region opposite them`);
    } catch (e) {
      tell(e);
    } finally {
      if (live()) setLooking(false);
    }
  };
  // A new seat begins with the app's own proposal.
  const begun = useRef(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked for once, when the faces are known
  useEffect(() => {
    if (step !== null || begun.current || !key) return;
    begun.current = true;
    void propose(pairs.length ? pairs.map((p) => p.face.name) : null);
    if (pairs.length) onChange([]);
  }, [key]);

  return { propose, proposed, looking, said, setSaid };
}
