/** A DXF or SVG file that is to become a part of a sketch, as the server reads it. No React. */
import { api, got } from "../api/client";
import type { components } from "../api/schema";
import type { Unit } from "../units";

export type FlatFile = components["schemas"]["FlatFileOut"];
type LeftOut = FlatFile["left_out"][number];

/** What somebody chooses of it: as the server's `FlatChoice`; layers: none are all that are switched on. */
export interface FlatChoice {
  unit: Unit | null;
  layers: string[] | null;
  blocks: boolean;
  under: boolean;
  toZero: boolean;
}

export const AS_IT_IS: FlatChoice = { unit: null, layers: null, blocks: false, under: false, toZero: false };

export function readFlat(job: string, file: File, choice: FlatChoice): Promise<FlatFile> {
  const asked = {
    blocks: choice.blocks,
    under: choice.under,
    to_zero: choice.toZero,
    ...(choice.unit && { unit: choice.unit }),
    ...(choice.layers && { layers: JSON.stringify(choice.layers) }),
  };
  return got(
    api.POST("/api/jobs/{job_id}/flat-file", {
      params: { path: { job_id: job } },
      body: { file: file.name, ...asked },
      // The schema knows a file as text: what is sent is the file itself.
      bodySerializer: () => {
        const form = new FormData();
        form.append("file", file);
        for (const [name, value] of Object.entries(asked)) form.append(name, String(value));
        return form;
      },
    }),
  );
}

/** Layers that would come along. */
export const layersTaken = (read: FlatFile, choice: FlatChoice): string[] =>
  choice.layers ?? read.layers.filter((n) => !n.hidden).map((n) => n.name);

export interface Told {
  why: string;
  kind: string;
  count: number;
  /** Where the first of them is, mm in the drawing. */
  at: [number, number] | null;
}

/** What was left out, the same told once with its number. */
export function toldOnce(left: readonly LeftOut[]): Told[] {
  const rows = new Map<string, Told>();
  for (const o of left) {
    const key = `${o.kind} ${o.why}`;
    const row = rows.get(key);
    if (row) row.count += o.count;
    else rows.set(key, { why: o.why, kind: o.kind, count: o.count, at: o.at });
  }
  return [...rows.values()];
}
