/** Lengths are mm everywhere inside; these turn them into words in the job's unit. */
export type Unit = "mm" | "cm" | "m" | "inch";

export const MM_PER: Record<Unit, number> = { mm: 1, cm: 10, m: 1000, inch: 25.4 };
const DIGITS: Record<Unit, number> = { mm: 2, cm: 3, m: 5, inch: 4 };

export function length(mm: number, unit: Unit, extra = 0): string {
  return `${(mm / MM_PER[unit]).toFixed(DIGITS[unit] + extra)} ${unit}`;
}

/** A length that the machine has worked out: one digit more than what is typed, or as many as its first figure needs. */
export function workedOut(mm: number, unit: Unit): string {
  const first = mm === 0 ? 0 : -Math.floor(Math.log10(Math.abs(mm / MM_PER[unit])));
  return length(mm, unit, Math.max(1, first - DIGITS[unit]));
}

/** A small figure for a narrow column, without its unit: where fixed digits would say zero, its first digit and power of ten, for a mesh without
 * noise has such. Less than a millionth is what computing leaves. */
export function brief(mm: number, unit: Unit, extra = 0): string {
  const fixed = length(mm, unit, extra).replace(` ${unit}`, "");
  if (mm === 0 || Number(fixed) !== 0) return fixed;
  const value = mm / MM_PER[unit];
  return value < 1e-6 ? "<1e-6" : value.toExponential(0);
}

/** The nearest fraction of an inch, in 64ths at most, and what is left over (mm); none when the nearest is nothing. */
export function inchFraction(mm: number): { text: string; rest: number } | null {
  const parts = Math.round((Math.abs(mm) / 25.4) * 64);
  if (parts === 0) return null;
  const whole = Math.floor(parts / 64);
  let top = parts % 64;
  let bottom = 64;
  while (top && top % 2 === 0) {
    top /= 2;
    bottom /= 2;
  }
  const text = [whole || "", top ? `${top}/${bottom}` : ""].filter(Boolean).join(" ");
  return { text: `${mm < 0 ? "−" : ""}${text} inch`, rest: Math.abs(mm) - (parts / 64) * 25.4 };
}

/** So near to a fraction of an inch it is read out as well: somebody may have meant it. */
const MEANT_MM = 0.05;

/** A size as it is read out: in inches with the fraction that it nearly is, in 32nds at most. */
export function sized(mm: number, unit: Unit): string {
  const fraction = unit === "inch" ? inchFraction(mm) : null;
  const near = fraction !== null && Math.abs(fraction.rest) < MEANT_MM && !fraction.text.includes("/64");
  return near ? `${length(mm, unit)} (${fraction.text.replace(" inch", "")})` : length(mm, unit);
}

/** A text of something's amount with its sign before it; what rounds to nothing has none. */
const withSign = (value: number, amount: string) =>
  `${Number.parseFloat(amount) === 0 ? "" : value < 0 ? "−" : "+"}${amount}`;

export const signed = (mm: number, unit: Unit, extra = 0) => withSign(mm, length(Math.abs(mm), unit, extra));

/** By how many points of a percent a share has changed, without the word for it. */
export const points = (change: number) => withSign(change, (100 * Math.abs(change)).toFixed(1));

export function area(mm2: number, unit: Unit): string {
  const value = mm2 / MM_PER[unit] ** 2;
  const digits = value < 10 ? 3 : value < 1000 ? 1 : 0;
  return `${value.toLocaleString("en", { minimumFractionDigits: digits, maximumFractionDigits: digits })} ${unit}²`;
}

export function volume(mm3: number, unit: Unit): string {
  const value = mm3 / MM_PER[unit] ** 3;
  return `${value.toLocaleString("en", { maximumFractionDigits: value < 100 ? 3 : 0 })} ${unit}³`;
}

export function share(x: number): string {
  return `${(100 * x).toFixed(1)} %`;
}

export function count(n: number): string {
  return n.toLocaleString("en");
}

/** A typed length such as "-6", "1/2 inch" as mm for drawing only; NaN when the server will have to say what is wrong. */
export function roughLength(text: string, unit: Unit): number {
  const match = /^\s*([+-]?)(?:(\d+)\s+(?=\d+\s*\/))?(\d*\.?\d+)\s*(?:\/\s*(\d*\.?\d+))?\s*(mm|cm|m|inch|in)?\s*$/.exec(
    text.replace("−", "-"),
  );
  if (!match) return Number.NaN;
  const [, sign, whole, top, bottom, typedUnit] = match;
  const value = Number(whole ?? 0) + Number(top) / (bottom ? Number(bottom) : 1);
  const named = typedUnit === "in" ? "inch" : (typedUnit as Unit | undefined);
  return (sign === "-" ? -1 : 1) * value * MM_PER[named ?? unit];
}

/** Text for a length that was dragged: short, in the job's unit. */
export function typed(mm: number, unit: Unit): string {
  const value = mm / MM_PER[unit];
  return `${Number(value.toFixed(DIGITS[unit]))} ${unit}`;
}

/** A plain figure one step up or down, in the unit it is written in; none for a formula, which is not stepped. */
export function stepped(text: string, up: boolean, fine: boolean, unit: Unit): string | null {
  const match = /^\s*([+-]?\d*\.?\d+)\s*(mm|cm|m|inch|in|deg|)\s*$/.exec(text.replace("−", "-"));
  if (!match) return null;
  const inches = match[2] === "inch" || match[2] === "in" || (match[2] === "" && unit === "inch");
  const step = (inches ? 0.05 : 1) * (fine ? 0.1 : 1);
  const next = Number((Number(match[1]) + (up ? step : -step)).toFixed(4));
  return `${next}${match[2] ? ` ${match[2]}` : ""}`;
}

/** A span of time in words that are exact enough to wait by. */
export function lasting(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  if (seconds < 90 * 60) return `${Math.round(seconds / 60)} min`;
  return `${(seconds / 3600).toFixed(1)} h`;
}
