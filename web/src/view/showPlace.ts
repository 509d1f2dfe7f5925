import type { Vec3 } from "../api/build";
import { usePointed } from "./pointed";
import { goTo } from "./stage";

/** Brings a place to the middle and rings it, seen through whatever lies in front, as long as it is spoken of. */
export function showPlace(point: Vec3) {
  usePointed.getState().set({ marked: { point, size: 4, facets: [] } });
  goTo(point);
}

/** What was ringed there is spoken of no more. */
export function leavePlace(point: Vec3) {
  const { marked, set } = usePointed.getState();
  if (marked?.point.every((x, k) => x === point[k])) set({ marked: null });
}
