import PgBoss from "pg-boss";
import { databaseUrl } from "../db/connection.ts";
import {
  allOrganisations,
  dropEmptyMonths,
  dropPhotos,
  oldestDays,
  type OrganisationRow,
  rollUpEvents,
  rollUpReadings,
} from "../db/keeping.ts";
import { dropArriving, dropUnnamed } from "../db/kept-files.ts";
import { ensureMonths } from "../db/months.ts";
import { noteUnreadDays } from "../db/water.ts";
import { log } from "../log.ts";
import { compareOld } from "../services/controllers.ts";
import { readBackNightly } from "../services/read-back.ts";
import { workOutAhead } from "../services/nights-ahead.ts";
import { makeRoundsByTheMinute } from "../services/rounds-ahead.ts";
import { reckonNights } from "../services/mornings.ts";
import { rollUpWater } from "../services/water.ts";

const HOUSE_QUEUE = "house";
/** Nights of the new day are worked out before anyone looks. */
const NIGHTS_QUEUE = "nights";
/** Water of days is rolled up beside them, however long it takes. */
const WATER_QUEUE = "water";
const EVERY_MINUTE = "* * * * *";
/** Once an hour, whichever worker takes it; it ends long before the next. */
const HOURLY = "17 * * * *";
/** What of one organisation is left then is gone on with the next time: nobody's years stop another's. */
const ONE_MS = 60_000;
const BY_MONTH = ["reading", "field_instant", "site_event"] as const;
const DAY_MS = 86_400_000;
const MONTHS_AHEAD = 3;
/** A file that was chosen while editing waits so long for the save that names it, days. */
const UNNAMED_DAYS = 7;

/**
 * In a worker: what has to be done now and then by one of all workers. Months are made before anyone needs them, and what an organisation no longer wants kept is
 * rolled up and goes.
 */
export async function keepHouse(): Promise<() => Promise<void>> {
  const boss = new PgBoss({ connectionString: databaseUrl(), max: 2 });
  boss.on("error", (error) => log.warn({ err: error }, "the queue of jobs"));
  const stop = (): Promise<void> => boss.stop({ graceful: false, wait: true, timeout: 2000 });
  try {
    await boss.start();
    await boss.createQueue(HOUSE_QUEUE);
    await boss.schedule(HOUSE_QUEUE, HOURLY);
    await boss.createQueue(NIGHTS_QUEUE);
    await boss.schedule(NIGHTS_QUEUE, EVERY_MINUTE);
    await boss.work(NIGHTS_QUEUE, { pollingIntervalSeconds: 5 }, async () => {
      const now = new Date();
      await makeRoundsByTheMinute(now);
      await compareOld();
      await readBackNightly(now);
      await reckonNights(now);
      await workOutAhead();
    });
    await boss.createQueue(WATER_QUEUE);
    await boss.schedule(WATER_QUEUE, EVERY_MINUTE);
    await boss.work(WATER_QUEUE, { pollingIntervalSeconds: 5 }, async () => {
      await rollUpWater(new Date());
    });
    await boss.work(HOUSE_QUEUE, { pollingIntervalSeconds: 30 }, async () => {
      await tidy(new Date());
    });
    await makeMonths(new Date());
  } catch (error) {
    await stop().catch(() => {});
    throw error;
  }
  return stop;
}

async function makeMonths(now: Date): Promise<void> {
  const months = Array.from({ length: MONTHS_AHEAD + 2 }, (_, i) =>
    new Date(Date.UTC(now.getUTCFullYear(), now.getUTCMonth() + i - 1, 15)).toISOString(),
  );
  for (const table of BY_MONTH) await ensureMonths(table, months);
}

/** One round through the house, as of `now`. */
export async function tidy(now: Date, oneMs = ONE_MS): Promise<void> {
  await makeMonths(now);
  await noteUnreadDays(now);
  for (const organisation of await allOrganisations())
    await letGo(organisation, now, oneMs).catch((error) =>
      log.error({ err: error, organisation: organisation.id }, "what is no longer kept did not go"),
    );
  for (const table of BY_MONTH) {
    const dropped = await dropEmptyMonths(table, new Date(now.getTime() - 62 * DAY_MS));
    if (dropped.length > 0) log.info({ dropped }, "empty months are gone");
  }
}

async function letGo({ id, ...keeps }: OrganisationRow, now: Date, oneMs: number): Promise<void> {
  const end = performance.now() + oneMs;
  /** Whole UTC days go, so that an hour is rolled up once. */
  const before = (days: number): Date => new Date(Math.floor(now.getTime() / DAY_MS - days) * DAY_MS);
  const dayByDay = async (
    table: (typeof BY_MONTH)[number],
    days: number | null,
    rollUp: (siteId: string, day: string, bound: Date) => Promise<void>,
  ): Promise<void> => {
    if (days === null) return;
    const bound = before(days);
    for (;;) {
      const oldest = await oldestDays(table, id, bound);
      if (oldest.length === 0) return;
      for (const { siteId, day } of oldest) {
        if (performance.now() > end) return;
        await rollUp(siteId, day, bound);
      }
    }
  };
  await dayByDay("reading", keeps.readingsDays, rollUpReadings);
  await dayByDay("field_instant", keeps.readingsDays, rollUpReadings);
  await dayByDay("site_event", keeps.eventsDays, rollUpEvents);
  await dropUnnamed(id, before(UNNAMED_DAYS));
  await dropArriving(id, before(UNNAMED_DAYS));
  if (keeps.photosDays !== null) await dropPhotos(id, before(keeps.photosDays));
}
