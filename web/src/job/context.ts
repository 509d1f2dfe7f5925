/** What every part of the bench needs to know of the job it shows. */
import { createContext, useContext } from "react";
import type { Edit } from "../api/client";
import type { Job } from "../api/queries";
import type { Palette } from "../theme";
import type { Unit } from "../units";

export interface BenchContext {
  job: Job;
  unit: Unit;
  palette: Palette;
  /** The scan that is worked on, as evidence; what steps refer to. */
  scanId: string;
  /** Its state as it is shown; facet numbers of the view belong to this. */
  scanKey: string;
  /** Where the raw scan lies in that state, 4x4. */
  pose: number[][];
  /** Resolves when the server has taken the edit; a refusal has been shown then, and gives false. */
  edit: (edit: Edit) => Promise<boolean>;
  tell: (error: unknown) => void;
}

export const Bench = createContext<BenchContext | null>(null);

export function useBench(): BenchContext {
  const value = useContext(Bench);
  if (!value) throw new Error("This belongs on the bench.");
  return value;
}
