import { got, nth } from "../checked.ts";
import { daysWords } from "../dates/day-rules.ts";
import { adjustedSeconds, cycleAndSoak, cyclesOf, weatherPercent } from "../calendar/run-time.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import { monthOf } from "../dates/wall-time.ts";
import { MONTHS } from "../dates/months.ts";
import type { Controller, Program, SiteFile, Station, WaterWindow } from "../site-file/schema.ts";
import { inputToShown, inputUnit } from "../calendar/input-units.ts";
import { startsOn } from "../site-file/starts.ts";
import { csvLine } from "./csv.ts";

export type SetupRow = {
  order: number;
  number: number;
  name: string;
  minutes: number;
  runsS: number;
  cycles: string;
  soakMin: number | null;
  flowLpm: number | null;
};
export type SetupProgram = {
  program: Program;
  days: string;
  windows: string;
  /** What makes its run times on that date of the minutes: each percent that is not 100, and what they come to; "" where they run as they stand. */
  percents: string;
  /** Why it does not water then, or only within dates: not in use, held, from, until; "". */
  holds: string;
  inputs: string;
  rows: SetupRow[];
  totalS: number;
  litres: number;
};
export type SetupSheet = {
  controller: Controller;
  programs: SetupProgram[];
  stations: Station[];
  /** That nothing of the site waters then; "". */
  held: string;
};

/** What someone keys in at one controller, in the controller's order: programs, start times, days, then each station's minutes. Seconds are those of `date`; `write`: how dates are written, else as in the file. */
export function setupSheet(
  site: SiteFile,
  controller: Controller,
  date: string,
  write?: (date: string) => string,
): SetupSheet {
  const byId = new Map(site.stations.map((s) => [s.id, s]));
  return {
    controller,
    held: holdWords(site.site.holdUntil, date, write),
    stations: site.stations.filter((s) => s.controllerId === controller.id).sort((a, b) => a.number - b.number),
    programs: site.programs
      .filter((p) => p.controllerId === controller.id)
      .map((program) => {
        const rows = program.runs.map((r, i): SetupRow => {
          const s = got(byId, r.stationId);
          const { cycle, soakS } = cycleAndSoak(s, program);
          const runsS = adjustedSeconds(site, program, r.minutes, date);
          const cycles = cyclesOf(cycle, runsS);
          return {
            order: i + 1,
            number: s.number,
            name: s.name,
            minutes: r.minutes,
            runsS,
            cycles: cycles.length > 1 ? cycles.map((c) => Number((c / 60).toFixed(2))).join(" + ") : "",
            soakMin: cycles.length > 1 ? soakS / 60 : null,
            flowLpm: expectedFlow(s)?.lpm ?? null,
          };
        });
        return {
          program,
          days: daysWords(program.days, write),
          windows: hoursWords(program),
          percents: percentsWords(site, program, date),
          holds: holdsWords(program, date, write),
          inputs: inputsWords(site, program),
          rows,
          totalS: rows.reduce((sum, r) => sum + r.runsS, 0),
          litres: rows.reduce((sum, r) => sum + ((r.flowLpm ?? 0) * r.runsS) / 60, 0),
        };
      }),
  };
}

function hoursWords({ windows, closedHours = [] }: Program): string {
  const list = (all: WaterWindow[]): string =>
    all.map((w) => `${w.days ? `${w.days.join(" ")} ` : ""}${w.from}–${w.to}`).join("; ");
  const open = windows ? list(windows) : "any hour";
  return closedHours.length > 0 ? `${open}, closed ${list(closedHours)}` : open;
}

/** Each percent that acts on the date, in the order in which they multiply (handbook#6-programs). */
function percentsWords(site: SiteFile, program: Program, date: string): string {
  const month = monthOf(date) - 1;
  const acting = [
    { of: "site", percent: site.site.seasonalPercent ?? 100 },
    { of: "program", percent: program.seasonalPercent ?? 100 },
    { of: nth(MONTHS, month), percent: program.monthlyPercent?.[month] ?? 100 },
    { of: "weather", percent: weatherPercent(site, date) ?? 100 },
  ].filter((a) => a.percent !== 100);
  if (acting.length === 0) return "";
  const all = acting.reduce((product, a) => (product * a.percent) / 100, 100);
  const each = acting.map((a) => `${a.of} ${a.percent} %`).join(" × ");
  return acting.length > 1 ? `${each} = ${Number(all.toFixed(2))} %` : each;
}

const asInFile = (date: string): string => date;

function holdWords(until: Program["holdUntil"], date: string, write = asInFile): string {
  if (until === "indefinite") return "held, with no end";
  return until !== undefined && date < until ? `held, waters again on ${write(until)}` : "";
}

function holdsWords(program: Program, date: string, write = asInFile): string {
  return [
    program.enabled === false ? "not in use" : "",
    holdWords(program.holdUntil, date, write),
    program.from ? `from ${write(program.from)}` : "",
    program.until ? `until ${write(program.until)}` : "",
  ]
    .filter((words) => words !== "")
    .join(", ");
}

function inputsWords(site: SiteFile, program: Program): string {
  return (program.onInputs ?? [])
    .map((r) => {
      const input = site.weatherInputs?.find((w) => w.id === r.inputId);
      const unit = inputUnit(input?.kind ?? "moisture", site.site.units);
      return `${r.does === "start" ? "starts" : "pauses"} while ${input?.name ?? r.inputId} is ${r.when} ${Number(inputToShown(r.limit, unit).toPrecision(6))} ${unit.label}`;
    })
    .join("; ");
}

/** The sheet as CSV: one line a program and station. */
export function setupCsv(sheet: SetupSheet): string {
  const head = csvLine([
    "controller",
    "program",
    "starts",
    "days",
    "window",
    "at once",
    "order",
    "station",
    "name",
    "minutes",
    "runs s",
    "cycles min",
    "soak min",
    "flow L/min",
    "inputs",
    "percent",
    "holds",
  ]);
  const lines = sheet.programs.flatMap(({ program: p, days, windows, inputs, percents, holds, rows }) =>
    rows.map((r) =>
      csvLine([
        sheet.controller.name,
        p.name,
        startsOn(p).join(" "),
        days,
        windows,
        p.maxStationsAtOnce ?? 1,
        r.order,
        r.number,
        r.name,
        r.minutes,
        r.runsS,
        r.cycles,
        r.soakMin,
        r.flowLpm,
        inputs,
        percents,
        [sheet.held && `site ${sheet.held}`, holds].filter((words) => words !== "").join(", "),
      ]),
    ),
  );
  return `${[head, ...lines].join("\n")}\n`;
}
