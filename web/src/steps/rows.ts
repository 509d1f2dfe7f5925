/** Rows of words and figures. */
export type FactRow = [string, string];

/** The rows that there are. */
export const some = (...rows: (FactRow | null | false | undefined | 0)[]): FactRow[] =>
  rows.filter((r): r is FactRow => Boolean(r));
