import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { api, got, type JobOut, type MarkKind, type Picture } from "../api/client";
import { asJob } from "../api/queries";
import { useBench } from "../job/context";
import { middleOf } from "./marks";
import { type Point, usePhoto } from "./store";

const SNAPS: Partial<Record<MarkKind, "ends" | "circle" | "trace">> = {
  distance: "ends",
  circle: "circle",
  trace: "trace",
};

/** The facts of a picture, and what can be done with it. Everything that changes the job goes through the server once. */
export function usePicture(picture: Picture) {
  const { job, tell } = useBench();
  const client = useQueryClient();
  const path = { job_id: job.id, picture_id: picture.id };
  const { data: facts } = useQuery({
    queryKey: ["picture", job.id, picture.id, job.revision],
    queryFn: () => got(api.GET("/api/jobs/{job_id}/pictures/{picture_id}", { params: { path } })),
    placeholderData: (old) => old,
  });
  const take = useCallback(
    async (answer: Promise<JobOut>) => {
      try {
        client.setQueryData(["job", job.id], asJob(await answer));
        return true;
      } catch (e) {
        tell(e);
        return false;
      }
    },
    [client, job.id, tell],
  );
  const snap = async (
    kind: "corners" | "ends" | "circle" | "trace",
    points: Point[],
    closed = false,
    bends: number[] = [],
  ) => {
    try {
      const body = { kind, points, closed, bends };
      return await got(api.POST("/api/jobs/{job_id}/pictures/{picture_id}/snap", { params: { path }, body }));
    } catch (e) {
      tell(e);
      return null;
    }
  };
  /** A finished mark; its points are put on edges first where that is asked for and possible. */
  const mark = async (
    kind: MarkKind,
    drawn: Point[],
    more: { count?: number; closed?: boolean; bends?: number[] } = {},
  ) => {
    let points = drawn;
    let snapped = false;
    if (kind === "circle" && drawn.length === 3) {
      const middle = middleOf(...(drawn as [Point, Point, Point]));
      if (!middle) return false;
      points = [middle, drawn[0]!];
    }
    const how = SNAPS[kind];
    if (how && usePhoto.getState().snap) {
      const found = await snap(how, points, more.closed, more.bends);
      if (found) {
        points = found.points as Point[];
        snapped = true;
      }
    }
    const body = {
      version: job.version,
      id: crypto.randomUUID(),
      kind,
      name: "",
      points,
      snapped,
      count: 0,
      closed: false,
      bends: [],
      ...more,
    };
    const done = await take(
      got(api.POST("/api/jobs/{job_id}/pictures/{picture_id}/marks", { params: { path }, body })),
    );
    if (done) usePhoto.getState().set({ chosen: body.id });
    return done;
  };
  const known = (which: "scale" | "check", points: Point[], text: string) => {
    const body = {
      version: job.version,
      which,
      a: points[0]!,
      b: points[1]!,
      length: { text, mark: "assumed" as const, note: "" },
    };
    return take(got(api.POST("/api/jobs/{job_id}/pictures/{picture_id}/known", { params: { path }, body })));
  };
  const dimension = (at: Point, name: string, value: number, unit: "mm" | "inch" | "deg", tolerance: number | null) => {
    const body = { version: job.version, name, at, value, unit, tolerance_mm: tolerance };
    return take(got(api.POST("/api/jobs/{job_id}/pictures/{picture_id}/dimension", { params: { path }, body })));
  };
  const pin = (reading: string, at: Point) => {
    const body = { version: job.version, reading, at };
    return take(got(api.POST("/api/jobs/{job_id}/pictures/{picture_id}/pin", { params: { path }, body })));
  };
  const toReading = (id: string, name: string) =>
    take(
      got(
        api.POST("/api/jobs/{job_id}/pictures/{picture_id}/marks/{mark_id}/reading", {
          params: { path: { ...path, mark_id: id } },
          body: { version: job.version, name },
        }),
      ),
    );
  return { facts, mark, known, dimension, pin, toReading, snap };
}
