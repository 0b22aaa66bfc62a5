import type { CounterReset, CounterView, MeterEntry, MeterLog, MeterReading } from "../../contracts/meters.ts";
import { instantOf, localDate } from "../../core/dates/wall-time.ts";
import { pocSensing, siteSensors } from "../../core/network/sensing.ts";
import { waterworks } from "../../core/network/waterworks.ts";
import { compareMeter } from "../../core/record/meter-comparison.ts";
import { meteredDays } from "../../core/record/metered-days.ts";
import { firstSourceOf } from "../../core/season/water-cost.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { showQuantity } from "../../core/units/units.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { noteNamed } from "../db/kept-files.ts";
import {
  type Cut,
  dropMeterReading,
  insertMeterReading,
  insertReset,
  meterReadings,
  newestResets,
  type ReadingRow,
  totalsAt,
  totalsNow,
} from "../db/meters.ts";
import { lockSite } from "../db/sites.ts";
import { keepMetered } from "../db/water.ts";
import { mustHaveHappened } from "./not-ahead.ts";
import { loadSite, mustBeWorkedOn, siteOf } from "./sites.ts";
import { noteCut } from "./water.ts";

const COUNTERS = [1, 2] as const;
const LITRES = 1000;
const DAY_MS = 86_400_000;

/** Both counters of every flow sensor, as they stand; they run on whatever else is done. */
export async function countersOf(user: SignedIn, siteId: string): Promise<CounterView[]> {
  const { file } = await loadSite(user, siteId);
  const resets = await newestResets(siteId);
  const [now, then] = await Promise.all([
    totalsNow(siteId),
    totalsAt(
      siteId,
      resets.map((r) => cutOf(file, r.at)),
    ),
  ]);
  return siteSensors(waterworks(file)).flatMap(({ sensor }) =>
    COUNTERS.map((counter): CounterView => {
      const reset = resets.find((r) => r.sensorId === sensor.id && r.counter === counter);
      const before = then.find((t) => t.sensorId === sensor.id && t.at.getTime() === reset?.at.getTime())?.litres ?? 0;
      return {
        sensorId: sensor.id,
        counter,
        litres: Math.max(0, (now.get(sensor.id) ?? 0) - before),
        since: reset?.at.toISOString() ?? null,
        by: reset?.byName ?? null,
        reason: reset?.reason ?? null,
      };
    }),
  );
}

/** Begins a counter anew, from this instant. */
export async function resetCounter(
  user: SignedIn,
  siteId: string,
  reset: CounterReset,
  now: Date,
): Promise<CounterView[]> {
  const { file } = await loadSite(user, siteId);
  mustBeWorkedOn(await siteOf(user, siteId));
  if (!siteSensors(waterworks(file)).some((s) => s.sensor.id === reset.sensorId))
    throw new AppError("badRequest", "This site has no such flow sensor.");
  const of = { organisationId: user.organisationId, siteId };
  // A whole second, as readings come.
  const at = new Date(1000 * Math.floor(now.getTime() / 1000));
  await insertReset(of, { ...reset, at, byName: user.name });
  await noteCut(of, file, at);
  return countersOf(user, siteId);
}

/** What was read of each meter of a site, what the sensors behind it summed meanwhile, and what the difference is. */
export async function meterLogs(user: SignedIn, siteId: string): Promise<MeterLog[]> {
  const { file } = await loadSite(user, siteId);
  const read = await meterReadings(siteId);
  const totals = await totalsAt(
    siteId,
    read.map((r) => cutOf(file, r.at)),
  );
  const byInstant = new Map(totals.map((t) => [`${t.at.getTime()} ${t.sensorId}`, t.litres]));
  return metersOf(file).map(({ meterId, sensorIds }): MeterLog => {
    const mine = read.filter((r) => r.meterId === meterId);
    const sensorsAt = (at: Date): number =>
      sensorIds.reduce((sum, s) => sum + (byInstant.get(`${at.getTime()} ${s}`) ?? 0), 0);
    const readings = mine.map((r, i): MeterReading => {
      const before = mine[i - 1];
      const between =
        before && !r.begins
          ? {
              meterM3: r.m3 - before.m3,
              sensorM3: (sensorsAt(r.at) - sensorsAt(before.at)) / LITRES,
              days: (r.at.getTime() - before.at.getTime()) / DAY_MS,
            }
          : null;
      const { id, m3, begins, note, photoId, byName: by } = r;
      return { id, at: r.at.toISOString(), m3, begins, note, photoId, by, between };
    });
    const intervals = readings.flatMap(({ between }) =>
      between ? [{ meterL: LITRES * between.meterM3, sensorL: LITRES * between.sensorM3, days: between.days }] : [],
    );
    return { meterId, sensorIds, readings: readings.reverse(), verdict: compareMeter(intervals) };
  });
}

/** Keeps a reading; sent twice under its id it is kept once. A meter only counts up: what does not fit is refused with the reading that it does not fit. */
export async function enterMeterReading(
  user: SignedIn,
  siteId: string,
  entry: MeterEntry,
  now: Date,
): Promise<MeterLog[]> {
  const { file } = await loadSite(user, siteId);
  mustBeWorkedOn(await siteOf(user, siteId));
  if (!metersOf(file).some((m) => m.meterId === entry.meterId))
    throw new AppError("badRequest", "This site has no such water meter.");
  const at = new Date(1000 * Math.floor(Date.parse(entry.at) / 1000));
  mustHaveHappened(at, now);
  const of = { organisationId: user.organisationId, siteId };
  await inTransaction(async () => {
    await lockSite(user.organisationId, siteId);
    const mine = (await meterReadings(siteId)).filter((r) => r.meterId === entry.meterId);
    if (mine.some((r) => r.id === entry.id)) return;
    fits(file, mine, { at, m3: entry.m3, begins: entry.begins });
    if (!(await insertMeterReading(of, { ...entry, at: at.toISOString(), byName: user.name })))
      throw new AppError("conflict", "This meter was read at that instant already. Take that reading out first.");
    if (entry.photoId) await noteNamed(siteId, [entry.photoId]);
    await keepUnseen(of, file, entry.meterId);
  });
  await noteCut(of, file, at);
  return meterLogs(user, siteId);
}

export async function takeMeterReadingOut(user: SignedIn, siteId: string, readingId: string): Promise<MeterLog[]> {
  const { file } = await loadSite(user, siteId);
  mustBeWorkedOn(await siteOf(user, siteId));
  await inTransaction(async () => {
    await lockSite(user.organisationId, siteId);
    const meterId = await dropMeterReading(siteId, readingId);
    if (meterId === null) throw new AppError("notFound", "That reading is gone already.");
    await keepUnseen({ organisationId: user.organisationId, siteId }, file, meterId);
  });
  return meterLogs(user, siteId);
}

/** Water of a point of connection that no sensor sees is what its first meter counted, until one does: then it is the sensor's to tell. */
async function keepUnseen(
  of: { organisationId: string; siteId: string },
  file: SiteFile,
  meterId: string,
): Promise<void> {
  const poc = file.pocs.find((p) => p.devices.find((d) => d.kind === "meter")?.id === meterId);
  if (!poc || metersOf(file).find((m) => m.meterId === meterId)?.sensorIds.length !== 0) return;
  const stands = (await meterReadings(of.siteId))
    .filter((r) => r.meterId === meterId)
    .map(({ at, m3, begins }) => ({ at: at.getTime() / 1000, m3, begins }));
  const place = { pocId: poc.id, sourceId: firstSourceOf(file, [poc]) };
  await keepMetered(of, meterId, meteredDays(file.site.timeZone, stands), place);
}

function fits(
  { site }: SiteFile,
  mine: readonly ReadingRow[],
  { at, m3, begins }: Pick<ReadingRow, "at" | "m3" | "begins">,
): void {
  const before = mine.filter((r) => r.at < at).at(-1);
  const after = mine.find((r) => r.at > at);
  const told = (r: ReadingRow): string =>
    `On ${localDate(site.timeZone, r.at.getTime() / 1000)} it read ${showQuantity(r.m3, "bulk", site.units)}`;
  if (before && !begins && m3 < before.m3)
    throw new AppError(
      "badRequest",
      `${told(before)}, which is more. Say that another meter begins here, or correct the figure.`,
    );
  if (after && !after.begins && m3 > after.m3)
    throw new AppError("badRequest", `${told(after)}, which is less. Correct the figure.`);
}

/** The water meters of a site, each with the sensors that see what flows through it. */
function metersOf(file: SiteFile): { meterId: string; sensorIds: string[] }[] {
  const w = waterworks(file);
  return file.pocs.flatMap((poc, p) =>
    poc.devices.flatMap((d) =>
      d.kind === "meter" ? [{ meterId: d.id, sensorIds: pocSensing(w, p).sensors.map((s) => s.id) }] : [],
    ),
  );
}

function cutOf(file: SiteFile, at: Date): Cut {
  const { timeZone } = file.site;
  const t = Math.floor(at.getTime() / 1000);
  const day = localDate(timeZone, t);
  return { at, day, dayS: t - instantOf(timeZone, day, "00:00") };
}
