import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { api, got } from "../api/client";
import { asJob } from "../api/queries";
import { useBench } from "../job/context";
import { useFocus } from "./useDesk";

const PAUSE_MS = 700;

/** While a reading is in focus, what a caliper has sent becomes its takes. */
export function useCollect() {
  const { job, tell } = useBench();
  const client = useQueryClient();
  const reading = useFocus((s) => s.reading);
  const session = useFocus((s) => s.session);
  useEffect(() => {
    if (!reading) return;
    let live = true;
    let timer = 0;
    let held = 0;
    const ask = async () => {
      const params = { path: { job_id: job.id } };
      try {
        const { waiting = 0 } = await got(api.GET("/api/jobs/{job_id}/caliper", { params }));
        held = waiting;
        if (live && waiting > 0) {
          const version = client.getQueryData<{ version: number }>(["job", job.id])?.version ?? job.version;
          const body = { version, reading, session };
          const out = await got(api.POST("/api/jobs/{job_id}/caliper/collect", { params, body }));
          if (live) client.setQueryData(["job", job.id], asJob(out));
          useFocus.getState().set({ stuck: 0 });
        }
      } catch (e) {
        // What was sent stays in the queue; asking again at once would repeat the same complaint.
        if (live) {
          tell(e);
          useFocus.getState().set({ stuck: held });
        }
        live = false;
      }
      if (live) timer = window.setTimeout(() => void ask(), PAUSE_MS);
    };
    timer = window.setTimeout(() => void ask(), PAUSE_MS);
    return () => {
      live = false;
      window.clearTimeout(timer);
    };
  }, [reading, session, job.id, job.version, client, tell]);
}
