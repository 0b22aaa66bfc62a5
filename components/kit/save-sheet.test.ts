import { expect, it } from "vitest";
import { sheetCells } from "./save-sheet";

it("a spreadsheet has figures as figures, words as words and never as formulas, and its head bold", () => {
  expect(sheetCells('name,flow,note\n"Lawn, north",12.5,\'=1+1\n12AB,-3,\n\n')).toEqual([
    ["name", "flow", "note"].map((value) => ({ value, fontWeight: "bold" })),
    [{ value: "Lawn, north" }, { value: 12.5 }, { value: "=1+1" }],
    [{ value: "12AB" }, { value: -3 }, null],
  ]);
});
