/** Rows of evidence in the step list: one file per kind, found by themselves. */
import type { ComponentType } from "react";
import type { Job } from "../../api/queries";

export type Evidence = Job["recipe"]["evidence"][number];
export type EvidenceOf<K extends Evidence["kind"]> = Extract<Evidence, { kind: K }>;

/** A kind's row, and its place among the others. */
export interface EvidenceView<K extends Evidence["kind"]> {
  kind: K;
  order: number;
  Row: ComponentType<{ evidence: EvidenceOf<K> }>;
}

interface AnyView {
  kind: string;
  order: number;
  Row: ComponentType<{ evidence: Evidence }>;
}

const found = import.meta.glob<{ view?: AnyView }>("./*Row.tsx", { eager: true });
const VIEWS = Object.values(found)
  .flatMap((m) => m.view ?? [])
  .sort((a, b) => a.order - b.order);

/** What is in the job, in the order of the list, with the row of each. */
export const evidenceRows = (evidence: readonly Evidence[]) =>
  VIEWS.flatMap(({ kind, Row }) => evidence.filter((e) => e.kind === kind).map((e) => ({ evidence: e, Row })));
