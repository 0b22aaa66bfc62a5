import Papa from "papaparse";
import { csvLine } from "../exports/csv.ts";
import { type LibraryItem, parseBody } from "./library-item.ts";

/** Columns of the library's CSV, in order; every quantity has its unit in the name. `points`: pairs written "0:60; 200:95". */
const COLUMNS = [
  "name",
  "kind",
  "note",
  "continuousMaxLpm",
  "safeMaxLpm",
  "lossKpaAt",
  "maxLpm",
  "lossPoints",
  "normally",
  "kv",
  "coil",
  "solenoidMa",
  "curve",
  "minFlowLpm",
  "bestEfficiencyLpm",
  "parallel",
  "relayMa",
  "material",
  "series",
  "nominal",
  "insideDiameterMm",
  "hazenWilliamsC",
  "minorLossK",
  "lossKpa",
  "setKpa",
  "lowKpa",
  "highKpa",
  "output",
  "kGpm",
  "offsetHz",
  "referenceDiameterMm",
  "sensorDiameterMm",
  "litresPerPulse",
  "sheetUnit",
  "minLpm",
  "vMinMs",
  "vMaxMs",
  "persistenceS",
  "response",
] as const;
type Column = (typeof COLUMNS)[number];
const WORDS = new Set<Column>([
  "name",
  "kind",
  "note",
  "normally",
  "coil",
  "material",
  "series",
  "nominal",
  "output",
  "sheetUnit",
  "response",
]);
const POINTS: Partial<Record<Column, string>> = { lossKpaAt: "lossKpa", lossPoints: "lossKpa", curve: "headM" };
const LARGEST = 5000;

export function libraryCsv(items: LibraryItem[]): string {
  return `${COLUMNS.join(",")}\n${items
    .map((item) => {
      const cells = cellsOf(item);
      return csvLine(COLUMNS.map((c) => cells[c]));
    })
    .join("\n")}${items.length > 0 ? "\n" : ""}`;
}

function cellsOf(item: LibraryItem): Partial<Record<Column, string>> {
  const cells: Partial<Record<Column, string>> = { name: item.name, note: item.note };
  const flat: Record<string, unknown> = { ...item.body };
  if (item.body.kind === "flowSensor") {
    const { type, ...rest } = item.body.output;
    const { insideDiameterMm, ...more } = rest as { insideDiameterMm?: number };
    Object.assign(flat, more, {
      output: type,
      ...(insideDiameterMm === undefined ? {} : { sensorDiameterMm: insideDiameterMm }),
    });
  }
  for (const column of COLUMNS) {
    const value = flat[column];
    if (value === undefined || column === "name" || column === "note") continue;
    const key = POINTS[column];
    if (key)
      cells[column] = [value]
        .flat()
        .map((p) => `${(p as { flowLpm: number }).flowLpm}:${(p as Record<string, number>)[key]}`)
        .join("; ");
    else cells[column] = String(value);
  }
  return cells;
}

export type LibraryImport = { items: LibraryItem[]; refused: { line: number; problem: string }[] };

/** CSV → items; each row that is not right is refused with its line and why, the others are taken. */
export function parseLibraryCsv(text: string): LibraryImport {
  const parsed = Papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ""), {
    header: true,
    skipEmptyLines: "greedy",
    transformHeader: (h) => h.trim(),
  });
  const result: LibraryImport = { items: [], refused: [] };
  const unknown = (parsed.meta.fields ?? []).filter((f) => !COLUMNS.includes(f as Column));
  if (!parsed.meta.fields?.includes("name") || !parsed.meta.fields.includes("kind"))
    return {
      items: [],
      refused: [
        {
          line: 1,
          problem: `The first line must name the columns, "name" and "kind" among them. Known columns: ${COLUMNS.join(", ")}.`,
        },
      ],
    };
  if (unknown.length > 0)
    return {
      items: [],
      refused: [
        {
          line: 1,
          problem: `There is no column ${unknown.map((u) => `"${u}"`).join(", ")}. Known columns: ${COLUMNS.join(", ")}.`,
        },
      ],
    };
  const seen = new Set<string>();
  for (const [i, row] of parsed.data.entries()) {
    const line = i + 2;
    if (i >= LARGEST) {
      result.refused.push({ line, problem: `More than ${LARGEST} rows; import the rest as a second file.` });
      break;
    }
    const item = itemOf(row);
    const key = item.ok ? `${item.value.body.kind}:${item.value.name.toLowerCase()}` : "";
    if (!item.ok) result.refused.push({ line, problem: item.problem });
    else if (seen.has(key)) result.refused.push({ line, problem: `"${item.value.name}" is in the file twice.` });
    else {
      seen.add(key);
      result.items.push(item.value);
    }
  }
  return result;
}

function itemOf(row: Record<string, string>): { ok: true; value: LibraryItem } | { ok: false; problem: string } {
  const cell = (c: Column): string => (row[c] ?? "").trim().replace(/^'(?=[=+\-@])/, "");
  const name = cell("name");
  if (name === "" || name.length > 200)
    return { ok: false, problem: "name: every device needs a name of at most 200 characters." };
  const flat: Record<string, unknown> = {};
  for (const column of COLUMNS) {
    const text = cell(column);
    if (text === "" || column === "name" || column === "note") continue;
    const key = POINTS[column];
    if (key) {
      const points = text
        .split(";")
        .filter((p) => p.trim() !== "")
        .map((p) => p.split(":").map(Number));
      if (points.some((p) => p.length !== 2 || p.some((v) => !Number.isFinite(v))))
        return { ok: false, problem: `${column}: write points as flow:figure, like "0:60; 200:95".` };
      const list = points.map(([flowLpm, v]) => ({ flowLpm, [key]: v }));
      flat[column] = column === "lossKpaAt" ? list[0] : list;
    } else if (WORDS.has(column)) flat[column] = text;
    else {
      const value = Number(text);
      if (!Number.isFinite(value)) return { ok: false, problem: `${column}: "${text}" is not a number.` };
      flat[column] = value;
    }
  }
  const parsed = parseBody(flat["kind"] === "flowSensor" ? sensorOf(flat) : flat);
  return parsed.ok ? { ok: true, value: { name, note: cell("note").slice(0, 1000), body: parsed.body } } : parsed;
}

function sensorOf({
  output,
  kGpm,
  offsetHz,
  referenceDiameterMm,
  sensorDiameterMm,
  litresPerPulse,
  sheetUnit,
  ...rest
}: Record<string, unknown>): unknown {
  const some = (values: Record<string, unknown>) =>
    Object.fromEntries(Object.entries(values).filter(([, v]) => v !== undefined));
  return {
    ...rest,
    output:
      output === "pulse"
        ? some({ type: "pulse", litresPerPulse, sheetUnit })
        : some({
            type: "frequency",
            kGpm,
            offsetHz: offsetHz ?? 0,
            referenceDiameterMm,
            insideDiameterMm: sensorDiameterMm,
            sheetUnit,
          }),
  };
}
