/** What becomes of a drawing when a fit is taken, and how its whiskers are drawn. No React. */
import { type Act, type Fit, type Kept, mmPerPixel, type Sheet, toScreen, type XY } from "./drawing";

export const WITHIN_PX = 14; // how long a whisker is that is off by what is accepted

/** The fitted drawing, with the round values that were chosen in the place of the fitted ones. */
export function taken(fit: Fit, rounded: readonly string[]): Kept {
  const drawing = fit.drawing!;
  const lengths = { ...drawing.lengths };
  for (const s of fit.sizes)
    if (s.round && rounded.includes(s.name))
      lengths[s.name] = { text: s.round, mark: "intent", note: `rounded from the fitted ${s.value.toFixed(3)} mm` };
  return { ...drawing, lengths };
}

type Alike = NonNullable<Fit["alike"]>[number];

export const alikeKey = (a: Alike): string => `${a.kind} ${a.of.join(" ")}`;

/** What has to be done to make some of the fit's proposals true: sizes that would say it twice only read from then on. */
export function madeAlike(fit: Fit, chosen: readonly string[]): Act[] {
  const wanted = (fit.alike ?? []).filter((a) => chosen.includes(alikeKey(a)));
  const read: Act[] = wanted
    .flatMap((a) => a.twice)
    .map((demand) => ({ act: "change-size", demand, value: null, reference: true, name: null }));
  return [...read, ...wanted.map((a): Act => ({ act: "relate", kind: a.kind, of: a.of, value: null }))];
}

interface Whisker {
  from: XY;
  to: XY;
  above: boolean;
  outside: boolean;
  /** Of what is accepted, 0 to 1: how strong its colour is along the entity. */
  share: number;
}

/** Segments in pixels, longer than they are: by how much the accepted distance becomes visible. */
export function whiskers(fit: Fit, sheet: Sheet): Whisker[] {
  const factor = (WITHIN_PX * mmPerPixel(sheet)) / fit.within;
  return fit.whiskers.map((w) => ({
    from: toScreen(sheet, [w.at[0], w.at[1]]),
    to: toScreen(sheet, [w.at[0] + factor * (w.to[0] - w.at[0]), w.at[1] + factor * (w.to[1] - w.at[1])]),
    above: w.off > 0,
    outside: Math.abs(w.off) > fit.within,
    share: Math.min(Math.abs(w.off) / fit.within, 1),
  }));
}
