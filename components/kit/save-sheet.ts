import Papa from "papaparse";
import { saveBlob } from "./save-file";

type Cell = { value: string | number; fontWeight?: "bold" } | null;

/** What stands in a cell: a figure as a figure, words as words. CSV guards words that begin like a formula with an apostrophe; here words are never formulas. */
function cellOf(text: string): Cell {
  if (text === "") return null;
  const figure = Number(text);
  if (Number.isFinite(figure) && /^-?\d/.test(text)) return { value: figure };
  return { value: /^'[=+\-@\t\r]/.test(text) ? text.slice(1) : text };
}

/** The cells of a CSV as a spreadsheet has them, its head bold. */
export function sheetCells(csv: string): Cell[][] {
  const { data } = Papa.parse<string[]>(csv, { skipEmptyLines: true });
  return data.map((row, i) =>
    row.map((text) => (i === 0 ? { value: text, fontWeight: "bold" as const } : cellOf(text))),
  );
}

/** Hands a table to the person as a spreadsheet (XLSX), of what goes out as CSV. What writes it is read when it is first asked for. */
export async function saveSheet(csv: string, name: string): Promise<void> {
  const { default: write } = await import("write-excel-file/browser");
  const blob = await write(sheetCells(csv), { stickyRowsCount: 1 }).toBlob();
  saveBlob(blob, name);
}
