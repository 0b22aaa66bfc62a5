import { beginLearning, type LearnEvent, type LearnResult } from "../../core/learn/learn.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import {
  insertLearningResult, insertLearningRun, latestLearningRun, type LearningRequest, type LearningResultRow, type LearningRun, learningResults,
  learningRunById, markTaken, updateLearningRun,
} from "../db/learning.ts";
import { revisionAt } from "../db/revisions.ts";
import { LEARNING_QUEUE, queue } from "../jobs/queue.ts";
import { tell } from "../live/channel.ts";
import { log } from "../log.ts";
import { amendSite, isUuid, loadSite, type LoadedSite } from "./sites.ts";
import { inTransaction } from "../db/connection.ts";

/** What a watcher is sent: batches of samples, and whatever else happens. */
export type LearningMessage =
  | { type: "samples"; stationId: string | null; rows: [at: number, lpm: number, settling: 0 | 1][] }
  | { type: "opens"; stationId: string }
  | { type: "result"; result: LearnResult }
  | { type: "baseline"; baseline: Extract<LearnEvent, { type: "baseline" }>["baseline"] }
  | { type: "refused"; stationId: string; reasons: string[] }
  | { type: "ended"; state: "done" | "stopped" | "failed"; seconds: number; litres: number; end: true };

export type LearningView = { run: LearningRun | null; results: LearningResultRow[] };

export async function startLearning(user: SignedIn, siteId: string, request: LearningRequest): Promise<{ runId: string }> {
  const site = await loadSite(user, siteId);
  const begun = beginLearning(site.file, { date: request.date, faults: request.faults, ...(request.stationIds ? { stationIds: request.stationIds } : {}) });
  if (!begun.ok) throw new AppError("badRequest", begun.problem.message, { path: begun.problem.path });
  const running = await latestLearningRun(siteId);
  if (running && (running.state === "queued" || running.state === "running")) throw new AppError("conflict", "Learning is already running on this site. Stop it first, or watch it to its end.");
  const runId = await insertLearningRun({ organisationId: user.organisationId, siteId, version: site.version, request, userId: user.userId });
  await (await queue()).send(LEARNING_QUEUE, { runId }, { retryLimit: 0, expireInHours: 2 });
  return { runId };
}

export async function latestLearning(user: SignedIn, siteId: string): Promise<LearningView> {
  await loadSite(user, siteId);
  const run = await latestLearningRun(siteId);
  return { run, results: run ? await learningResults(run.id) : [] };
}

export async function ownLearningRun(user: SignedIn, siteId: string, runId: string): Promise<LearningRun> {
  const run = isUuid(runId) ? await learningRunById(runId) : null;
  if (!run || run.organisation_id !== user.organisationId || run.site_id !== siteId) throw new AppError("notFound", "There is no such learning run.");
  return run;
}

/** May be stopped at any time; keeps what it has. */
export async function stopLearning(user: SignedIn, siteId: string, runId: string): Promise<void> {
  const run = await ownLearningRun(user, siteId, runId);
  if (run.state === "queued" || run.state === "running") await updateLearningRun(run.id, { state: "stopped" });
}

/** In the worker: walks the bench, pacing itself, telling whoever watches, keeping each result as it comes. */
export async function runLearning(runId: string): Promise<void> {
  const run = await learningRunById(runId);
  if (run?.state !== "queued") return;
  const revision = await revisionAt(run.site_id, run.version);
  if (!revision) return;
  await updateLearningRun(runId, { state: "running" });
  const say = (message: LearningMessage): Promise<void> => tell(`learning_${runId}`, message);
  try {
    const { request } = run;
    const begun = beginLearning(revision.site_file, {
      date: request.date, faults: request.faults, seed: request.seed, ...(request.stationIds ? { stationIds: request.stationIds } : {}),
    });
    if (!begun.ok) throw new Error(begun.problem.message);
    const began = Date.now();
    let seconds = 0;
    let batch: [number, number, 0 | 1][] = [];
    let batchOf: string | null = null;
    const flush = async (): Promise<void> => {
      if (batch.length > 0) await say({ type: "samples", stationId: batchOf, rows: batch });
      batch = [];
    };
    const refused: unknown[] = [];
    const baseline: unknown[] = [];
    for (;;) {
      const next = begun.events.next();
      if (next.done) {
        await flush();
        await updateLearningRun(runId, { state: "done", ended_at: new Date(), seconds: next.value.seconds, litres: next.value.litres });
        await say({ type: "ended", state: "done", ...next.value, end: true });
        return;
      }
      const event = next.value;
      if (event.type === "sample") {
        seconds++;
        batchOf = event.stationId;
        batch.push([event.at, Math.round(event.readingLpm * 10) / 10, event.settling ? 1 : 0]);
        if (batch.length >= 15) {
          await flush();
          if (request.pace > 0) await new Promise((r) => setTimeout(r, Math.max(0, began + (1000 * seconds) / request.pace - Date.now())));
          if (seconds % 60 === 0 && (await learningRunById(runId))?.state === "stopped") {
            await updateLearningRun(runId, { ended_at: new Date(), seconds });
            await say({ type: "ended", state: "stopped", seconds, litres: 0, end: true });
            return;
          }
        }
        continue;
      }
      await flush();
      if (event.type === "result") await insertLearningResult(run, event.result);
      if (event.type === "refused") {
        refused.push({ stationId: event.stationId, reasons: event.reasons });
        await updateLearningRun(runId, { refused: JSON.stringify(refused) });
      }
      if (event.type === "baseline") {
        baseline.push(event.baseline);
        await updateLearningRun(runId, { baseline: JSON.stringify(baseline) });
      }
      const { at: _, ...message } = { at: 0, ...event };
      await say(message as LearningMessage);
    }
  } catch (error) {
    log.error({ err: error, runId }, "learning failed");
    await updateLearningRun(runId, { state: "failed", ended_at: new Date() });
    await say({ type: "ended", state: "failed", seconds: 0, litres: 0, end: true });
  }
}

/**
 * Takes proposals: learned figures enter the configuration as one revision. Hand-entered figures stay beside them and
 * stay in use until someone chooses.
 */
export async function takeLearned(user: SignedIn, siteId: string, runId: string, stationIds: string[]): Promise<LoadedSite> {
  const run = await ownLearningRun(user, siteId, runId);
  const results = (await learningResults(run.id)).filter((r) => stationIds.includes(r.element_id));
  const wrong = stationIds.find((id) => !results.some((r) => r.element_id === id && r.verdict === "accepted"));
  if (wrong !== undefined || results.length === 0) throw new AppError("badRequest", "Only stations with an accepted result of this run can be taken. Repeat the others.");
  return inTransaction(async () => {
    const learned = new Map(results.map((r) => [r.element_id, r]));
    const saved = await amendSite(user, siteId, `Learned flow taken for ${results.length} station${results.length > 1 ? "s" : ""}`, (file) => ({
      ...file,
      stations: file.stations.map((s) => {
        const r = learned.get(s.id);
        if (!r) return s;
        // A station with a figure by hand and no stored choice keeps using it until someone chooses.
        const keepsHand = s.expectedFrom === undefined && s.enteredFlowLpm !== undefined && !s.learned;
        return {
          ...s, learned: { meanLpm: Math.round(r.mean_lpm * 100) / 100, sdLpm: Math.round(r.sd_lpm * 100) / 100, at: r.learned_at.toISOString() },
          ...(keepsHand ? { expectedFrom: "entered" as const } : {}),
        };
      }),
    }));
    await markTaken(run.id, results.map((r) => r.element_id), user.userId);
    return saved;
  });
}
