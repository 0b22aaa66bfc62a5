import { z } from "zod";
import type { By, Step } from "../../contracts/water.ts";
import type { ToldEvent } from "../../core/record/running.ts";
import type { MeteredDay } from "../../core/record/metered-days.ts";
import type { SensorDay, WaterCut, WaterRow } from "../../core/record/water-day.ts";
import { db, inTransaction, planned } from "./connection.ts";

type Of = { organisationId: string; siteId: string };
type Source = "gateway" | "log";
/** A row of water with where it enters, by the file as it stood. */
export type PlacedWater = WaterRow & { sourceId: string | null; pocId: string | null; mainlineId: string | null };

/**
 * Days of a site of which something was read: they are rolled up.
 *
 * @param next before anything else, even if it was rolled up lately
 */
export async function noteWaterDue(of: Of, days: readonly string[], next = false): Promise<void> {
  await db().raw(
    `insert into water_due (organisation_id, site_id, day) select ?, ?, d from unnest(?::date[]) d
     on conflict (site_id, day) do update set noted_at = now()${next ? ", taken_at = null" : ""}`,
    [of.organisationId, of.siteId, [...days]],
  );
}

export type WaterDue = Of & { day: string; takenAt: Date };
/**
 * Takes days that are due, of every organisation in turn, so that no other worker rolls them up meanwhile.
 *
 * @param everyS a day of which more is read is rolled up again no oftener
 */
export async function takeWaterDue(limit: number, everyS: number): Promise<WaterDue[]> {
  const { rows } = await db().raw(
    `update water_due set taken_at = clock_timestamp() where (site_id, day) in (
       select d.site_id, d.day from water_due d join (
         select site_id, day, row_number() over (partition by organisation_id order by day, site_id) as turn from water_due
         where taken_at is null or taken_at < now() - :everyS * interval '1 second' order by turn limit :limit) t
         on t.site_id = d.site_id and t.day = d.day
       where d.taken_at is null or d.taken_at < now() - :everyS * interval '1 second' for update of d skip locked)
     returning organisation_id, site_id, to_char(day, 'YYYY-MM-DD') as day, taken_at`,
    { everyS, limit },
  );
  return rows;
}

/** A day is no longer due once nothing was noted of it for so long before it was taken. */
export async function doneWaterDue({ siteId, day, takenAt }: WaterDue, quietS: number): Promise<void> {
  await db().raw(
    `delete from water_due where site_id = ? and day = ? and noted_at < cast(? as timestamptz) - ? * interval '1 second'`,
    [siteId, day, takenAt, quietS],
  );
}

/** Notes the day before of every site that is heard: where nothing at all was read of it, that is told too. */
export async function noteUnreadDays(now: Date): Promise<void> {
  await db().raw(
    `insert into water_due (organisation_id, site_id, day)
     select g.organisation_id, g.site_id, (cast(:now as timestamptz) at time zone (m.facts ->> 'timeZone'))::date - 1
     from field_gateway g join site_summary m on m.site_id = g.site_id
     where g.heard_at is not null and g.set_at < cast(:now as timestamptz) - interval '2 days'
       and not exists (select 1 from sensor_day s where s.site_id = g.site_id and s.source <> 'meter'
         and s.day = (cast(:now as timestamptz) at time zone (m.facts ->> 'timeZone'))::date - 1)
     on conflict do nothing`,
    { now },
  );
}

const TELL_WHY = ["open", "close", "test", "testEnds", "learnBegins", "learnEnds"];
/** What a site's controllers told of why stations run, oldest first. */
export async function runningEvents(siteId: string, from: Date, to: Date): Promise<ToldEvent[]> {
  const { rows } = await db().raw(
    `select extract(epoch from at)::integer as at, type, subject_id, reason from site_event
     where site_id = ? and at >= ? and at < ? and type = any(?) and bench_run_id is null order by site_event.at, seq`,
    [siteId, from, to, TELL_WHY],
  );
  return rows;
}

/** Whether anything was read of a site before an instant. */
export async function readBefore(siteId: string, at: Date): Promise<boolean> {
  const row: unknown = await db()("field_instant").where({ siteId }).where("at", "<", at).first("seq");
  return row !== undefined;
}

export type Part = "day" | "am" | "pm";
/**
 * Keeps a day as it was rolled up, in the place of what was kept of it; or half a day of a log, which does not replace what a gateway read. A day on which the gateway read nothing
 * does not replace a log, and is replaced by one.
 */
export async function keepWaterDay(
  of: Of,
  { day, part, source }: { day: string; part: Part; source: Source },
  figures: { rows: readonly PlacedWater[]; sensors: readonly SensorDay[]; cuts?: readonly WaterCut[] },
): Promise<boolean> {
  return inTransaction(async () => {
    const there = { siteId: of.siteId, day };
    const other = db()("sensor_day").where({ ...there, source: source === "log" ? "gateway" : "log" });
    const readS = figures.sensors.reduce((sum, s) => sum + s.seconds, 0);
    if (await (source === "log" ? other.where("seconds", ">", 0) : other.whereRaw("?", [readS === 0])).first("day"))
      return false;
    const kept = source === "gateway" ? await readMore({ ...there, part, source }, figures.sensors) : [];
    const parts = source === "log" ? [part, "day"] : ["day", "am", "pm"];
    await db()("water_day").where(there).whereIn("part", parts).whereNotIn("sensor_id", kept).delete();
    await db()("sensor_day").where(there).whereIn("part", parts).whereNotIn("sensor_id", kept).delete();
    const sensors = figures.sensors.filter((s) => !kept.includes(s.sensorId));
    const rows = figures.rows.filter((r) => !kept.includes(r.sensorId));
    if (sensors.length > 0)
      await db()("sensor_day").insert(
        sensors.map(({ gaps, ...s }) => ({
          ...of,
          day,
          part,
          source,
          ...s,
          seconds: Math.round(s.seconds),
          gaps: JSON.stringify(gaps),
        })),
      );
    if (rows.length > 0)
      await db()("water_day").insert(
        rows.map((r) => ({
          ...of,
          day,
          part,
          ...r,
          sourceId: r.sourceId ?? "",
          pocId: r.pocId ?? "",
          mainlineId: r.mainlineId ?? "",
          stationId: r.stationId ?? "",
          programId: r.programId ?? "",
        })),
      );
    if (source === "gateway") {
      await db()("water_cut").where(there).delete();
      const cuts = (figures.cuts ?? []).map((c) => ({ ...of, day, ...c, at: new Date(1000 * c.at) }));
      if (cuts.length > 0) await db()("water_cut").insert(cuts);
    }
    await keepMonth(of, day);
    return true;
  });
}

/** What a meter alone counted, day by day, in the place of all that was kept of it before. @param place where its water enters */
export async function keepMetered(
  of: Of,
  meterId: string,
  days: readonly MeteredDay[],
  place: { sourceId: string | null; pocId: string },
): Promise<void> {
  await inTransaction(async () => {
    const there = { siteId: of.siteId, sensorId: meterId, part: "meter" };
    const before: { day: string }[] = await db()("sensor_day")
      .where(there)
      .select(db().raw("to_char(day, 'YYYY-MM-DD') as day"));
    await db()("sensor_day").where(there).delete();
    await db()("water_day").where(there).delete();
    const read = days.map(({ day, litres, seconds }) => ({ ...of, ...there, day, source: "meter", litres, seconds }));
    if (read.length > 0) await db().batchInsert("sensor_day", read, 1000);
    const where = { sourceId: place.sourceId ?? "", pocId: place.pocId };
    const used = days.filter((d) => d.litres > 0);
    const rows = used.map(({ day, litres }) => ({
      ...of,
      ...there,
      ...where,
      day,
      litres,
      cause: "metered",
      estimated: false,
    }));
    if (rows.length > 0) await db().batchInsert("water_day", rows, 1000);
    const months = new Set([...before, ...days].map((d) => d.day.slice(0, 7)));
    for (const month of months) await keepMonth(of, `${month}-01`);
  });
}

/** The month of a day, summed from its days. One at a time: of two days that are kept at once the second sums both. */
async function keepMonth({ organisationId, siteId }: Of, day: string): Promise<void> {
  const month = `${day.slice(0, 7)}-01`;
  await db().raw("select pg_advisory_xact_lock(hashtextextended(?, 0))", [`water ${siteId} ${month}`]);
  await db().raw(
    `insert into water_month (organisation_id, site_id, month, litres, lost_l, estimated_l)
     select cast(:organisationId as uuid), cast(:siteId as uuid), cast(:month as date),
       coalesce(sum(litres) filter (where not estimated), 0),
       coalesce(sum(litres) filter (where not estimated and cause in ('offSchedule', 'broken')), 0),
       coalesce(sum(litres) filter (where estimated), 0)
     from water_day where site_id = :siteId and day >= cast(:month as date) and day < cast(:month as date) + interval '1 month'
     on conflict (site_id, month) do update set litres = excluded.litres, lost_l = excluded.lost_l, estimated_l = excluded.estimated_l`,
    { organisationId, siteId, month },
  );
}

/** Sensors of which more was read than is now: readings that are no longer kept one by one stay counted, and a sensor that was replaced keeps its part of the day. */
async function readMore(
  there: { siteId: string; day: string; part: Part; source: Source },
  sensors: readonly SensorDay[],
): Promise<string[]> {
  const before: { sensorId: string; seconds: number }[] = await db()("sensor_day")
    .where(there)
    .select("sensor_id", "seconds");
  const now = new Map(sensors.map((s) => [s.sensorId, Math.round(s.seconds)]));
  return before.flatMap((b) => (b.seconds > (now.get(b.sensorId) ?? 0) ? [b.sensorId] : []));
}

const COLUMN: Record<By, string> = {
  cause: "cause",
  source: "source_id",
  poc: "poc_id",
  mainline: "mainline_id",
  program: "program_id",
  station: "station_id",
};
const AT: Record<Step, string> = { day: "to_char(day, 'YYYY-MM-DD')", month: "to_char(day, 'YYYY-MM')" };

const used = z.array(z.object({ at: z.string(), key: z.string(), estimated: z.boolean(), litres: z.number() }));
/** Water of a site between two days, both included, by day or month and by what is asked. */
export async function waterBetween(
  siteId: string,
  { from, to, by, step }: { from: string; to: string; by: By; step: Step },
): Promise<z.infer<typeof used>> {
  const { rows } = await db().raw(
    `select ${AT[step]} as at, ${COLUMN[by]} as key, estimated, sum(litres) as litres from water_day
     where site_id = ? and day between ? and ? group by 1, 2, 3 order by 1, 2, 3`,
    [siteId, from, to],
  );
  return used.parse(rows);
}

const ofSources = z.array(z.object({ at: z.string(), sourceId: z.string(), litres: z.number(), lostL: z.number() }));
/** Water of a site between two days by its sources, what was not read as planned, and what of it was lost. */
export async function sourcesBetween(
  siteId: string,
  { from, to, step }: { from: string; to: string; step: Step },
): Promise<z.infer<typeof ofSources>> {
  const { rows } = await db().raw(
    `select ${AT[step]} as at, source_id, sum(litres) as litres,
       coalesce(sum(litres) filter (where cause in ('offSchedule', 'broken')), 0) as lost_l
     from water_day where site_id = ? and day between ? and ? group by 1, 2 order by 1, 2`,
    [siteId, from, to],
  );
  return ofSources.parse(rows);
}

const read = z.array(
  z.object({ at: z.string(), sensorId: z.string(), litres: z.number(), seconds: z.number(), gapS: z.number() }),
);
/** What each sensor of a site read between two days, both included, and for how long nothing is known of it. */
export async function sensorsBetween(
  siteId: string,
  { from, to, step }: { from: string; to: string; step: Step },
): Promise<z.infer<typeof read>> {
  const { rows } = await db().raw(
    `select ${AT[step]} as at, sensor_id, sum(litres) as litres, sum(seconds)::float8 as seconds,
       sum((select coalesce(sum((g ->> 'to')::float8 - (g ->> 'from')::float8), 0) from jsonb_array_elements(gaps) g)) as gap_s
     from sensor_day where site_id = ? and day between ? and ? group by 1, 2 order by 1, 2`,
    [siteId, from, to],
  );
  return read.parse(rows);
}

type Summed = {
  siteId: string | null;
  month: string | null;
  litres: number | null;
  lostL: number | null;
  estimatedL: number | null;
  beforeL: number | null;
  /** Months of the year of which something is known, each as often as it is; null: none. */
  months: number[] | null;
};
type OfficeSite = { siteId: string; site: string; client: string | null; budgetM3: (number | null)[] | null };
const summed = z.custom<Summed[]>(Array.isArray);
const officeSites = z.custom<OfficeSite[]>(Array.isArray);
export type WaterOfOffice = {
  months: { month: string; litres: number; lostL: number; estimatedL: number }[];
  sites: (OfficeSite & Omit<Summed, "siteId" | "month">)[];
};

/**
 * Water of all sites of an organisation that are worked on, by month, and of each site in all, beside the same months a year before; null: nothing is known of it. Months and
 * sites are summed in one going over.
 *
 * @param from the first day of a month, as `to`
 */
export async function waterOfOffice(organisationId: string, from: string, to: string): Promise<WaterOfOffice> {
  // Each as one document: a thousand rows taken apart one by one cost more than all that is asked about them.
  const [sums, named] = await Promise.all([
    planned(
      `select coalesce(json_agg(q), '[]') as all from (
         select site_id as "siteId", to_char(month, 'YYYY-MM') as month, sum(litres) filter (where now) as litres, sum(lost_l) filter (where now) as "lostL",
           sum(estimated_l) filter (where now) as "estimatedL", sum(litres) filter (where before) as "beforeL",
           array_agg(extract(month from month)::int) filter (where now) as months
         from (select w.site_id, w.month, w.litres, w.lost_l, w.estimated_l, w.month >= cast(:from as date) as now,
             w.month <= cast(:to as date) - interval '1 year' as before
           from water_month w join site s on s.id = w.site_id and s.archived_at is null
           where w.organisation_id = :organisationId and w.month between cast(:from as date) - interval '1 year' and cast(:to as date)) w
         group by grouping sets ((site_id), (month))) q`,
      { organisationId, from, to },
    ),
    planned(
      `select coalesce(json_agg(q), '[]') as all from (
         select s.id as "siteId", s.name as site, c.name as client, m.facts -> 'budgetM3' as "budgetM3"
         from site s left join site_group c on c.id = s.client_id left join site_summary m on m.site_id = s.id
         where s.organisation_id = :organisationId and s.archived_at is null order by lower(s.name)) q`,
      { organisationId },
    ),
  ]);
  const rows = summed.parse(sums.rows[0]?.all);
  const bySite = new Map(rows.flatMap((r) => (r.siteId === null ? [] : [[r.siteId, r] as const])));
  const months = rows.flatMap(({ month, litres, lostL, estimatedL }) =>
    month === null || litres === null ? [] : [{ month, litres, lostL: lostL ?? 0, estimatedL: estimatedL ?? 0 }],
  );
  const sites = officeSites.parse(named.rows[0]?.all).map((site) => {
    const {
      litres = null,
      lostL = null,
      estimatedL = null,
      beforeL = null,
      months: known = null,
    } = bySite.get(site.siteId) ?? {};
    return { ...site, litres, lostL, estimatedL, beforeL, months: known };
  });
  return {
    months: months.sort((a, b) => a.month.localeCompare(b.month)),
    // Those that used most first; of which nothing is known last.
    sites: sites.sort((a, b) => (b.litres ?? -1) - (a.litres ?? -1)),
  };
}
