import type { LearningRequest, Meter, KeptTrace, LearningRun, LearningView } from "../../contracts/learning.ts";
import { instantOf, localIso } from "../../core/dates/wall-time.ts";
import { readingsCsv } from "../../core/learn/readings-sheet.ts";
import { meterLeakLpm } from "../../core/learn/stopwatch.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { type FlowFigureRow, flowFiguresOf, learnedBefore } from "../db/flow-figures.ts";
import {
  insertLearningRun,
  latestLearningRun,
  learningRunById,
  proposals,
  runsWithSets,
  traceOf,
  tracesOf,
  updateLearningRun,
} from "../db/learning.ts";
import { revisionAt } from "../db/revisions.ts";
import { heavy } from "../heavy/pool.ts";
import { tell } from "../db/listen.ts";
import { LEARNING_WAITS } from "../jobs/learner.ts";
import { isUuid } from "../uuid.ts";
import { loadSite, siteOf } from "./sites.ts";
import { stopThere } from "./stop-there.ts";

export async function startLearning(
  user: SignedIn,
  siteId: string,
  request: LearningRequest,
): Promise<{ runId: string }> {
  const site = await loadSite(user, siteId);
  const { date, from, to, avoid, faults, sets } = request;
  const problem = await heavy(user.organisationId, "learningProblem", [
    site.file,
    {
      date,
      from,
      ...(to ? { to } : {}),
      avoid,
      faults,
      sets,
      ...(request.stationIds ? { stationIds: request.stationIds } : {}),
    },
  ]);
  if (problem) throw new AppError("badRequest", problem.message, { path: problem.path });
  const startAt = hourOf(site.file.site.timeZone, request);
  const runId = await onePerSite(() =>
    insertLearningRun({
      organisationId: user.organisationId,
      siteId,
      version: site.version,
      request,
      userId: user.userId,
      startAt,
    }),
  );
  await tell(LEARNING_WAITS, { runId });
  return { runId };
}

/** Goes on with the stations that a stopped run, or one whose window ended, has left: on the same run, what it has is kept. */
export async function goOnLearning(
  user: SignedIn,
  siteId: string,
  runId: string,
  when: Pick<LearningRequest, "date" | "from" | "to" | "avoid" | "pace" | "later">,
): Promise<void> {
  const run = await ownLearningRun(user, siteId, runId);
  const site = await loadSite(user, siteId);
  if (!("pace" in run.request) || run.state === "queued" || run.state === "running")
    throw new AppError("conflict", "Only learning that has stopped can go on.");
  const { to: _, ...asked } = run.request;
  const request = { ...asked, ...when };
  const startAt = hourOf(site.file.site.timeZone, request);
  await onePerSite(() =>
    updateLearningRun(run.id, {
      state: "queued",
      request: JSON.stringify(request),
      startAt: startAt,
      endedAt: null,
      leftIds: [],
      elapsed: 0,
      worker: null,
      beatAt: null,
    }),
  );
  await tell(LEARNING_WAITS, { runId: run.id });
}

export async function onePerSite<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if ((error as { constraint?: string }).constraint === "learning_run_one_a_site")
      throw new AppError(
        "conflict",
        "Learning is already running or waiting on this site. Stop it first, or watch it to its end.",
      );
    throw error;
  }
}

/** When it begins: now, or when the hour comes on the site's own clock. */
function hourOf(timeZone: string, request: Pick<LearningRequest, "date" | "from" | "later">): Date {
  if (!request.later) return new Date();
  const at = new Date(1000 * instantOf(timeZone, request.date, request.from));
  if (at.getTime() <= Date.now())
    throw new AppError(
      "badRequest",
      `${request.date} ${request.from} is past on the site's clock. Choose a later hour, or start now.`,
    );
  return at;
}

export async function latestLearning(user: SignedIn, siteId: string): Promise<LearningView> {
  await siteOf(user, siteId);
  const [run, results, withSets, past] = await Promise.all([
    latestLearningRun(siteId),
    proposals(siteId),
    runsWithSets(siteId),
    learnedBefore(siteId),
  ]);
  return {
    run,
    results,
    sets: withSets.flatMap((r) => r.sets.map((s) => ({ ...s, runId: r.id }))),
    past: Object.fromEntries(past),
  };
}

export async function ownLearningRun(user: SignedIn, siteId: string, runId: string): Promise<LearningRun> {
  const run = isUuid(runId) ? await learningRunById(runId) : null;
  if (!run || run.organisationId !== user.organisationId || run.siteId !== siteId)
    throw new AppError("notFound", "There is no such learning run.");
  return run;
}

/** May be stopped at any time; keeps what it has. */
export async function stopLearning(user: SignedIn, siteId: string, runId: string): Promise<void> {
  const run = await ownLearningRun(user, siteId, runId);
  if (run.state !== "queued" && run.state !== "running") return;
  if (run.how === "controller") await stopThere(user, siteId);
  await updateLearningRun(run.id, { state: "stopped", endedAt: new Date() });
}

/** A meter read before and after the baseline test: sees the leak that hides under the sensor's minimum. */
export async function noteMeter(
  user: SignedIn,
  siteId: string,
  runId: string,
  read: { beforeL: number; afterL: number; minutes: number },
): Promise<Meter> {
  const run = await ownLearningRun(user, siteId, runId);
  const leakLpm = meterLeakLpm(read.beforeL, read.afterL, read.minutes);
  if (leakLpm === null)
    throw new AppError(
      "badRequest",
      "The second reading must not be under the first, and some minutes must lie between them.",
    );
  const meter = { ...read, leakLpm };
  await updateLearningRun(run.id, { meter: JSON.stringify(meter) });
  return meter;
}

export type StationHistory = { figures: FlowFigureRow[] };

export async function stationHistory(user: SignedIn, siteId: string, stationId: string): Promise<StationHistory> {
  await siteOf(user, siteId);
  return { figures: await flowFiguresOf(siteId, stationId) };
}

/** The readings that a station's result rests on. */
export async function keptReadings(
  user: SignedIn,
  siteId: string,
  runId: string,
  stationId: string,
): Promise<KeptTrace> {
  const run = await ownLearningRun(user, siteId, runId);
  const trace = await traceOf(run.id, stationId);
  if (!trace) throw new AppError("notFound", "No readings were kept of that station in this run.");
  return trace;
}

/** All readings of a run as CSV, in the form that can be read back. */
export async function readingsOf(user: SignedIn, siteId: string, runId: string): Promise<string> {
  const run = await ownLearningRun(user, siteId, runId);
  const revision = await revisionAt(run.siteId, run.version);
  const zone = revision?.siteFile.site.timeZone ?? "UTC";
  const number = new Map(revision?.siteFile.stations.map((s) => [s.id, String(s.number)]));
  const rows = (await tracesOf(run.id)).flatMap(({ elementId, trace }) =>
    trace.lpm.map((lpm, i) => ({
      time: localIso(zone, trace.at + i),
      lpm,
      stations: number.get(elementId) ?? elementId,
    })),
  );
  return readingsCsv(rows);
}
