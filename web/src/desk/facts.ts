/** What the desk says of readings, in words: no React, no requests. */
import type { Reading, ReadingFacts, Take } from "../api/client";
import { length, MM_PER, type Unit } from "../units";

export type { ReadingFacts } from "../api/client";

/** The unit a reading is shown in: its takes' own, the job's when they differ. */
export function ownUnit(facts: ReadingFacts | undefined, unit: Unit): Unit {
  return facts?.unit && facts.unit in MM_PER ? (facts.unit as Unit) : unit;
}

/** Figures without their unit, for columns whose head names it. */
export function bare(mm: number | null | undefined, unit: Unit, extra = 1): string {
  return mm === null || mm === undefined ? "–" : length(mm, unit, extra).replace(` ${unit}`, "");
}

/** "12.03 mm ± 0.004" of a reading's facts. */
export function readingText(facts: ReadingFacts | undefined, jobUnit: Unit): string {
  if (!facts) return "no takes yet";
  const unit = ownUnit(facts, jobUnit);
  const angle = facts.dimension === "angle";
  const mean = angle ? `${facts.mean.toFixed(2)} deg` : length(facts.mean, unit, 1);
  if (facts.tolerance) return `${mean} ± ${bare(facts.tolerance, unit)}`;
  if (facts.U95 === null) return `${mean}, one take`;
  return `${mean} ± ${angle ? facts.U95.toFixed(3) : bare(facts.U95, unit, 2)}`;
}

/** A signed number of uncertainties, and whether it is more than chance explains. */
export function inU(away: number | null): { text: string; far: boolean } {
  if (away === null) return { text: "–", far: false };
  return { text: `${away < 0 ? "−" : "+"}${Math.abs(away).toFixed(1)} u`, far: Math.abs(away) > 2 };
}

/** How a take is written on its chip: in its own unit, as it was read. */
export function takeText(take: Take): string {
  const digits = take.unit === "inch" ? 4 : 2;
  const text = String(take.value);
  const have = text.split(".")[1]?.length ?? 0;
  return `${have < digits ? take.value.toFixed(digits) : text} ${take.unit}`;
}

export const perMm = (unit: string) => MM_PER[unit as Unit] ?? 1;

/** The parts of a reading's uncertainty, largest first: what would have to be better. */
export function parts(facts: ReadingFacts): { what: string; u: number }[] {
  const rows = [
    {
      what: facts.pooled ? `spread of ${facts.pooled} readings with this caliper` : "spread of the takes",
      u: facts.type_a ?? 0,
    },
    { what: "step of the display", u: facts.resolution },
    { what: "error limit", u: facts.limit },
  ];
  return rows.filter((r) => r.u > 0).sort((a, b) => b.u - a.u);
}

/** The next free name of a new reading. */
export function freeName(taken: Iterable<string>): string {
  const used = new Set(taken);
  let n = 1;
  while (used.has(`reading_${n}`)) n++;
  return `reading_${n}`;
}

export const isReading = (e: { kind: string }): e is Reading => e.kind === "reading";
