import type { LogBook, LogFacts } from "../../contracts/log.ts";
import { withLocks } from "../../core/site-file/locks.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { alarmsOfSite, entriesOf, insertAlarms, insertBenchRun, insertEvents } from "../db/alarms.ts";
import { newestRehearsals, openAlarmCount } from "../db/rehearsals.ts";
import { inTransaction } from "../db/connection.ts";
import { gatewayOf } from "../db/field.ts";
import { revisionHeads } from "../db/revisions.ts";
import { lockSite } from "../db/sites.ts";
import { colleagues } from "../db/users.ts";
import { heavy } from "../heavy/pool.ts";
import { alarmsChanged } from "./alarms.ts";
import { controllersThere } from "./all-controllers.ts";
import { marksOfNights } from "./mornings.ts";
import { amendSite, loadSite, siteOf } from "./sites.ts";

export type BenchRequest = { date: string; faults: unknown[]; seed: number; exact: boolean };

const TEN_YEARS_MS = 10 * 366 * 86_400_000;

/**
 * Takes a night of the bench into the log: the server plays it again itself (the same seed gives the same night), keeps its
 * events and alarms, and locks out what the controller locked out, as a revision; on a site whose own controllers are heard it locks nothing.
 */
export async function takeBenchNight(
  user: SignedIn,
  siteId: string,
  request: BenchRequest,
): Promise<{ alarms: number; version: number }> {
  const site = await loadSite(user, siteId);
  // Events lie by month: dates without end would make months without end.
  if (Math.abs(Date.parse(`${request.date}T00:00:00Z`) - Date.now()) > TEN_YEARS_MS)
    throw new AppError("badRequest", `${request.date} is more than ten years from today. Choose a nearer night.`);
  const outcome = await heavy(user.organisationId, "bench", [site.file, request]);
  if (!outcome.ok) throw new AppError("badRequest", outcome.problem);
  const result = outcome.night;
  const locksOf = (subjectId: string, kind: string): string[] =>
    result.lockouts.filter(
      (id) =>
        id === subjectId ||
        ((kind === "mainline" || kind === "burst" || kind === "offSchedule" || kind === "pumpNoFlow") &&
          !site.file.stations.some((s) => s.id === id)),
    );
  const taken = await inTransaction(async () => {
    // The site's row first, before anything that points at it.
    await lockSite(user.organisationId, siteId);
    const benchRunId = await insertBenchRun({
      organisationId: user.organisationId,
      siteId,
      version: site.version,
      night: request.date,
      request,
      totals: result.totals,
      unwatered: result.unwatered,
      userId: user.userId,
    });
    // A rehearsal locks nothing of a site with controllers of its own: what runs there is theirs.
    const real = (await gatewayOf(siteId)) !== null;
    await insertAlarms(
      result.alarms.map((a) => ({
        organisationId: user.organisationId,
        siteId,
        benchRunId,
        at: a.at,
        kind: a.kind,
        subjectId: a.subjectId,
        measuredLpm: a.measuredLpm,
        expectedLpm: a.expectedLpm,
        message: a.message,
        locked: real ? [] : locksOf(a.subjectId, a.kind),
      })),
    );
    await insertEvents(
      result.events.map((e) => ({
        organisationId: user.organisationId,
        siteId: siteId,
        at: e.at,
        type: e.type,
        subjectId: e.subjectId,
        reason: e.reason,
        benchRunId: benchRunId,
      })),
    );
    const saved =
      result.lockouts.length > 0 && !real
        ? await amendSite(user, siteId, `Locked out by the rehearsed night of ${request.date}`, (file) =>
            withLocks(file, result.lockouts, true),
          )
        : site;
    return { alarms: result.alarms.length, version: saved.version };
  });
  if (taken.alarms > 0) await alarmsChanged(user.organisationId);
  return taken;
}

export async function logBook(user: SignedIn, siteId: string): Promise<LogBook> {
  await siteOf(user, siteId);
  const alarms = await alarmsOfSite(user.organisationId, siteId);
  const [entries, revisions, people] = await Promise.all([
    entriesOf(
      user.organisationId,
      alarms.map((a) => a.id),
    ),
    revisionHeads(siteId, 200),
    colleagues(user.organisationId),
  ]);
  return { alarms, entries, revisions, people };
}

/** What the frame shows of the log: open alarms, the newest rehearsals, and what controllers were last known to hold. */
export async function logState(user: SignedIn, siteId: string): Promise<LogFacts> {
  await siteOf(user, siteId);
  const [openAlarms, rehearsals, there, nights] = await Promise.all([
    openAlarmCount(user.organisationId, siteId),
    newestRehearsals(user.organisationId, siteId),
    controllersThere(user, siteId),
    marksOfNights(siteId),
  ]);
  return { openAlarms, ...rehearsals, there, nights };
}
