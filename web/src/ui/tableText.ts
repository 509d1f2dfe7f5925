/** Tables and lists of facts as text, read from what is shown. No React. */

const said = (e: Element): string => {
  const field = e.querySelector<HTMLInputElement>("input:not([type=checkbox], [type=radio])");
  const stamp = e.querySelector("[role=img][aria-label]")?.getAttribute("aria-label");
  return (field?.value ?? e.textContent ?? "").replace(/\s+/g, " ").trim() || stamp || "";
};

/** Rows of cells: of tables, and of lists of names with their values. Empty columns (of buttons) are left out. */
export function rowsOf(root: Element): string[][] {
  const rows = [...root.querySelectorAll("tr")]
    .filter((tr) => !tr.getAttribute("aria-hidden"))
    .map((tr) => [...tr.querySelectorAll("th, td")].map(said));
  const pairs = [...root.querySelectorAll("dl > div")].map((d) => [...d.querySelectorAll("dt, dd")].map(said));
  const all = [...rows, ...pairs].filter((r) => r.some(Boolean));
  const width = Math.max(0, ...all.map((r) => r.length));
  const used = Array.from({ length: width }, (_, k) => all.some((r) => r[k]));
  return all.map((r) => r.filter((_, k) => used[k]));
}

/** As RFC 4180 has it. */
export const asCsv = (rows: readonly string[][]): string =>
  rows.map((r) => r.map((c) => (/[",\n]/.test(c) ? `"${c.replaceAll('"', '""')}"` : c)).join(",")).join("\r\n") +
  "\r\n";

/** To be pasted into a sheet or a letter. */
export const asText = (rows: readonly string[][]): string => rows.map((r) => r.join("\t")).join("\n");
