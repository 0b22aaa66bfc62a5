import { nth } from "../checked.ts";
import { csvLine } from "../exports/csv.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";
import type { LearnResult } from "./events.ts";
import { csvRows, figureIn, guessColumns } from "./csv-rows.ts";
import { FLOW_UNITS, type FlowUnit, unitInHeading } from "./flow-units.ts";

export type LearnedList = { results: LearnResult[]; refused: { line: number; problem: string }[]; unit: FlowUnit };

/** Learned flows of a site, one line a station, in L/min. */
export function learnedCsv(site: SiteFile): string {
  const lines = site.stations.map((s) => {
    const now = expectedFlow(s);
    return csvLine([
      s.number,
      s.name,
      s.learned?.meanLpm ?? null,
      s.learned?.sdLpm ?? null,
      s.learned?.at ?? null,
      s.learned?.how ?? null,
      s.enteredFlowLpm ?? null,
      s.designFlowLpm ?? null,
      now?.from ?? null,
    ]);
  });
  return `${csvLine(["station", "name", "learned L/min", "sd L/min", "learned at", "how", "entered L/min", "design L/min", "uses"])}\n${lines.join("\n")}\n`;
}

export const LEARNED_COLUMNS = ["station", "name", "flow", "sd", "skip"] as const;
export type LearnedColumn = (typeof LEARNED_COLUMNS)[number];
const GUESSES: [Exclude<LearnedColumn, "skip">, RegExp][] = [
  ["station", /^(station|valve|no\.?|number|#)/i],
  ["name", /name/i],
  ["sd", /^sd|s\.d|spread|deviation/i],
  ["flow", /learned(?! at)|flow|mean|reading|rate|lpm|gpm|l\/|m3|m³/i],
];

/** The headings of a list and what its columns seem to be. */
export function learnedSheet(text: string): {
  headings: string[];
  columns: LearnedColumn[];
  unit: FlowUnit | null;
  rows: string[][];
} {
  const [headings = [], ...rows] = csvRows(text);
  const columns = guessColumns(headings, GUESSES);
  const flow = columns.indexOf("flow");
  return { headings, columns, unit: flow < 0 ? null : unitInHeading(nth(headings, flow)), rows };
}

/**
 * A list of learned flows from elsewhere → proposals for the ledger. Needs a column for the station (number or name) and one for the flow; its unit is the one the
 * heading names, else `unit`. A line that is not right is refused with its number and why.
 *
 * @param columns what each column is; guessed from the headings when absent
 */
export function parseLearnedCsv(
  site: SiteFile,
  text: string,
  unit: FlowUnit,
  columns?: readonly LearnedColumn[],
): { ok: true; list: LearnedList } | { ok: false; problem: string } {
  const sheet = learnedSheet(text);
  const [head, rows] = [sheet.headings, sheet.rows];
  const at = (column: LearnedColumn): number => (columns ?? sheet.columns).indexOf(column);
  const [station, name, flow, sd] = [at("station"), at("name"), at("flow"), at("sd")];
  if (flow < 0 || flow >= head.length || (station < 0 && name < 0))
    return { ok: false, problem: "One column must be the station (or its name) and one the flow; say which." };
  const used = unitInHeading(nth(head, flow)) ?? unit;
  const list: LearnedList = { results: [], refused: [], unit: used };
  for (const [i, row] of rows.entries()) {
    const read = learnedRow(site, row, { station, name, flow, sd }, used);
    if (read === null) continue;
    if ("problem" in read) list.refused.push({ line: i + 2, problem: read.problem });
    else if (list.results.some((r) => r.stationId === read.stationId)) {
      const { number } = site.stations.find((s) => s.id === read.stationId) ?? {};
      list.refused.push({ line: i + 2, problem: `Station ${number} is in the list twice.` });
    } else list.results.push(read);
  }
  return { ok: true, list };
}

type Places = { station: number; name: number; flow: number; sd: number };

/** One line: the station's figure, what is wrong with it, or null where there is no figure. */
function learnedRow(
  site: SiteFile,
  row: readonly string[],
  at: Places,
  unit: FlowUnit,
): LearnedList["results"][number] | { problem: string } | null {
  const of = (place: number): string => (place >= 0 ? (row[place] ?? "") : "");
  const station = stationIn(site, of(at.station >= 0 ? at.station : at.name), of(at.name));
  if ("problem" in station) return station;
  const value = of(at.flow);
  if (value === "") return null;
  const lpm = figureIn(value) * FLOW_UNITS[unit];
  const spread = of(at.sd) === "" ? 0 : figureIn(of(at.sd)) * FLOW_UNITS[unit];
  if (!(lpm > 0) || !(spread >= 0)) return { problem: `“${value}” is not a flow over 0.` };
  return {
    stationId: station.id,
    verdict: "accepted",
    meanLpm: lpm,
    sdLpm: spread,
    samples: 1,
    secondsToSteady: null,
  };
}

/** The station of a number or name; of several with that number the one of that name. */
function stationIn(site: SiteFile, wanted: string, name: string): Station | { problem: string } {
  // A spreadsheet guards what looks like a formula with an apostrophe.
  const plain = wanted.replace(/^'(?=[=+\-@])/, "");
  const found = site.stations.filter((s) => String(s.number) === plain || s.name.toLowerCase() === plain.toLowerCase());
  const named =
    found.length > 1 && name !== "" ? found.filter((s) => s.name.toLowerCase() === name.toLowerCase()) : found;
  const [one, another] = named;
  if (one && !another) return one;
  return {
    problem: one
      ? `“${wanted}” is ${named.length} stations of this site; add their names.`
      : `There is no station “${wanted}” on this site.`,
  };
}
