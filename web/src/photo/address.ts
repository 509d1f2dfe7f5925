import type { Picture } from "../api/client";

/** Where a picture is to be had: as it came in, or straightened, which is another picture whenever it is straightened otherwise. */
export function pictureAddress(job: string, picture: Picture, raw = false): string {
  const shape = [picture.blob, picture.corners, picture.aspect, picture.bend, picture.turn_deg].join();
  return `/api/jobs/${job}/pictures/${picture.id}/${raw ? "photo" : "flat"}?${encodeURIComponent(shape).slice(-80)}`;
}
