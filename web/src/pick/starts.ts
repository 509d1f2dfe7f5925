/** From a selection to the kinds of steps that it begins: as the kinds declare it. No React. */
import type { Field, Kind } from "../api/kinds";

export interface Selected {
  /** Kind of reference of what is selected: "edge", "face" … */
  takes: string;
  /** Shape of each: a curve's or a surface's kind. */
  shapes: string[];
  refs: unknown[];
}

/** Parameters as a form begins with: what each field falls back to. */
export function plainParams(fields: readonly Field[]): Record<string, unknown> {
  return Object.fromEntries(
    fields.filter((f) => f.fallback !== null && f.fallback !== undefined).map((f) => [f.name, f.fallback]),
  );
}

/** A step that could be begun. title: what it makes of the selection · seldom: it stands under *More …*. */
export interface Begun {
  kind: Kind;
  title: string;
  params: Record<string, unknown>;
  seldom: boolean;
}

/** Kinds that the selection begins, with the parameters of a step of each. */
export function begun(kinds: Record<string, Kind>, selected: Selected): Begun[] {
  const found = Object.values(kinds).flatMap((kind) => {
    const start = kind.starts.find(
      (s) =>
        s.takes === selected.takes &&
        selected.refs.length >= s.least &&
        selected.refs.length <= s.most &&
        (s.shapes.length === 0 || selected.shapes.every((shape) => s.shapes.includes(shape))),
    );
    const field = kind.fields.find((f) => f.name === start?.into);
    if (!start || !field) return [];
    const value = field.type === "refs" ? selected.refs : selected.refs[0];
    const other = start.second ? { [start.second]: selected.refs[1] } : {};
    return [
      {
        kind,
        title: start.title || kind.title,
        seldom: start.seldom,
        particular: start.shapes.length > 0,
        params: { ...plainParams(kind.fields), ...start.also, [start.into]: value, ...other },
      },
    ];
  });
  // What works on the body comes before what is only made from it, and what asks for just this shape before what takes any.
  const rank = (b: (typeof found)[number]) => 2 * Number(b.kind.makes === "body") + Number(b.particular);
  return found
    .sort((a, b) => rank(b) - rank(a))
    .map(({ kind, title, params, seldom }) => ({ kind, title, params, seldom }));
}
