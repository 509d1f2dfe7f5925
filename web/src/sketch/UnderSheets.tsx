import { memo } from "react";
import type { Sheet, XY } from "./drawing";
import type { FlatFile } from "./flatFile";
import { pathOf } from "./Strokes";
import "./files.css";
import { layWords, type UnderSheet } from "./underSheets";

interface Props {
  sheets: readonly UnderSheet[];
  /** A file that is looked at, and not put in yet. */
  read: FlatFile | null;
  sheet: Sheet;
}

/** What of files lies under the drawing, in faint ink, and a file that is only looked at, in long strokes. */
export const UnderSheets = memo(function UnderSheets({ sheets, read, sheet }: Props) {
  const looked = read?.act?.under;
  return (
    <g className="under-sheets" data-sheets={sheets.length} data-read={read?.paths.length ?? -1}>
      {sheets.map((s) => (
        <Paper key={s.name} of={s} sheet={sheet} />
      ))}
      {read && (
        <g className="read-file">
          <path d={read.paths.map((p) => pathOf(sheet, p as XY[])).join("")} />
          {looked && <Paper of={looked} sheet={sheet} />}
        </g>
      )}
    </g>
  );
});

function Paper({ of, sheet }: { of: UnderSheet; sheet: Sheet }) {
  return (
    <>
      <path d={(of.lines ?? []).map((p) => pathOf(sheet, p as XY[])).join("")} />
      {(of.texts ?? []).map((t, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: words of one file stay in their order
        <text key={i} fontSize={t.height} transform={layWords(sheet, t.at as XY, t.turn ?? 0)}>
          {t.text}
        </text>
      ))}
    </>
  );
}
