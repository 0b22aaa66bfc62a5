import { z } from "zod";
import type { CounterReset, MeterEntry } from "../../contracts/meters.ts";
import { db } from "./connection.ts";

type Of = { organisationId: string; siteId: string };

/** Begins a counter anew; asked again under its id it is the same. */
export async function insertReset(of: Of, reset: CounterReset & { at: Date; byName: string }): Promise<void> {
  await db()("counter_reset")
    .insert({ ...of, ...reset })
    .onConflict("id")
    .ignore();
}

const resetRow = z.object({
  sensorId: z.string(),
  counter: z.union([z.literal(1), z.literal(2)]),
  at: z.date(),
  reason: z.string(),
  byName: z.string(),
});
export type ResetRow = z.infer<typeof resetRow>;
/** The newest reset of each counter of a site's sensors. */
export async function newestResets(siteId: string): Promise<ResetRow[]> {
  const { rows } = await db().raw(
    `select distinct on (sensor_id, counter) sensor_id, counter, at, reason, by_name from counter_reset
     where site_id = ? order by sensor_id, counter, at desc`,
    [siteId],
  );
  return z.array(resetRow).parse(rows);
}

const readingRow = z.object({
  id: z.string(),
  meterId: z.string(),
  at: z.date(),
  m3: z.number(),
  begins: z.boolean(),
  note: z.string(),
  photoId: z.string().nullable(),
  byName: z.string(),
});
export type ReadingRow = z.infer<typeof readingRow>;
/** What was read of the meters of a site, oldest first. */
export async function meterReadings(siteId: string): Promise<ReadingRow[]> {
  const rows: unknown[] = await db()("meter_reading").where({ siteId }).orderBy("at");
  return z.array(readingRow).parse(rows);
}

/** @returns false where that meter was read at that instant already */
export async function insertMeterReading(of: Of, entry: MeterEntry & { byName: string }): Promise<boolean> {
  const done: unknown[] = await db()("meter_reading")
    .insert({ ...of, ...entry, at: new Date(entry.at) })
    .onConflict()
    .ignore()
    .returning("id");
  return done.length > 0;
}

/** @returns of which meter it was; null where there is no such reading */
export async function dropMeterReading(siteId: string, id: string): Promise<string | null> {
  const rows: { meterId: string }[] = await db()("meter_reading").where({ siteId, id }).delete().returning("meter_id");
  return rows[0]?.meterId ?? null;
}

/** Instants between two at which what the sensors had read by then is asked for. */
export async function cutsAsked(siteId: string, from: Date, to: Date): Promise<Date[]> {
  const { rows } = await db().raw(
    `select at from counter_reset where site_id = :siteId and at >= :from and at < :to
     union select at from meter_reading where site_id = :siteId and at >= :from and at < :to order by at`,
    { siteId, from, to },
  );
  return rows.map((r: { at: Date }) => r.at);
}

/** An instant by the site's own calendar. @property dayS seconds of that day that were over */
export type Cut = { at: Date; day: string; dayS: number };
const total = z.object({ at: z.date(), sensorId: z.string(), litres: z.number() });
/**
 * What each sensor of a site had read in all by some instants, litres. Until the day is rolled up with them, and of a log, the part of what is known of it that was over by
 * then.
 */
export async function totalsAt(siteId: string, cuts: readonly Cut[]): Promise<z.infer<typeof total>[]> {
  if (cuts.length === 0) return [];
  const { rows } = await db().raw(
    `select c.at, s.sensor_id,
       coalesce((select sum(d.litres) from sensor_day d where d.site_id = :siteId and d.sensor_id = s.sensor_id and d.day < c.day), 0)
       + coalesce((select k.litres from water_cut k where k.site_id = :siteId and k.sensor_id = s.sensor_id and k.at = c.at),
           (select sum(d.litres * greatest(0, least(1, case d.part when 'day' then c.day_s / greatest(1, least(86400, extract(epoch from d.made_at - c.at) + c.day_s)) when 'am' then c.day_s / 43200 else (c.day_s - 43200) / 43200 end)))
              from sensor_day d where d.site_id = :siteId and d.sensor_id = s.sensor_id and d.day = c.day), 0) as litres
     from unnest(cast(:ats as timestamptz[]), cast(:days as date[]), cast(:dayS as float8[])) c(at, day, day_s),
       (select distinct sensor_id from sensor_day where site_id = :siteId) s`,
    { siteId, ats: cuts.map((c) => c.at), days: cuts.map((c) => c.day), dayS: cuts.map((c) => c.dayS) },
  );
  return z.array(total).parse(rows);
}

/** What each sensor of a site has read in all, litres. */
export async function totalsNow(siteId: string): Promise<Map<string, number>> {
  const rows: { sensorId: string; litres: number }[] = await db()("sensor_day")
    .where({ siteId })
    .groupBy("sensor_id")
    .select("sensor_id")
    .sum({ litres: "litres" });
  return new Map(rows.map((r) => [r.sensorId, r.litres]));
}
