import { got, nth } from "../checked.ts";
import { startsOn } from "../site-file/starts.ts";
import { ruleOf } from "../dates/day-rules.ts";
import { weekMinutes } from "../calendar/week-grid.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { neverRuns } from "../dispatch/never-runs.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { datesMeet, isEstablishmentStep, unfinishedTapers } from "../season/establishment.ts";
import { monthBudgetM3, monthWaterM3 } from "../season/month-water.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";
import { everyNight } from "./every-night.ts";
import { type Finding, finding } from "./finding.ts";

/** What is wrong or doubtful in each program as it is written. */
export function programsAsWritten(site: SiteFile): Finding[] {
  const found: Finding[] = [];
  site.programs.forEach((p, i) => {
    const path = `programs[${i}]`;
    const noDays = ruleOf(p.days).never(p.days);
    if (noDays)
      found.push(
        finding(
          "error",
          "noDays",
          `${path}.days`,
          p.id,
          `${p.name} has no days: it never runs. Choose days on which it runs.`,
        ),
      );
    const starts = startsOn(p);
    if (starts.length === 0 && !p.onInputs?.some((r) => r.does === "start"))
      found.push(finding("warning", "noStarts", `${path}.starts`, p.id, `${p.name} has no start time: it never runs.`));
    if (starts.length > 1 && !isEstablishmentStep(p))
      found.push(
        finding(
          "note",
          "secondStart",
          `${path}.starts`,
          p.id,
          `${p.name} starts ${starts.length} times a day (${starts.join(", ")}): is the second start meant?`,
        ),
      );
    if (p.runs.length === 0) found.push(finding("note", "noRuns", `${path}.runs`, p.id, `${p.name} has no stations.`));
    if (p.from !== undefined && p.until !== undefined && p.until < p.from)
      found.push(finding("error", "datesReversed", `${path}.until`, p.id, `${p.name} ends before it begins.`));
    p.runs.forEach((r, j) => {
      if (r.minutes === 0)
        found.push(
          finding(
            "note",
            "zeroMinutes",
            `${path}.runs[${j}].minutes`,
            p.id,
            `${p.name}: ${site.stations.find((s) => s.id === r.stationId)?.name ?? r.stationId} has 0 minutes and is out.`,
          ),
        );
    });
  });
  return found;
}

export function checkPrograms(w: Waterworks): Finding[] {
  const { site } = w;
  const found = programsAsWritten(site);
  const inProgram = new Set(site.programs.flatMap((p) => p.runs.filter((r) => r.minutes > 0).map((r) => r.stationId)));
  found.push(...programHours(site), ...programShares(w));
  for (const { program, stationIds } of unfinishedTapers(site))
    found.push(
      finding(
        "warning",
        "taperUnfinished",
        `programs[${site.programs.indexOf(program)}].until`,
        program.id,
        `${program.name} ends on ${program.until}, and no program waters ${stationIds.length} of its station${stationIds.length === 1 ? "" : "s"} after it. Write the next step, or the usual program.`,
      ),
    );
  const unscheduled = site.stations.filter((s) => !inProgram.has(s.id));
  for (const s of unscheduled)
    found.push(
      finding(
        "note",
        "notInProgram",
        `stations[${site.stations.indexOf(s)}]`,
        s.id,
        `Station ${s.number} ${s.name} is in no program.`,
      ),
    );
  for (const [i, c] of site.controllers.entries())
    if (c.off)
      found.push(
        finding(
          "warning",
          "controllerOff",
          `controllers[${i}].off`,
          c.id,
          `Controller ${c.name} is off: its programs do not run.`,
        ),
      );
  found.push(...checkHolds(site));
  if (site.site.weatherPercentBypassed === true && (site.site.weatherPercents ?? []).length > 0)
    found.push(
      finding(
        "warning",
        "inputBypassed",
        "site.weatherPercentBypassed",
        site.site.id,
        "The daily percent from the weather is bypassed: every night runs as if there were none.",
      ),
    );
  for (const [i, input] of (site.weatherInputs ?? []).entries())
    if (input.bypassed === true)
      found.push(
        finding(
          "warning",
          "inputBypassed",
          `weatherInputs[${i}].bypassed`,
          input.id,
          `${input.name} is bypassed: nothing stops when it says stop. Take the bypass out when the work is done.`,
        ),
      );
  found.push(...pumpMinimums(w));
  return found;
}

/** Holds that nobody ends. Nothing else that is found of a site rests on a hold: what is wrong is so on any night. */
export function checkHolds(site: SiteFile): Finding[] {
  const found: Finding[] = [];
  if (site.site.holdUntil === "indefinite")
    found.push(
      finding("warning", "holdWithoutEnd", "site.holdUntil", site.site.id, "The site is off with no end set."),
    );
  for (const [i, p] of site.programs.entries())
    if (p.holdUntil === "indefinite" && p.enabled !== false)
      found.push(
        finding(
          "warning",
          "holdWithoutEnd",
          `programs[${i}].holdUntil`,
          p.id,
          `${p.name} is held with no end set. Give the day it waters again.`,
        ),
      );
  return found;
}

const hour = (hhmm: string): number => Number(hhmm.slice(0, 2)) + Number(hhmm.slice(3)) / 60;
const byDay = (hhmm: string): boolean => hour(hhmm) >= 10 && hour(hhmm) < 16;

/** Starts at noon or in the wrong half of the day, and programs that no window lets run. */
function programHours(site: SiteFile): Finding[] {
  const found: Finding[] = [];
  site.programs.forEach((p, i) => {
    if (p.enabled === false || p.runs.length === 0) return;
    const path = `programs[${i}]`;
    const sprayed = p.runs.some((r) =>
      ["spray", "rotor"].includes(site.stations.find((s) => s.id === r.stationId)?.emitter ?? ""),
    );
    const others = site.programs
      .filter((q) => q !== p && q.enabled !== false && q.runs.length > 0 && !isEstablishmentStep(q))
      .flatMap(startsOn);
    // Seed must not dry: an establishment waters by day on purpose.
    for (const start of isEstablishmentStep(p) ? [] : startsOn(p).filter(byDay)) {
      const other = `${String((Number(start.slice(0, 2)) + 12) % 24).padStart(2, "0")}${start.slice(2)}`;
      if (others.length > 0 && others.every((s) => !byDay(s)))
        found.push(
          finding(
            "warning",
            "dayForNight",
            `${path}.starts`,
            p.id,
            `${p.name} starts at ${start}, all other programs by night: is ${other} meant?`,
          ),
        );
      else if (sprayed)
        found.push(
          finding(
            "warning",
            "watersAtNoon",
            `${path}.starts`,
            p.id,
            `${p.name} starts at ${start} with sprays or rotors: wind and sun take much of it. Water by night.`,
          ),
        );
    }
    if (!p.windows && !p.closedHours) return;
    const closed = weekMinutes(p.closedHours ?? []);
    if (weekMinutes(p.windows ?? [{ from: "00:00", to: "00:00" }]).every((open, n) => !open || closed[n] === 1))
      found.push(
        finding(
          "error",
          "windowNeverOpen",
          `${path}.windows`,
          p.id,
          `${p.name}: its windows and closed hours leave no hour of the week; it can never water. Open a window.`,
        ),
      );
  });
  return found;
}

/** Stations in two programs, numbers at once that leave capacity unused, and more water than the budgets. */
function programShares(w: Waterworks): Finding[] {
  const { site } = w;
  const found: Finding[] = [];
  const active = site.programs.filter((p) => p.enabled !== false);
  site.stations.forEach((s, i) => {
    const all = active.filter((p) => p.runs.some((r) => r.stationId === s.id && r.minutes > 0));
    // Programs that follow each other by their dates are no two at once.
    const mine = all.filter((p) => all.some((q) => q !== p && datesMeet(p, q)));
    if (mine.length > 1)
      found.push(
        finding(
          "note",
          "inTwoPrograms",
          `stations[${i}]`,
          s.id,
          `Station ${s.number} ${s.name} is in ${mine.map((p) => p.name).join(" and ")}: is both meant?`,
        ),
      );
  });
  const bound = [...w.pocCeiling, ...w.mainlineCeiling].some((c) => Number.isFinite(c));
  const calendar = new CapacityCalendar(w, "2000-01-01");
  site.programs.forEach((p, i) => {
    if (!bound || p.enabled === false || (p.maxStationsAtOnce ?? 1) > 1 || p.runs.length < 2) return;
    const flows = p.runs
      .flatMap((r) => {
        const n = got(w.stationIndex, r.stationId);
        const lpm = expectedFlow(nth(site.stations, n))?.lpm;
        return lpm === undefined ? [] : [{ m: nth(w.stationMainline, n), lpm, c: nth(w.stationController, n) }];
      })
      .sort((a, b) => a.lpm - b.lpm);
    const [a, b] = flows;
    if (!a || !b) return;
    const both = calendar.assignment(nth(calendar.groupOfController, a.c), null);
    if (both.tryAdd(a.m, a.lpm) && both.tryAdd(b.m, b.lpm))
      found.push(
        finding(
          "note",
          "atOnceIsOne",
          `programs[${i}].maxStationsAtOnce`,
          p.id,
          `${p.name} runs one station at a time, though the ceilings carry two and more. Raise its number at once to end earlier.`,
        ),
      );
  });
  for (let month = 0; month < 12; month++) {
    const most = monthBudgetM3(site, month);
    if (most === null || most <= 0) continue;
    const m3 = monthWaterM3(site, month);
    if (m3 > most) {
      found.push(
        finding(
          "warning",
          "overBudget",
          "programs",
          site.site.id,
          `In ${new Date(Date.UTC(2025, month, 1)).toLocaleString("en", { month: "long", timeZone: "UTC" })} the programs take about ${showQuantity(m3, "bulk", site.site.units, 0)}; the budgets of the sources give ${showQuantity(most, "bulk", site.site.units, 0)}.`,
        ),
      );
      break;
    }
  }
  return found;
}

const NONE: ReadonlySet<number> = new Set();

/** Stations that no company brings over their pump's minimum on any night of the programs as they stand. */
function pumpMinimums(w: Waterworks): Finding[] {
  const { site } = w;
  if (!site.pocs.some((p) => p.devices.some((d) => d.kind === "pump" && d.minFlowLpm))) return [];
  const { w: ww, date, starts } = everyNight(site);
  const capacity = new CapacityCalendar(ww, date);
  const named = new Set<number>();
  for (const start of starts)
    for (const e of start.entries)
      if (!named.has(e.station) && neverRuns(ww, capacity, starts, e, NONE) === "pumpMinimum") named.add(e.station);
  return [...named].map((s) => {
    const station = nth(site.stations, s);
    return finding(
      "warning",
      "pumpMinimum",
      `stations[${s}]`,
      station.id,
      `Station ${station.number} ${station.name} can never keep its pump over the minimum flow, whatever may run beside it. Raise the number at once, or water it without the pump.`,
    );
  });
}
