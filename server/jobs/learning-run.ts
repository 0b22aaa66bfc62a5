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
  updateLearningRun,
} from "../db/learning.ts";
import { revisionAt } from "../db/revisions.ts";
import { tell } from "../db/listen.ts";
import { normalise } from "../app-error.ts";
import { log } from "../log.ts";

const BEAT_MS = 1000;
/** Samples told at once: about half a second of a slow bench. */
const batchFor = (pace: number): number => (pace > 0 ? Math.min(15, Math.max(1, Math.ceil(pace / 2))) : 15);

/** Takes this run up at once, whoever else waits. */
export async function runLearning(runId: string): Promise<void> {
  const worker = randomUUID();
  if (await claimRun(runId, worker)) await walkRun(runId, worker);
}

/**
 * In a worker that has claimed the run: walks the bench, pacing itself, telling whoever watches, keeping each result with its readings as it comes. Results that are
 * there already (an earlier worker died, or someone goes on) are not learned again. Where the database goes away in the middle the run is left as it stands, for
 * whoever takes it up once it is back.
 */
export async function walkRun(runId: string, worker: string): Promise<void> {
  try {
    const run = await learningRunById(runId);
    const revision = run && (await revisionAt(run.siteId, run.version));
    if (!run || !revision || !("pace" in run.request)) throw new Error("a run without its revision or request");
    await walk(run, run.request, revision.siteFile, worker);
  } catch (error) {
    log.error({ err: error, runId }, "learning failed");
    if (normalise(error).code === "databaseBusy") return;
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

type Request = Extract<LearningRun["request"], { pace: number }>;
type Site = Parameters<typeof beginLearning>[0];

async function walk(run: LearningRun, request: Request, site: Site, worker: string): Promise<void> {
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
  const walking = new Walk(run, request, worker, benchBegan);
  for (;;) {
    const next = begun.events.next();
    const goesOn = next.done ? await walking.end(next.value) : await walking.hear(next.value);
    if (!goesOn) return;
  }
}

/** One worker's walk through a run: what is kept of it, what watchers are told, and whether it is still this worker's. */
class Walk {
  private readonly run: LearningRun;
  private readonly request: Request;
  private readonly worker: string;
  private readonly benchBegan: number;
  private readonly kept: Kept;
  private readonly began = Date.now();
  private beaten = this.began;
  private batch: [number, number, 0 | 1][] = [];
  private batchOf: string | null = null;
  private trace: KeptTrace | null = null;
  private open: string | null = null;
  private setOpen = false;
  private samples = 0;

  constructor(run: LearningRun, request: Request, worker: string, benchBegan: number) {
    this.run = run;
    this.request = request;
    this.worker = worker;
    this.benchBegan = benchBegan;
    this.kept = { refused: run.refused, baseline: run.baseline, waits: run.waits, sets: run.sets, left: [] };
  }

  /** Takes one event in. False: stop, either because someone said so or because the run is another worker's now. */
  async hear(event: LearnEvent): Promise<boolean> {
    if (event.type === "sample") return this.sample(event);
    await this.flush();
    switch (event.type) {
      case "opens":
        return this.opens(event);
      case "result":
        return this.result(event);
      case "set":
        return this.set(event);
      case "refused":
        this.kept.refused = [
          ...this.kept.refused.filter((r) => r.stationId !== event.stationId),
          { stationId: event.stationId, reasons: event.reasons },
        ];
        return this.keep("refused", { type: "refused", stationId: event.stationId, reasons: event.reasons });
      case "baseline":
        this.kept.baseline = [
          ...this.kept.baseline.filter((b) => b.pocIds.join() !== event.baseline.pocIds.join()),
          event.baseline,
        ];
        return this.keep("baseline", { type: "baseline", baseline: event.baseline });
      case "waits":
        this.kept.waits = [...this.kept.waits, { at: event.at, until: event.until, why: event.why }];
        return this.keep("waits", { type: "waits", at: event.at, until: event.until, why: event.why });
      case "left":
        this.kept.left = [...this.kept.left, ...event.stationIds];
        await this.say({ type: "left", count: event.stationIds.length });
        return true;
    }
  }

  /** The bench has come to the end of what was asked. */
  async end(came: { seconds: number; litres: number }): Promise<false> {
    await this.flush();
    if (!(await this.alive(came.seconds))) return this.stopped();
    await updateLearningRun(this.run.id, {
      state: "done",
      endedAt: new Date(),
      seconds: came.seconds,
      litres: (this.run.litres ?? 0) + came.litres,
      leftIds: this.kept.left,
    });
    await this.say({ type: "ended", state: "done", ...came, end: true });
    return false;
  }

  private say(message: LearningMessage): Promise<void> {
    return tell(`learning_${this.run.id}`, message);
  }

  private async keep(what: "refused" | "baseline" | "waits", message: LearningMessage): Promise<true> {
    await updateLearningRun(this.run.id, { [what]: JSON.stringify(this.kept[what]) });
    await this.say(message);
    return true;
  }

  private async flush(): Promise<void> {
    if (this.batch.length > 0) await this.say({ type: "samples", stationId: this.batchOf, rows: this.batch });
    this.batch = [];
  }

  private async alive(elapsed?: number): Promise<boolean> {
    this.beaten = Date.now();
    return (await beat(this.run.id, this.worker, elapsed)) === "running";
  }

  /** Someone stopped the run: what was being read is kept as stopped. Another worker's run is left alone. */
  private async stopped(): Promise<false> {
    const now = await learningRunById(this.run.id);
    if (now?.state !== "stopped") return false;
    if (this.open !== null && !this.setOpen)
      await insertLearningResult(
        this.run,
        { stationId: this.open, verdict: "stopped", ...soFar(this.trace), secondsToSteady: null },
        this.trace,
      );
    await this.say({ type: "ended", state: "stopped", seconds: now.elapsed, litres: 0, end: true });
    return false;
  }

  /** A second of reading: told in batches, at the pace that was asked for. */
  private async sample(event: Event<"sample">): Promise<boolean> {
    const { pace } = this.request;
    this.samples++;
    this.batchOf = event.stationId;
    this.batch.push([event.at, Math.round(event.readingLpm * 10) / 10, event.settling ? 1 : 0]);
    if (this.trace && event.stationId !== null) noteSample(this.trace, event);
    if (this.batch.length < batchFor(pace)) return true;
    await this.flush();
    const due = pace > 0 ? this.began + (1000 * this.samples) / pace : 0;
    do {
      await sleep(Math.min(BEAT_MS, due - Date.now()));
      if (Date.now() - this.beaten > BEAT_MS && !(await this.alive())) return this.stopped();
    } while (Date.now() < due);
    return true;
  }

  private async opens({ stationId, withIds, at }: Event<"opens">): Promise<true> {
    this.open = stationId;
    const key = setKey([stationId, ...(withIds ?? [])]);
    this.setOpen = this.request.sets.some((ids) => setKey(ids) === key);
    this.trace = { at, lpm: [], read: [] };
    await this.say({ type: "opens", stationId, ...(withIds ? { withIds } : {}) });
    return true;
  }

  private async result({ result, at }: Event<"result">): Promise<boolean> {
    if (!(await this.alive())) return this.stopped();
    await insertLearningResult(this.run, result, this.trace);
    if (!(await this.alive(at - this.benchBegan))) return this.stopped();
    [this.open, this.trace] = [null, null];
    await this.say({ type: "result", result });
    return true;
  }

  private async set({ result, at }: Event<"set">): Promise<boolean> {
    this.kept.sets = [...this.kept.sets, { ...result, at: new Date().toISOString() }];
    await updateLearningRun(this.run.id, { sets: JSON.stringify(this.kept.sets) });
    if (!(await this.alive(at - this.benchBegan))) return this.stopped();
    [this.open, this.trace] = [null, null];
    await this.say({ type: "set" });
    return true;
  }
}

type Event<T extends LearnEvent["type"]> = Extract<LearnEvent, { type: T }>;

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
