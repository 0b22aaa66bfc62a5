import { got } from "../checked.ts";
import { daysWords } from "../dates/day-rules.ts";
import { adjustedSeconds, cyclesOf } from "../calendar/run-time.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Controller, Program, SiteFile, Station } from "../site-file/schema.ts";
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
  inputs: string;
  rows: SetupRow[];
  totalS: number;
  litres: number;
};
export type SetupSheet = {
  controller: Controller;
  programs: SetupProgram[];
  stations: Station[];
  seasonalPercent: number;
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
    seasonalPercent: site.site.seasonalPercent ?? 100,
    stations: site.stations.filter((s) => s.controllerId === controller.id).sort((a, b) => a.number - b.number),
    programs: site.programs
      .filter((p) => p.controllerId === controller.id)
      .map((program) => {
        const rows = program.runs.map((r, i): SetupRow => {
          const s = got(byId, r.stationId);
          const runsS = adjustedSeconds(site, program, r.minutes, date);
          const cycles = cyclesOf(s, runsS);
          return {
            order: i + 1,
            number: s.number,
            name: s.name,
            minutes: r.minutes,
            runsS,
            cycles: cycles.length > 1 ? cycles.map((c) => Number((c / 60).toFixed(2))).join(" + ") : "",
            soakMin: cycles.length > 1 ? (s.soakMin ?? 0) : null,
            flowLpm: expectedFlow(s)?.lpm ?? null,
          };
        });
        return {
          program,
          days: daysWords(program.days, write),
          windows: hoursWords(program.windows),
          inputs: inputsWords(site, program),
          rows,
          totalS: rows.reduce((sum, r) => sum + r.runsS, 0),
          litres: rows.reduce((sum, r) => sum + ((r.flowLpm ?? 0) * r.runsS) / 60, 0),
        };
      }),
  };
}

function hoursWords(windows: Program["windows"]): string {
  return windows
    ? windows.map((w) => `${w.days ? `${w.days.join(" ")} ` : ""}${w.from}–${w.to}`).join("; ")
    : "any hour";
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
  ]);
  const lines = sheet.programs.flatMap(({ program: p, days, windows, inputs, rows }) =>
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
      ]),
    ),
  );
  return `${[head, ...lines].join("\n")}\n`;
}
