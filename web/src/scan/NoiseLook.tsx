import { useQuery } from "@tanstack/react-query";
import { Switch } from "antd";
import { useEffect, useState } from "react";
import { api, got } from "../api/client";
import { useBench } from "../job/context";
import { length } from "../units";
import { unpackF4 } from "../view/buffers";
import { usePointed } from "../view/pointed";

// Patches of so few vertices differ by themselves: what is within this of the scan's own noise is no news.
const STILL = 1.5;

/** How noisy the scan is, and on request where: a scanner sees some places worse than others. */
export function NoiseLook({ facets, noise }: { facets: string; noise: number }) {
  const { job, scanKey, unit } = useBench();
  const set = usePointed((s) => s.set);
  const [shown, setShown] = useState(false);
  const { data, isFetching } = useQuery({
    queryKey: ["noise", job.id, scanKey],
    enabled: shown && Boolean(scanKey),
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () =>
      got(api.GET("/api/jobs/{job_id}/noise", { params: { path: { job_id: job.id }, query: { scan: scanKey } } })),
  });
  useEffect(() => {
    if (shown && data) {
      const values = unpackF4(data.here);
      set({
        noise: { scan: scanKey, facets: Uint32Array.from(values, (_, k) => k), values, still: STILL * data.noise },
      });
    }
    return () => set({ noise: null });
  }, [shown, data, scanKey, set]);
  return (
    <>
      <p className="quiet figures">
        {facets} · noise {length(noise, unit, 1)}
      </p>
      {noise > 0 && (
        <div className="value-line quiet">
          <span>Colour the view by the noise around</span>
          <Switch
            size="small"
            aria-label="Show where the scan is how noisy"
            checked={shown}
            loading={shown && isFetching}
            onChange={setShown}
          />
        </div>
      )}
      {shown && <p className="quiet small">At edges and in narrow places it reads too high.</p>}
    </>
  );
}
