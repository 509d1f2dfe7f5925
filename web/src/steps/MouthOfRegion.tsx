import { useEffect, useRef, useState } from "react";
import { api, got } from "../api/client";
import { factsOf } from "../api/facts";
import { useBench } from "../job/context";
import { useLive } from "../job/useTask";
import { length } from "../units";
import { useShownBodies } from "../view/useShownBodies";
import type { PartProps } from "./kindView";
import { faceRef } from "./stepValues";

/** A hole begun from a region that a bore has left: the face that it is drilled from and how far it reaches are looked up, once. */
export function MouthOfRegion({ params, step, onChange }: PartProps) {
  const { job, unit, tell } = useBench();
  const live = useLive();
  const axes = params.axes as { id?: string }[] | undefined;
  const region = params.by === "axes" && axes?.length === 1 ? (axes[0]!.id ?? null) : null;
  const built = job.build.result?.steps.some((s) => s.id === region && s.key && factsOf(s.facts, "region"));
  const bodies = useShownBodies().filter((b) => !b.open && !b.reference && !b.view);
  const asked = useRef<string | null>(null);
  const [said, setSaid] = useState("");
  useEffect(() => {
    if (step || params.face || !region || !built || !bodies.length || asked.current === region) return;
    asked.current = region;
    const look = async () => {
      const found = await got(
        api.POST("/api/jobs/{job_id}/mouth", {
          params: { path: { job_id: job.id } },
          body: { region, bodies: Object.fromEntries(bodies.map((b) => [b.id, b.key])) },
        }),
      );
      if (!live()) return;
      if (!found.body || !found.face) return setSaid("No body has material where this hole was scanned.");
      const body = found.body;
      const reach = found.depth
        ? { extent: "blind", depth: { text: length(found.depth, unit), mark: "scan" } }
        : found.until
          ? { extent: "until", until_face: faceRef(body, found.until), bottom: "flat" }
          : { extent: "through" };
      onChange({ face: faceRef(body, found.face), ...reach });
      setSaid(
        found.depth
          ? "Face and depth are as the scan shows the hole."
          : "The face is the one the scanned hole begins at.",
      );
    };
    look().catch(tell);
  }, [step, params.face, region, built, bodies, job, unit, live, onChange, tell]);
  return said ? <p className="quiet">{said}</p> : null;
}
