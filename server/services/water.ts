import type { OfficeWater, OfficeWaterQuery, WaterQuery, WaterUsed } from "../../contracts/water.ts";
import { addDays, addMonths, type EpochS, instantOf, localDate } from "../../core/dates/wall-time.ts";
import { plan } from "../../core/dispatch/plan.ts";
import { placed } from "../../core/record/placed.ts";
import { GAP_S, type PlannedRun, WaterDay, type WaterDayFigures } from "../../core/record/water-day.ts";
import { type Waterworks, waterworks } from "../../core/network/waterworks.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import type { SignedIn } from "../auth/session.ts";
import { gatewayOf } from "../db/field.ts";
import { cutsAsked } from "../db/meters.ts";
import { readingsOfNight } from "../db/mornings.ts";
import { revisionAt } from "../db/revisions.ts";
import { siteById } from "../db/sites.ts";
import {
  doneWaterDue,
  keepWaterDay,
  noteWaterDue,
  readBefore,
  runningEvents,
  sensorsBetween,
  sourcesBetween,
  takeWaterDue,
  type WaterDue,
  waterBetween,
  waterOfOffice,
} from "../db/water.ts";
import { log } from "../log.ts";
import { loadSite } from "./sites.ts";

/** So many days are taken at once. */
const AT_ONCE = 8;
/** A day of which more is read is rolled up again no oftener, s. */
const EVERY_S = 15 * 60;
/** What is read of a day is noted no oftener, s. */
const NOTED_EVERY_S = 5 * 60;
/** Readings are fetched in parts, so that no day is held whole, s. */
const PART_S = 2 * 3600;
/** Why a station runs that was open when the day began was told up to so long before, s. */
const EARLIER_S = 12 * 3600;

type Of = { organisationId: string; siteId: string };

/** Water of a site as it was rolled up: by day or month, and by cause, source, station or what else is asked. */
export async function waterUsed(user: SignedIn, siteId: string, query: WaterQuery, now: Date): Promise<WaterUsed> {
  const { file } = await loadSite(user, siteId);
  const to = query.to ?? localDate(file.site.timeZone, Math.floor(now.getTime() / 1000));
  const from = query.from ?? `${Number(to.slice(0, 4)) - 2}${to.slice(4, 7)}-01`;
  const asked = { from, to, by: query.by, step: query.step };
  const [rows, sensors, sources] = await Promise.all([
    waterBetween(siteId, asked),
    sensorsBetween(siteId, asked),
    sourcesBetween(siteId, asked),
  ]);
  return { from, to, rows, sensors, sources };
}

/** Water of all sites that somebody sees, by month and by site. */
export async function officeWater(user: SignedIn, query: OfficeWaterQuery, now: Date): Promise<OfficeWater> {
  const to = query.to ?? now.toISOString().slice(0, 7);
  const from = query.from ?? addMonths(`${to}-01`, -11).slice(0, 7);
  const { months, sites } = await waterOfOffice(user.organisationId, `${from}-01`, `${to}-01`);
  return {
    from,
    to,
    months,
    sites: sites.map(({ months: known, budgetM3, ...site }) => {
      // A month of which nothing was read is no month of the budget either.
      const budgets = (known ?? []).map((m) => budgetM3?.[m - 1] ?? null);
      const all = budgets.length > 0 && budgets.every((b) => b !== null);
      return {
        ...site,
        budgetM3: all ? budgets.reduce((sum: number, b) => sum + (b ?? 0), 0) : null,
      };
    }),
  };
}

/** What this process noted lately: a reading a second is not noted a second. */
const noted = new Map<string, number>();

/** Notes the days in which these instants lie, for rolling up; what is read at midnight tells of the day before too. */
export async function noteRead(of: Of, timeZone: string, instants: readonly EpochS[], now: Date): Promise<void> {
  if (instants.length === 0) return;
  const t = now.getTime() / 1000;
  const earliest = instants.reduce((a, b) => Math.min(a, b));
  const latest = instants.reduce((a, b) => Math.max(a, b));
  const fresh: string[] = [];
  const last = localDate(timeZone, latest);
  for (let day = localDate(timeZone, earliest - GAP_S); day <= last; day = addDays(day, 1))
    if (t - (noted.get(`${of.siteId} ${day}`) ?? 0) >= NOTED_EVERY_S) fresh.push(day);
  if (fresh.length === 0) return;
  await noteWaterDue(of, fresh);
  for (const day of fresh) noted.set(`${of.siteId} ${day}`, t);
  if (noted.size > 10_000) for (const [key, at] of noted) if (t - at >= NOTED_EVERY_S) noted.delete(key);
}

/** In a worker, once a minute by one of them all: rolls up the days that are due. One that cannot be stops no other. @returns how many were rolled up */
export async function rollUpWater(now: Date): Promise<number> {
  let made = 0;
  for (;;) {
    const due = await takeWaterDue(AT_ONCE, EVERY_S);
    if (due.length === 0) return made;
    for (const day of due) {
      try {
        await rollUpDay(day, now);
        await doneWaterDue(day, NOTED_EVERY_S);
      } catch (error) {
        log.warn({ err: error, site: day.siteId, day: day.day }, "a day's water was not rolled up");
      }
    }
    made += due.length;
  }
}

/** Has the day in which an instant lies rolled up next, so that what the sensors had read by then is known; of a site without a gateway there is nothing to read. */
export async function noteCut(of: Of, { site }: SiteFile, at: Date): Promise<void> {
  if (await gatewayOf(of.siteId))
    await noteWaterDue(of, [localDate(site.timeZone, Math.floor(at.getTime() / 1000))], true);
}

async function rollUpDay({ organisationId, siteId, day }: WaterDue, now: Date): Promise<void> {
  const row = await siteById(organisationId, siteId);
  const revision = row && (await revisionAt(siteId, row.version));
  if (!revision) return;
  const w = waterworks(revision.siteFile);
  const figures = await dayFromReadings(w, siteId, day, now);
  const whole = { day, part: "day", source: "gateway" } as const;
  await keepWaterDay({ organisationId, siteId }, whole, { ...figures, rows: placed(w.site, figures.rows) });
}

async function dayFromReadings(w: Waterworks, siteId: string, day: string, now: Date): Promise<WaterDayFigures> {
  const { timeZone } = w.site.site;
  const midnight = (date: string): EpochS => instantOf(timeZone, date, "00:00");
  const span = { from: midnight(day), to: midnight(addDays(day, 1)) };
  const instant = (t: EpochS): Date => new Date(1000 * t);
  const cuts = await cutsAsked(siteId, instant(span.from), instant(span.to));
  const made = new WaterDay(w, span, { cuts: cuts.map((c) => c.getTime() / 1000) });
  const begins = span.from - GAP_S;
  const ends = span.to + GAP_S;
  const events = await runningEvents(siteId, instant(begins - EARLIER_S), instant(ends));
  let told = 0;
  let first: EpochS | null = null;
  for (let from = begins; from < ends; from += PART_S) {
    const readings = await readingsOfNight(siteId, instant(from), instant(Math.min(from + PART_S, ends)), 1);
    for (const reading of readings) {
      for (; (events[told]?.at ?? Number.POSITIVE_INFINITY) <= reading.at; told++)
        made.event(events[told] as (typeof events)[number]);
      made.reading(reading);
      first ??= reading.at;
    }
  }
  // What was before the first reading ever is no gap.
  const since = first !== null && first >= begins && !(await readBefore(siteId, instant(first))) ? first : span.from;
  return made.figures({ since, until: now.getTime() / 1000, planned: plannedRuns(w, [addDays(day, -1), day]) });
}

/** What was to run in some nights, by the site as it stands. */
function plannedRuns(w: Waterworks, nights: readonly string[]): PlannedRun[] {
  return nights.flatMap((night) =>
    plan(w.site, night).runs.flatMap((r): PlannedRun[] =>
      r.flowLpm === null
        ? []
        : [
            {
              stationId: r.stationId,
              programId: r.programId,
              from: Date.parse(r.start) / 1000,
              to: Date.parse(r.end) / 1000,
              lpm: r.flowLpm,
            },
          ],
    ),
  );
}
