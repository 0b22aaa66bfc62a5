import { localDate } from "../calendar/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { neverRuns } from "../dispatch/never-runs.ts";
import { programStarts } from "../dispatch/queue.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";
import { type Finding, finding } from "./finding.ts";

export function checkPrograms(w: Waterworks): Finding[] {
  const { site } = w;
  const found: Finding[] = [];
  const inProgram = new Set(site.programs.flatMap((p) => p.runs.filter((r) => r.minutes > 0).map((r) => r.stationId)));
  site.programs.forEach((p, i) => {
    const path = `programs[${i}]`;
    const noDays = p.days.type === "weekdays" && p.days.days.length === 0;
    if (noDays) found.push(finding("error", "noDays", `${path}.days`, p.id, `${p.name} has no days: it never runs. Choose weekdays, odd or even dates, or an interval.`));
    if (p.starts.length === 0) found.push(finding("warning", "noStarts", `${path}.starts`, p.id, `${p.name} has no start time: it never runs.`));
    if (p.starts.length > 1) found.push(finding("note", "secondStart", `${path}.starts`, p.id, `${p.name} starts ${p.starts.length} times a day (${p.starts.join(", ")}): is the second start meant?`));
    if (p.runs.length === 0) found.push(finding("note", "noRuns", `${path}.runs`, p.id, `${p.name} has no stations.`));
    if (p.from !== undefined && p.until !== undefined && p.until < p.from) found.push(finding("error", "datesReversed", `${path}.until`, p.id, `${p.name} ends before it begins.`));
    p.runs.forEach((r, j) => {
      if (r.minutes === 0) found.push(finding("note", "zeroMinutes", `${path}.runs[${j}].minutes`, p.id, `${p.name}: ${site.stations.find((s) => s.id === r.stationId)?.name ?? r.stationId} has 0 minutes and is out.`));
    });
  });
  const unscheduled = site.stations.filter((s) => !inProgram.has(s.id));
  for (const s of unscheduled) found.push(finding("note", "notInProgram", `stations[${site.stations.indexOf(s)}]`, s.id, `Station ${s.number} ${s.name} is in no program.`));
  for (const [i, c] of site.controllers.entries()) if (c.off) found.push(finding("warning", "controllerOff", `controllers[${i}].off`, c.id, `Controller ${c.name} is off: its programs do not run.`));
  if (site.site.holdUntil === "indefinite") found.push(finding("warning", "holdWithoutEnd", "site.holdUntil", site.site.id, "The site is off with no end set."));
  found.push(...pumpMinimums(w));
  return found;
}

/** Stations that no company brings over their pump's minimum on any night of the programs as they stand. */
function pumpMinimums(w: Waterworks): Finding[] {
  const { site } = w;
  const always: SiteFile = {
    ...site,
    site: { ...site.site, holdUntil: undefined },
    programs: site.programs.map((p) => ({ ...p, from: undefined, until: undefined, days: { type: "interval", everyDays: 1, anchor: "2000-01-01" } })),
  };
  const ww = waterworks(always);
  const date = localDate(site.site.timeZone, Date.UTC(2001, 5, 15) / 1000);
  const starts = programStarts(ww, date);
  const capacity = new CapacityCalendar(ww, date);
  const named = new Set<number>();
  for (const start of starts)
    for (const e of start.entries) if (neverRuns(ww, capacity, starts, e, new Set()) === "pumpMinimum") named.add(e.station);
  return [...named].map((s) => {
    const station = site.stations[s] as Station;
    return finding("warning", "pumpMinimum", `stations[${s}]`, station.id, `Station ${station.number} ${station.name} can never keep its pump over the minimum flow, whatever may run beside it. Raise the number at once, or water it without the pump.`);
  });
}

export function checkPolicy(w: Waterworks): Finding[] {
  const { policy, site } = w.site;
  const found: Finding[] = [];
  if (policy.basis === "graded" && (policy.bands ?? []).length === 0) found.push(finding("warning", "noBands", "policy.bands", site.id, "The limits are graded, but no band is entered; the plain percentages hold."));
  if (policy.persistenceS < 10) found.push(finding("note", "persistenceShort", "policy.persistenceS", site.id, `A persistence of ${policy.persistenceS} s trips on any gust of pressure.`));
  return found;
}
