import { simulate } from "../../core/bench/simulate.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { type AlarmRow, alarmById, alarmsOfSite, insertAlarms, insertBenchRun, insertEvents, updateAlarm } from "../db/alarms.ts";
import { db, inTransaction } from "../db/connection.ts";
import { type RevisionHead, revisionHeads } from "../db/revisions.ts";
import { amendSite, isUuid, loadSite, type LoadedSite } from "./sites.ts";

export type BenchRequest = { date: string; faults: unknown[]; seed: number; exact: boolean };

/**
 * Takes a night of the bench into the log: the server plays it again itself (the same seed gives the same night), keeps its
 * events and alarms, and locks out what the controller locked out, as a revision.
 */
export async function takeBenchNight(user: SignedIn, siteId: string, request: BenchRequest): Promise<{ alarms: number; version: number }> {
  const site = await loadSite(user, siteId);
  const outcome = simulate(site.file, request);
  if (!outcome.ok) throw new AppError("badRequest", "problem" in outcome ? outcome.problem.message : "Cancelled.");
  const { result } = outcome;
  const locksOf = (subjectId: string, kind: string): string[] =>
    result.lockouts.filter((id) => id === subjectId || (kind === "mainline" || kind === "burst" || kind === "offSchedule" || kind === "pumpNoFlow") && !site.file.stations.some((s) => s.id === id));
  return inTransaction(async () => {
    const benchRunId = await insertBenchRun({
      organisationId: user.organisationId, siteId, version: site.version, night: request.date, request, totals: result.totals, unwatered: result.unwatered, userId: user.userId,
    });
    await insertAlarms(result.alarms.map((a) => ({
      organisationId: user.organisationId, siteId, benchRunId, at: a.at, kind: a.kind, subjectId: a.subjectId, measuredLpm: a.measuredLpm,
      expectedLpm: a.expectedLpm, message: a.message, locked: locksOf(a.subjectId, a.kind),
    })));
    await insertEvents(result.events.map((e) => ({ organisation_id: user.organisationId, site_id: siteId, at: e.at, type: e.type, subject_id: e.subjectId, reason: e.reason, bench_run_id: benchRunId })));
    const saved = result.lockouts.length > 0
      ? await amendSite(user, siteId, `Locked out by the night of ${request.date}`, (file) => withLocks(file, result.lockouts, true))
      : site;
    return { alarms: result.alarms.length, version: saved.version };
  });
}

function withLocks(file: SiteFile, ids: string[], locked: boolean): SiteFile {
  const set = <T extends { id: string; lockedOut?: boolean | undefined }>(items: T[]): T[] =>
    items.map((item) => {
      if (!ids.includes(item.id)) return item;
      const { lockedOut: _, ...rest } = item;
      return (locked ? { ...rest, lockedOut: true } : rest) as T;
    });
  return { ...file, stations: set(file.stations), mainlines: set(file.mainlines), pocs: set(file.pocs) };
}

export type LogBook = { alarms: AlarmRow[]; revisions: RevisionHead[] };

export async function logBook(user: SignedIn, siteId: string): Promise<LogBook> {
  await loadSite(user, siteId);
  return { alarms: await alarmsOfSite(user.organisationId, siteId), revisions: await revisionHeads(siteId, 200) };
}

export type AlarmAction = { action: "acknowledge" } | { action: "cause"; cause: string } | { action: "clear"; cause: string; repaired?: boolean };

/**
 * Acknowledge, give a cause, clear. Clearing needs a cause and frees what the alarm had locked, unless another open alarm still holds it. A station that was
 * repaired is marked so: what was learned of it before is stale.
 */
export async function actOnAlarm(user: SignedIn, siteId: string, alarmId: string, act: AlarmAction): Promise<{ alarm: AlarmRow; site: LoadedSite }> {
  return inTransaction(async () => {
    const alarm = isUuid(alarmId) && isUuid(siteId) ? await alarmById(user.organisationId, siteId, alarmId) : null;
    if (!alarm) throw new AppError("notFound", "There is no such alarm on this site.");
    if (alarm.state === "cleared") throw new AppError("conflict", `This alarm was cleared by ${alarm.cleared_by_name ?? "someone"} already.`);
    let site = await loadSite(user, siteId);
    const now = new Date();
    if (act.action === "acknowledge") await updateAlarm(alarm.id, { state: "acknowledged", acknowledged_by: user.userId, acknowledged_at: now });
    else if (act.action === "cause") await updateAlarm(alarm.id, { cause: act.cause });
    else {
      await updateAlarm(alarm.id, {
        state: "cleared", cause: act.cause, cleared_by: user.userId, cleared_at: now,
        ...(alarm.acknowledged_at ? {} : { acknowledged_by: user.userId, acknowledged_at: now }),
      });
      const others = (await alarmsOfSite(user.organisationId, siteId)).filter((a) => a.id !== alarm.id && a.state !== "cleared").flatMap((a) => a.locked);
      const freed = alarm.locked.filter((id) => !others.includes(id));
      const repaired = act.repaired === true && site.file.stations.some((s) => s.id === alarm.subject_id);
      if (freed.length > 0 || repaired)
        site = await amendSite(user, siteId, `Alarm cleared: ${act.cause}`, (file) => {
          const free = withLocks(file, freed, false);
          return repaired ? { ...free, stations: free.stations.map((s) => (s.id === alarm.subject_id ? { ...s, repairedAt: now.toISOString() } : s)) } : free;
        });
    }
    return { alarm: (await alarmById(user.organisationId, siteId, alarm.id)) as AlarmRow, site };
  });
}

/** What the frame shows of the log: open alarms, and the revision on which a night was last rehearsed. */
export async function logState(user: SignedIn, siteId: string): Promise<{ openAlarms: number; benchVersion: number | null }> {
  const [alarms, bench] = await Promise.all([
    db()("alarm").where({ organisation_id: user.organisationId, site_id: siteId }).whereNot({ state: "cleared" }).count({ n: "*" }).first(),
    db()("bench_run").where({ organisation_id: user.organisationId, site_id: siteId }).max({ version: "version" }).first(),
  ]);
  return { openAlarms: Number(alarms?.n ?? 0), benchVersion: bench?.version ?? null };
}
