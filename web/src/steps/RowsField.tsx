import { Button } from "antd";
import { type ReactNode, useState } from "react";
import type { Field } from "../api/kinds";

type Row = Record<string, unknown>;

interface Props {
  field: Field;
  rows: readonly Row[];
  onChange: (rows: Row[]) => void;
  /** A field of one of the rows: the row as it is, its place, and what puts another one there. */
  children: (field: Field, row: Row, at: number, put: (row: Row) => void) => ReactNode;
}

/** What a row begins with: nothing picked, and values as in the row above. */
function begin(field: Field, above: Row | undefined): Row {
  return Object.fromEntries(
    field.fields
      .filter((f) => !f.optional && f.type !== "switch") // what it can do without is left to its default
      .map((f) => [
        f.name,
        f.type === "refs" ? [] : (f.fallback ?? above?.[f.name] ?? { text: f.dimension === "length" ? "2 mm" : "1" }),
      ]),
  );
}

/** Whether something that a row needs is still to be picked. */
export const isOpen = (field: Field, row: Row): boolean =>
  field.fields.some((f) => f.type === "refs" && f.needed && !(row[f.name] as unknown[] | undefined)?.length);

/** Several of the same: each with its own fields, added and removed. A new one counts once what it needs is picked. */
export function RowsField({ field, rows, onChange, children }: Props) {
  const [next, setNext] = useState<Row | null>(null);
  const put = (k: number, row: Row) => {
    if (k < rows.length) return onChange(rows.map((r, i) => (i === k ? row : r)));
    if (isOpen(field, row)) return setNext(row);
    setNext(null);
    onChange([...rows, row]);
  };
  const take = (k: number) => (k < rows.length ? onChange(rows.filter((_, i) => i !== k)) : setNext(null));
  const shown = next ? [...rows, next] : rows;
  return (
    <div className="rows-field">
      {shown.map((row, k) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a row has no name of its own: its place is what it is
        <fieldset key={k} className="rows-row">
          <legend>
            {field.label} {k + 1}
          </legend>
          {field.fields.map((f) => children(f, row, k, (r) => put(k, r)))}
          <Button size="small" type="text" onClick={() => take(k)}>
            Remove these
          </Button>
        </fieldset>
      ))}
      {!next && (
        <Button size="small" title={field.help} onClick={() => setNext(begin(field, rows.at(-1)))}>
          Add {field.label.toLowerCase()}
        </Button>
      )}
    </div>
  );
}
