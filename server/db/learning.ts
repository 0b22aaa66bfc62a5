import { z } from "zod";
import { dateSchema } from "../../core/site-file/schema.ts";
import type { Baseline, LearnResult } from "../../core/learn/learn.ts";
import type { RefusalReason } from "../../core/learn/refusals.ts";
import { db } from "./connection.ts";

export const learningRequest = z.object({
  stationIds: z.array(z.string()).max(10_000).nullable(),
  faults: z.array(z.unknown()).max(100),
  seed: z.number().int().min(0).max(1e9),
  /** Bench seconds in one second of waiting; 0: as fast as it computes. */
  pace: z.number().min(0).max(100_000),
  date: dateSchema,
});
export type LearningRequest = z.infer<typeof learningRequest>;

const runRow = z.object({
  id: z.string(), organisation_id: z.string(), site_id: z.string(), version: z.number(), state: z.enum(["queued", "running", "done", "stopped", "failed"]),
  request: learningRequest, baseline: z.array(z.unknown()), refused: z.array(z.unknown()), seconds: z.number().nullable(), litres: z.number().nullable(), asked_at: z.date(), ended_at: z.date().nullable(),
});
export type LearningRun = Omit<z.infer<typeof runRow>, "baseline" | "refused"> & { baseline: Baseline[]; refused: { stationId: string; reasons: RefusalReason[] }[] };
const resultRow = z.object({
  element_id: z.string(), verdict: z.enum(["accepted", "unsteady", "noFlow", "overCeiling", "stopped"]), mean_lpm: z.number(), sd_lpm: z.number(), samples: z.number(),
  seconds_to_steady: z.number().nullable(), learned_at: z.date(), taken_at: z.date().nullable(),
});
export type LearningResultRow = z.infer<typeof resultRow>;

export async function insertLearningRun(run: { organisationId: string; siteId: string; version: number; request: LearningRequest; userId: string }): Promise<string> {
  const [row] = await db()("learning_run")
    .insert({ organisation_id: run.organisationId, site_id: run.siteId, version: run.version, state: "queued", request: JSON.stringify(run.request), asked_by: run.userId })
    .returning("id");
  return row.id;
}

export async function learningRunById(runId: string): Promise<LearningRun | null> {
  const row: unknown = await db()("learning_run").where({ id: runId }).first();
  return row ? (runRow.parse(row) as LearningRun) : null;
}

export async function latestLearningRun(siteId: string): Promise<LearningRun | null> {
  const row: unknown = await db()("learning_run").where({ site_id: siteId }).orderBy("asked_at", "desc").first();
  return row ? (runRow.parse(row) as LearningRun) : null;
}

export async function updateLearningRun(runId: string, values: Record<string, unknown>): Promise<void> {
  await db()("learning_run").where({ id: runId }).update(values);
}

export async function insertLearningResult(run: LearningRun, result: LearnResult): Promise<void> {
  await db()("learning_result")
    .insert({
      run_id: run.id, organisation_id: run.organisation_id, site_id: run.site_id, element_id: result.stationId, verdict: result.verdict,
      mean_lpm: result.meanLpm, sd_lpm: result.sdLpm, samples: result.samples, seconds_to_steady: result.secondsToSteady,
    })
    .onConflict(["run_id", "element_id"])
    .merge();
}

export async function learningResults(runId: string): Promise<LearningResultRow[]> {
  const rows: unknown[] = await db()("learning_result").where({ run_id: runId }).orderBy("learned_at");
  return z.array(resultRow).parse(rows);
}

export async function markTaken(runId: string, elementIds: string[], userId: string): Promise<void> {
  await db()("learning_result").where({ run_id: runId }).whereIn("element_id", elementIds).update({ taken_by: userId, taken_at: db().fn.now() });
}
