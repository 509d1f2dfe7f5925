import { useMutation, useQuery } from "@tanstack/react-query";
import { api, got, type Step } from "../api/client";
import { useBench } from "../job/context";
import type { Shown, XY } from "./drawing";
import type { UnderPicture } from "./pictures";
import { useHand } from "./store";

/** How the pictures under a drawing lie, and the figures in them beside its sizes. */
export function useLaid(step: Step | undefined, shown: Shown | undefined) {
  const { job } = useBench();
  const drawing = shown?.drawing;
  const some = (drawing?.pictures ?? []).length > 0;
  const { data } = useQuery({
    queryKey: ["laid", job.id, job.version, JSON.stringify(drawing)],
    enabled: some && step !== undefined,
    placeholderData: (before: Awaited<ReturnType<typeof ask>> | undefined) => before,
    retry: false,
    gcTime: 60_000,
    queryFn: () => ask(job.id, step!.id, drawing!),
  });
  return some ? data : undefined;
}

const ask = (job: string, step: string, drawing: Shown["drawing"]) =>
  got(api.POST("/api/jobs/{job_id}/drawing/under", { params: { path: { job_id: job } }, body: { step, drawing } }));

/** Changes what lies under a drawing: pictures put there, moved by two places, by their edges, or taken away. */
export function useLaying(step: Step, shown: Shown | undefined) {
  const { job, edit, tell } = useBench();
  const pictures = shown?.drawing.pictures ?? [];
  const keep = (next: UnderPicture[]) => edit({ op: "set-params", step: step.id, params: { pictures: next } });
  const change = (id: string, part: Partial<UnderPicture>) =>
    keep(pictures.map((p) => (p.picture === id ? { ...p, ...part } : p)));
  const lay = useMutation({
    mutationFn: ({ id, spots }: { id: string; spots?: XY[] }) => {
      const under = pictures.find((p) => p.picture === id)!;
      const two = spots && { seen: [spots[0]!, spots[2]!] as [XY, XY], meant: [spots[1]!, spots[3]!] as [XY, XY] };
      return got(
        api.POST("/api/jobs/{job_id}/drawing/lay", {
          params: { path: { job_id: job.id } },
          body: { step: step.id, drawing: shown!.drawing, under, ...two },
        }),
      );
    },
    onSuccess: async (laid) => {
      if (await change(laid.under.picture, laid.under)) useHand.getState().set({ laid });
    },
    onError: tell,
  });
  return {
    pictures,
    busy: lay.isPending,
    put: (under: UnderPicture) => keep([...pictures, under]),
    lift: (id: string) => keep(pictures.filter((p) => p.picture !== id)),
    change,
    lay: lay.mutate,
  };
}
