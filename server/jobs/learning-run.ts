import type { KeptSet, KeptTrace, LearningRun, LearningMessage } from "../../contracts/learning.ts";
import { randomUUID } from "node:crypto";
import { instantOf } from "../../core/dates/wall-time.ts";
import type { LearnEvent } from "../../core/learn/events.ts";
import { beginLearning } from "../../core/learn/learn.ts";
import { setKey } from "../../core/judge/set-ratio.ts";
import {
  beat,
  claimRun,
  insertLearningResult,
  learningResults,
  learningRunById,
  lostRuns,
  updateLearningRun,
} from "../db/learning.ts";
import { revisionAt } from "../db/revisions.ts";
import { tell } from "../db/listen.ts";
import { log } from "../log.ts";
import { LEARNING_QUEUE, queue } from "./queue.ts";

/** A worker that has not shown itself for so long is taken for dead. */
const SILENT_S = 15;
const BEAT_MS = 1000;
/** Samples told at once: about half a second of a slow bench. */
const batchFor = (pace: number): number => (pace > 0 ? Math.min(15, Math.max(1, Math.ceil(pace / 2))) : 15);

/** Tells the queue of runs whose worker died, and of those whose hour came while no worker was there. */
export async function takeUpLostRuns(silentS = SILENT_S): Promise<number> {
  const lost = await lostRuns(silentS);
  for (const runId of lost) await (await queue()).send(LEARNING_QUEUE, { runId }, { retryLimit: 0, expireInHours: 23 });
  if (lost.length > 0) log.info({ lost }, "learning taken up again");
  return lost.length;
}

/**
 * In a worker: walks the bench, pacing itself, telling whoever watches, keeping each result with its readings as it comes. Results that are there already
 * (an earlier worker died, or someone goes on) are not learned again.
 */
export async function runLearning(runId: string): Promise<void> {
  const worker = randomUUID();
  if (!(await claimRun(runId, worker))) return;
  const run = await learningRunById(runId);
  const revision = run && (await revisionAt(run.siteId, run.version));
  try {
    if (!run || !revision || !("pace" in run.request)) throw new Error("a run without its revision or request");
    await walk(run, run.request, revision.siteFile, worker);
  } catch (error) {
    log.error({ err: error, runId }, "learning failed");
    await updateLearningRun(runId, { state: "failed", endedAt: new Date() });
    await tell(`learning_${runId}`, { type: "ended", state: "failed", seconds: 0, litres: 0, end: true });
  }
}

type Kept = {
  refused: LearningRun["refused"];
  baseline: LearningRun["baseline"];
  waits: LearningRun["waits"];
  sets: KeptSet[];
  left: string[];
};

async function walk(
  run: LearningRun,
  request: Extract<LearningRun["request"], { pace: number }>,
  site: Parameters<typeof beginLearning>[0],
  worker: string,
): Promise<void> {
  const say = (message: LearningMessage): Promise<void> => tell(`learning_${run.id}`, message);
  const done = await learningResults(run.id);
  const setsDone = new Set(run.sets.map((s) => setKey(s.stationIds)));
  const begun = beginLearning(site, {
    date: request.date,
    from: request.from,
    ...(request.to ? { to: request.to } : {}),
    avoid: request.avoid,
    baselineS: request.baselineS,
    faults: request.faults,
    seed: request.seed + run.elapsed,
    elapsedS: run.elapsed,
    doneIds: done.filter((r) => r.verdict !== "stopped").map((r) => r.elementId),
    sets: request.sets.filter((ids) => !setsDone.has(setKey(ids))),
    ...(request.stationIds ? { stationIds: request.stationIds } : {}),
  });
  if (!begun.ok) throw new Error(begun.problem.message);
  const benchBegan = instantOf(site.site.timeZone, request.date, request.from);
  const kept: Kept = { refused: run.refused, baseline: run.baseline, waits: run.waits, sets: run.sets, left: [] };
  let batch: [number, number, 0 | 1][] = [];
  let batchOf: string | null = null;
  let trace: KeptTrace | null = null;
  let open: string | null = null;
  let setOpen = false;
  let samples = 0;
  const began = Date.now();
  let beaten = began;
  const flush = async (): Promise<void> => {
    if (batch.length > 0) await say({ type: "samples", stationId: batchOf, rows: batch });
    batch = [];
  };
  /** False: stop, either because someone said so or because the run is another worker's now. */
  const alive = async (elapsed?: number): Promise<boolean> => {
    beaten = Date.now();
    return (await beat(run.id, worker, elapsed)) === "running";
  };
  const stopped = async (): Promise<void> => {
    const now = await learningRunById(run.id);
    if (now?.state !== "stopped") return;
    if (open !== null && !setOpen)
      await insertLearningResult(
        run,
        { stationId: open, verdict: "stopped", ...soFar(trace), secondsToSteady: null },
        trace,
      );
    await say({ type: "ended", state: "stopped", seconds: now.elapsed, litres: 0, end: true });
  };
  for (;;) {
    const next = begun.events.next();
    if (next.done) {
      await flush();
      if (!(await alive(next.value.seconds))) return stopped();
      await updateLearningRun(run.id, {
        state: "done",
        endedAt: new Date(),
        seconds: next.value.seconds,
        litres: (run.litres ?? 0) + next.value.litres,
        leftIds: kept.left,
      });
      return say({ type: "ended", state: "done", ...next.value, end: true });
    }
    const event = next.value;
    if (event.type === "sample") {
      samples++;
      batchOf = event.stationId;
      batch.push([event.at, Math.round(event.readingLpm * 10) / 10, event.settling ? 1 : 0]);
      if (trace && event.stationId !== null) noteSample(trace, event);
      if (batch.length < batchFor(request.pace)) continue;
      await flush();
      const due = request.pace > 0 ? began + (1000 * samples) / request.pace : 0;
      do {
        await sleep(Math.min(BEAT_MS, due - Date.now()));
        if (Date.now() - beaten > BEAT_MS && !(await alive())) return stopped();
      } while (Date.now() < due);
      continue;
    }
    await flush();
    switch (event.type) {
      case "opens":
        open = event.stationId;
        setOpen = request.sets.some((ids) => setKey(ids) === setKey([event.stationId, ...(event.withIds ?? [])]));
        trace = { at: event.at, lpm: [], read: [] };
        await say({ type: "opens", stationId: event.stationId, ...(event.withIds ? { withIds: event.withIds } : {}) });
        break;
      case "result":
        if (!(await alive())) return stopped();
        await insertLearningResult(run, event.result, trace);
        if (!(await alive(event.at - benchBegan))) return stopped();
        [open, trace] = [null, null];
        await say({ type: "result", result: event.result });
        break;
      case "set":
        kept.sets = [...kept.sets, { ...event.result, at: new Date().toISOString() }];
        await updateLearningRun(run.id, { sets: JSON.stringify(kept.sets) });
        if (!(await alive(event.at - benchBegan))) return stopped();
        [open, trace] = [null, null];
        await say({ type: "set" });
        break;
      case "refused":
        kept.refused = [
          ...kept.refused.filter((r) => r.stationId !== event.stationId),
          { stationId: event.stationId, reasons: event.reasons },
        ];
        await updateLearningRun(run.id, { refused: JSON.stringify(kept.refused) });
        await say({ type: "refused", stationId: event.stationId, reasons: event.reasons });
        break;
      case "baseline":
        kept.baseline = [
          ...kept.baseline.filter((b) => b.pocIds.join() !== event.baseline.pocIds.join()),
          event.baseline,
        ];
        await updateLearningRun(run.id, { baseline: JSON.stringify(kept.baseline) });
        await say({ type: "baseline", baseline: event.baseline });
        break;
      case "waits":
        kept.waits = [...kept.waits, { at: event.at, until: event.until, why: event.why }];
        await updateLearningRun(run.id, { waits: JSON.stringify(kept.waits) });
        await say({ type: "waits", at: event.at, until: event.until, why: event.why });
        break;
      case "left":
        kept.left = [...kept.left, ...event.stationIds];
        await say({ type: "left", count: event.stationIds.length });
        break;
    }
  }
}

function noteSample(trace: KeptTrace, event: Extract<LearnEvent, { type: "sample" }>): void {
  const place = trace.lpm.push(Math.round(event.readingLpm * 10) / 10) - 1;
  if (event.settling) return;
  const last = trace.read.at(-1);
  if (last && last[1] === place - 1) last[1] = place;
  else trace.read.push([place, place]);
}

/** What a station that was stopped had read so far. */
function soFar(trace: KeptTrace | null): { meanLpm: number; sdLpm: number; samples: number } {
  const last = trace?.read.at(-1);
  const seen = trace && last ? trace.lpm.slice(last[0], last[1] + 1) : [];
  const mean = seen.length > 0 ? seen.reduce((a, b) => a + b, 0) / seen.length : 0;
  return {
    meanLpm: mean,
    sdLpm: seen.length > 1 ? Math.sqrt(seen.reduce((a, b) => a + (b - mean) ** 2, 0) / (seen.length - 1)) : 0,
    samples: seen.length,
  };
}

async function sleep(ms: number): Promise<void> {
  if (ms > 0) await new Promise((r) => setTimeout(r, ms));
}
