import { App } from "antd";
import { type ReactNode, useRef } from "react";
import { saveAs } from "./saveAs";
import { asCsv, asText, rowsOf } from "./tableText";

interface Props {
  /** What the figures are: the name of the file they are saved in. */
  name: string;
  children: ReactNode;
}

/** Figures that can be taken along: copied as text, or saved as a table. */
export function Copyable({ name, children }: Props) {
  const { message } = App.useApp();
  const box = useRef<HTMLDivElement>(null);
  const rows = () => (box.current ? rowsOf(box.current) : []);
  const copy = () =>
    navigator.clipboard
      .writeText(asText(rows()))
      .then(() => message.success(`${name} copied`, 2))
      .catch(() => message.error("The browser does not let it be copied: mark the figures and copy them", 5));
  // A mark at the front, so that spreadsheets read Ø and ± as what they are.
  const save = () =>
    saveAs(new Blob(["\ufeff", asCsv(rows())], { type: "text/csv" }), `${name.replaceAll(" ", "-")}.csv`);
  return (
    <div className="copyable">
      <div ref={box}>{children}</div>
      <div className="copyable-ways">
        <button type="button" className="link small" aria-label={`Copy ${name} as text`} onClick={() => void copy()}>
          Copy
        </button>
        <button type="button" className="link small" aria-label={`Save ${name} as CSV`} onClick={save}>
          CSV
        </button>
      </div>
    </div>
  );
}
