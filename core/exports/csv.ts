/** One line of cells. Text that a spreadsheet would run as a formula is written with an apostrophe before it. */
export function csvLine(cells: (string | number | null | undefined)[]): string {
  return cells
    .map((value) => {
      const text = value === null || value === undefined ? "" : String(value);
      const safe = /^[=+\-@\t\r]/.test(text) && !Number.isFinite(Number(text)) ? `'${text}` : text;
      return /[",\n\r]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
    })
    .join(",");
}
