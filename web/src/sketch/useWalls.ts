import { api, got } from "../api/client";
import type { components } from "../api/schema";
import { useBench } from "../job/context";
import type { Frame } from "./drawing";

type Wall = components["schemas"]["Wall"];

/** What pieces of a sketch can be laid on as they are. */
const STRAIGHT_OR_ROUND = ["line", "circle", "arc"];

/** Edges of the bodies that are made above a sketch, as they are seen on its plane; of none where there is no body. */
export function useWalls(): (step: string, frame: Pick<Frame, "origin" | "u" | "normal">) => Promise<Wall[]> {
  const { job } = useBench();
  return async (step, frame) => {
    const upTo = job.recipe.steps.findIndex((s) => s.id === step);
    const above = upTo < 0 ? job.recipe.steps : job.recipe.steps.slice(0, upTo);
    const last = above.at(-1)?.id;
    const bodies = Object.keys(job.build.result?.steps.find((s) => s.id === last)?.after ?? {});
    const path = { job_id: job.id };
    const { origin, u, normal } = frame;
    const asked = bodies.map((source) =>
      got(
        api.POST("/api/jobs/{job_id}/linkable", {
          params: { path },
          body: { step, source, way: "edge", origin, u_axis: u, normal },
        }),
      ),
    );
    return (await Promise.all(asked))
      .flat()
      .flatMap(({ link, pieces }) =>
        pieces.filter((p) => STRAIGHT_OR_ROUND.includes(p.kind)).map((piece) => ({ link, piece })),
      );
  };
}
