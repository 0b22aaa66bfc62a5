import type { LogBook, LogFacts } from "../../contracts/log.ts";
import { simulate } from "../../core/bench/simulate.ts";
import { withLocks } from "../../core/site-file/locks.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { alarmsOfSite, entriesOf, insertAlarms, insertBenchRun, insertEvents } from "../db/alarms.ts";
import { newestRehearsals, openAlarmCount } from "../db/rehearsals.ts";
import { inTransaction } from "../db/connection.ts";
import { revisionHeads } from "../db/revisions.ts";
import { colleagues } from "../db/users.ts";
import { alarmsChanged } from "./alarms.ts";
import { amendSite, loadSite } from "./sites.ts";

export type BenchRequest = { date: string; faults: unknown[]; seed: number; exact: boolean };

/**
 * Takes a night of the bench into the log: the server plays it again itself (the same seed gives the same night), keeps its
 * events and alarms, and locks out what the controller locked out, as a revision.
 */
export async function takeBenchNight(
  user: SignedIn,
  siteId: string,
  request: BenchRequest,
): Promise<{ alarms: number; version: number }> {
  const site = await loadSite(user, siteId);
  const outcome = simulate(site.file, request);
  if (!outcome.ok) throw new AppError("badRequest", "problem" in outcome ? outcome.problem.message : "Cancelled.");
  const { result } = outcome;
  const locksOf = (subjectId: string, kind: string): string[] =>
    result.lockouts.filter(
      (id) =>
        id === subjectId ||
        ((kind === "mainline" || kind === "burst" || kind === "offSchedule" || kind === "pumpNoFlow") &&
          !site.file.stations.some((s) => s.id === id)),
    );
  const taken = await inTransaction(async () => {
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
        locked: locksOf(a.subjectId, a.kind),
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
      result.lockouts.length > 0
        ? await amendSite(user, siteId, `Locked out by the night of ${request.date}`, (file) =>
            withLocks(file, result.lockouts, true),
          )
        : site;
    return { alarms: result.alarms.length, version: saved.version };
  });
  if (taken.alarms > 0) await alarmsChanged(user.organisationId);
  return taken;
}

export async function logBook(user: SignedIn, siteId: string): Promise<LogBook> {
  await loadSite(user, siteId);
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

/** What the frame shows of the log: open alarms, and the newest rehearsals. */
export async function logState(user: SignedIn, siteId: string): Promise<LogFacts> {
  await loadSite(user, siteId);
  const [openAlarms, rehearsals] = await Promise.all([
    openAlarmCount(user.organisationId, siteId),
    newestRehearsals(user.organisationId, siteId),
  ]);
  return { openAlarms, ...rehearsals };
}
