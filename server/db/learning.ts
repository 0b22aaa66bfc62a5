import {
  type LearningRequest,
  type KeptSet,
  type KeptTrace,
  type How,
  learningRun,
  type LearningRun,
  learningResult,
  type LearningResult,
} from "../../contracts/learning.ts";
import { z } from "zod";
import type { LearnResult } from "../../core/learn/events.ts";
import { db, inTransaction } from "./connection.ts";

export async function insertLearningRun(run: {
  organisationId: string;
  siteId: string;
  version: number;
  request: LearningRequest | { source: string; stationIds?: string[] };
  userId: string;
  how?: How;
  state?: "queued" | "done";
  startAt?: Date;
  sets?: KeptSet[];
  orderId?: string;
}): Promise<string> {
  const [row] = await db()("learning_run")
    .insert({
      organisationId: run.organisationId,
      siteId: run.siteId,
      version: run.version,
      state: run.state ?? "queued",
      request: JSON.stringify(run.request),
      askedBy: run.userId,
      how: run.how ?? "bench",
      startAt: run.startAt ?? new Date(),
      sets: JSON.stringify(run.sets ?? []),
      ...(run.orderId ? { orderId: run.orderId } : {}),
      ...(run.state === "done" ? { endedAt: new Date() } : {}),
    })
    .returning("id");
  return row.id;
}

const runs = () =>
  db()("learning_run as r").join("app_user as u", "u.id", "r.asked_by").select("r.*", "u.name as asked_by_name");

export async function learningRunById(runId: string): Promise<LearningRun | null> {
  const row: unknown = await runs().where("r.id", runId).first();
  return row ? (learningRun.parse(row) as LearningRun) : null;
}

/** The run that an order to learn began. */
export async function runOfOrder(siteId: string, orderId: string): Promise<LearningRun | null> {
  const row: unknown = await runs().where({ "r.site_id": siteId, "r.order_id": orderId }).first();
  return row ? (learningRun.parse(row) as LearningRun) : null;
}

/** The run that the controllers of a site are at. */
export async function runningThere(siteId: string): Promise<LearningRun | null> {
  const row: unknown = await runs().where({ "r.site_id": siteId, "r.how": "controller", "r.state": "running" }).first();
  return row ? (learningRun.parse(row) as LearningRun) : null;
}

/** The newest run on the bench or at the controllers. */
export async function latestLearningRun(siteId: string): Promise<LearningRun | null> {
  const row: unknown = await runs()
    .where("r.site_id", siteId)
    .whereIn("r.how", ["bench", "controller"])
    .orderBy("r.asked_at", "desc")
    .first();
  return row ? (learningRun.parse(row) as LearningRun) : null;
}

/** Runs whose sets may still be taken, newest first. */
export async function runsWithSets(siteId: string): Promise<LearningRun[]> {
  const rows: unknown[] = await runs()
    .where("r.site_id", siteId)
    .whereRaw("jsonb_array_length(r.sets) > 0")
    .orderBy("r.asked_at", "desc")
    .limit(20);
  return z.array(learningRun).parse(rows) as LearningRun[];
}

export async function updateLearningRun(runId: string, values: Record<string, unknown>): Promise<void> {
  await db()("learning_run").where({ id: runId }).update(values);
}

/** Makes a waiting run this worker's own; false when another was quicker, it was stopped, or its hour has not come. */
export async function claimRun(runId: string, worker: string): Promise<boolean> {
  return (
    (await db()("learning_run")
      .where({ id: runId, state: "queued", how: "bench" })
      .where("start_at", "<=", db().raw("now() + interval '1 second'"))
      .update({ state: "running", worker, beatAt: db().fn.now() })) === 1
  );
}

/** The worker shows that it lives and how far it is. Answers the state; null when the run is another worker's by now. */
export async function beat(runId: string, worker: string, elapsed?: number): Promise<LearningRun["state"] | null> {
  const [row] = await db()("learning_run")
    .where({ id: runId, worker })
    .update({ beatAt: db().fn.now(), ...(elapsed === undefined ? {} : { elapsed }) })
    .returning("state");
  return row?.state ?? null;
}

/**
 * Makes the next waiting run this worker's own: of the organisation that has the fewest running now, whoever waits longest; none of one that has `most` running already.
 *
 * @returns its id; null when there is none to take up
 */
export async function claimNextRun(worker: string, most: number): Promise<string | null> {
  return inTransaction(async () => {
    // Two that ask at once would both count before either takes.
    await db().raw("select pg_advisory_xact_lock(hashtext('presa learning'))");
    const { rows } = await db().raw(
      `update learning_run set state = 'running', worker = ?, beat_at = now()
       where id = (
         select w.id from learning_run w, lateral (
           select count(*) as running from learning_run o where o.organisation_id = w.organisation_id and o.state = 'running' and o.how = 'bench'
         ) n
         where w.state = 'queued' and w.how = 'bench' and w.start_at <= now() and n.running < ?
         order by n.running, w.start_at limit 1)
       and state = 'queued' returning id`,
      [worker, most],
    );
    return rows[0]?.id ?? null;
  });
}

/** Runs whose worker fell silent wait again. Answers how many. */
export async function freeLostRuns(silentS: number): Promise<number> {
  return db()("learning_run")
    .where({ state: "running", how: "bench" })
    .where("beat_at", "<", db().raw("now() - make_interval(secs => ?)", [silentS]))
    .update({ state: "queued", worker: null });
}

/** What this worker walks waits again, for others to go on with at once. */
export async function releaseRuns(worker: string): Promise<void> {
  await db()("learning_run").where({ state: "running", worker }).update({ state: "queued", worker: null });
}

export async function insertLearningResult(
  run: { id: string; organisationId: string; siteId: string },
  result: LearnResult,
  trace: KeptTrace | null = null,
): Promise<void> {
  await db()("learning_result")
    .insert({
      runId: run.id,
      organisationId: run.organisationId,
      siteId: run.siteId,
      elementId: result.stationId,
      verdict: result.verdict,
      meanLpm: result.meanLpm,
      sdLpm: result.sdLpm,
      samples: result.samples,
      secondsToSteady: result.secondsToSteady,
      companionIds: result.companionIds ?? [],
      trace: trace && JSON.stringify(trace),
      learnedAt: db().fn.now(),
      takenAt: null,
      takenBy: null,
      before: null,
    })
    .onConflict(["run_id", "element_id"])
    .merge();
}

const results = () =>
  db()("learning_result as l")
    .join("learning_run as r", "r.id", "l.run_id")
    .select(
      "l.run_id",
      "l.element_id",
      "l.verdict",
      "l.mean_lpm",
      "l.sd_lpm",
      "l.samples",
      "l.seconds_to_steady",
      "l.companion_ids",
      "l.learned_at",
      "l.taken_at",
      "l.before",
      "r.how",
      "r.version",
      db().raw("l.trace is not null as traced"),
    );

export async function learningResults(runId: string): Promise<LearningResult[]> {
  const rows: unknown[] = await results().where("l.run_id", runId).orderBy("l.learned_at");
  return z.array(learningResult).parse(rows);
}

/** The newest result of each station, whatever run it came from. */
export async function proposals(siteId: string): Promise<LearningResult[]> {
  const rows: unknown[] = await results()
    .distinctOn("l.element_id")
    .where("l.site_id", siteId)
    .orderBy([{ column: "l.element_id" }, { column: "l.learned_at", order: "desc" }]);
  return z.array(learningResult).parse(rows);
}

export async function traceOf(runId: string, elementId: string): Promise<KeptTrace | null> {
  const row: { trace: KeptTrace | null } | undefined = await db()("learning_result")
    .where({ runId: runId, elementId: elementId })
    .first("trace");
  return row?.trace ?? null;
}

export async function tracesOf(
  runId: string,
): Promise<{ elementId: string; companionIds: string[]; trace: KeptTrace }[]> {
  return db()("learning_result")
    .where({ runId: runId })
    .whereNotNull("trace")
    .orderBy("learned_at")
    .select("element_id", "companion_ids", "trace");
}

/** Marks a result as taken, with what stood before it, or as not taken again. */
export async function markTaken(
  runId: string,
  elementId: string,
  taken: { userId: string; before: unknown } | null,
): Promise<void> {
  await db()("learning_result")
    .where({ runId: runId, elementId: elementId })
    .update(
      taken
        ? { takenBy: taken.userId, takenAt: db().fn.now(), before: JSON.stringify(taken.before) }
        : { takenBy: null, takenAt: null, before: null },
    );
}
