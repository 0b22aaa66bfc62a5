import type { How, LearningResult, OutsideRequest } from "../../contracts/learning.ts";
import { z } from "zod";
import { setKey } from "../../core/judge/set-ratio.ts";
import { expectedFlow } from "../../core/site-file/expected-flow.ts";
import type { Station } from "../../core/site-file/schema.ts";

import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import {
  insertLearningResult,
  insertLearningRun,
  learningResults,
  markTaken,
  updateLearningRun,
} from "../db/learning.ts";
import { revisionAt } from "../db/revisions.ts";
import { lockSite } from "../db/sites.ts";
import { isUuid } from "../uuid.ts";
import { heavy } from "../heavy/pool.ts";
import { ownLearningRun } from "./learning.ts";
import { amendSite, loadSite, type LoadedSite } from "./sites.ts";

/** Puts flows from outside into the ledger as proposals, by the same core that showed the preview. */
export async function proposeFromOutside(
  user: SignedIn,
  siteId: string,
  asked: OutsideRequest,
): Promise<{ runId: string; proposals: number }> {
  const site = await loadSite(user, siteId);
  const found = await heavy(user.organisationId, "readOutside", [site.file, asked]);
  if (!found.ok) throw new AppError("badRequest", found.problem);
  if (found.results.length === 0 && found.sets.length === 0)
    throw new AppError("badRequest", "Nothing in it could be used. The preview says why, line by line.");
  return inTransaction(async () => {
    const at = new Date().toISOString();
    const runId = await insertLearningRun({
      organisationId: user.organisationId,
      siteId,
      version: site.version,
      request: { source: asked.how === "stopwatch" ? "stopwatch" : asked.source },
      userId: user.userId,
      how: asked.how,
      state: "done",
      sets: found.sets.map((s) => ({ ...s, at })),
    });
    for (const result of found.results)
      await insertLearningResult({ id: runId, organisationId: user.organisationId, siteId: siteId }, result);
    return { runId, proposals: found.results.length };
  });
}

export const pick = z.strictObject({ runId: z.string(), stationId: z.string() });
export type Pick = z.infer<typeof pick>;
type Standing = { learned?: Station["learned"]; expectedFrom?: Station["expectedFrom"] };

/**
 * Takes proposals: learned figures enter the configuration as one revision, with what stood before kept for undo. Hand-entered figures stay beside
 * them and stay in use until someone chooses.
 */
export async function takeLearned(user: SignedIn, siteId: string, picks: Pick[]): Promise<LoadedSite> {
  return inTransaction(async () => {
    // The site's row first: of two who take the same, the second finds it taken.
    if (isUuid(siteId)) await lockSite(user.organisationId, siteId);
    const rows = await picked(user, siteId, picks);
    if (rows.some((r) => r.verdict !== "accepted"))
      throw new AppError("badRequest", "Only accepted results can be taken. Learn the others again.");
    if (rows.some((r) => r.takenAt !== null))
      throw new AppError(
        "conflict",
        "Some of these have been taken already. Nothing was taken; look at the list again.",
      );
    const byStation = new Map(rows.map((r) => [r.elementId, r]));
    const basis = await basisAt(user.organisationId, siteId, rows);
    const before = new Map<string, Standing>();
    const saved = await amendSite(user, siteId, `Learned flow taken for ${count(rows.length)}`, (file) => ({
      ...file,
      stations: file.stations.map((s) => {
        const r = byStation.get(s.id);
        if (!r) return s;
        before.set(s.id, { learned: s.learned, expectedFrom: s.expectedFrom });
        // A station that uses a figure by hand keeps using it until someone chooses.
        const keepsHand = s.expectedFrom === undefined && expectedFlow(s)?.from === "entered";
        return {
          ...s,
          learned: learnedFrom(r, basis.get(r.runId + r.elementId)),
          ...(keepsHand ? { expectedFrom: "entered" as const } : {}),
        };
      }),
    }));
    for (const r of rows) {
      const stood = before.get(r.elementId);
      if (!stood)
        throw new AppError("conflict", "A station of these is no longer on the site. Nothing was taken; leave it out.");
      await markTaken(r.runId, r.elementId, { userId: user.userId, before: stood });
    }
    return saved;
  });
}

/** A figure that some nights read of a station, taken as if it had been learned: a run of its own, so that it can be undone like any other. */
export async function takeFromNights(
  user: SignedIn,
  site: LoadedSite,
  of: { stationId: string; meanLpm: number; sdLpm: number; nights: number; upTo: string },
): Promise<LoadedSite> {
  return inTransaction(async () => {
    const run = {
      organisationId: user.organisationId,
      siteId: site.id,
      version: site.version,
      request: { source: `${of.nights} nights up to ${of.upTo}` },
      userId: user.userId,
      how: "nights" as const,
      state: "done" as const,
    };
    const runId = await insertLearningRun(run);
    await insertLearningResult(
      { id: runId, organisationId: user.organisationId, siteId: site.id },
      {
        stationId: of.stationId,
        verdict: "accepted",
        meanLpm: of.meanLpm,
        sdLpm: of.sdLpm,
        samples: of.nights,
        secondsToSteady: null,
        companionIds: [],
      },
    );
    return takeLearned(user, site.id, [{ runId, stationId: of.stationId }]);
  });
}

function learnedFrom(
  r: LearningResult,
  basis: NonNullable<Station["learned"]>["basis"],
): NonNullable<Station["learned"]> {
  return {
    meanLpm: hundredth(r.meanLpm),
    sdLpm: hundredth(r.sdLpm),
    at: r.learnedAt.toISOString(),
    how: r.how as How,
    ...(r.companionIds.length > 0 ? { companionIds: r.companionIds } : {}),
    ...(basis ? { basis } : {}),
  };
}

/** Marks of what each figure rests on: of the revision on which it was learned, not of the one it is taken into. */
async function basisAt(
  organisationId: string,
  siteId: string,
  rows: LearningResult[],
): Promise<Map<string, NonNullable<Station["learned"]>["basis"]>> {
  const found = new Map<string, NonNullable<Station["learned"]>["basis"]>();
  for (const version of new Set(rows.map((r) => r.version))) {
    const revision = await revisionAt(siteId, version);
    const mine = rows.filter((r) => r.version === version);
    const basis =
      revision && (await heavy(organisationId, "basisOf", [revision.siteFile, mine.map((r) => r.elementId)]));
    for (const [i, r] of mine.entries()) found.set(r.runId + r.elementId, basis?.[i] ?? undefined);
  }
  return found;
}

/** Puts back what stood before proposals were taken, where nobody changed it since. */
export async function undoTaken(user: SignedIn, siteId: string, picks: Pick[]): Promise<LoadedSite> {
  return inTransaction(async () => {
    if (isUuid(siteId)) await lockSite(user.organisationId, siteId);
    const rows = await picked(user, siteId, picks);
    if (rows.some((r) => r.takenAt === null || r.before === null))
      throw new AppError("badRequest", "Only what was taken can be undone.");
    const byStation = new Map(rows.map((r) => [r.elementId, r]));
    const saved = await amendSite(user, siteId, `Taking the learned flow of ${count(rows.length)} undone`, (file) => ({
      ...file,
      stations: file.stations.map((s) => {
        const r = byStation.get(s.id);
        if (!r) return s;
        if (s.learned?.at !== r.learnedAt.toISOString() || s.learned.meanLpm !== hundredth(r.meanLpm))
          throw new AppError(
            "conflict",
            `Station ${s.number} has been learned again since. Choose its figure by hand instead; its history has them all.`,
          );
        const { learned, expectedFrom } = r.before as Standing;
        const { learned: _l, expectedFrom: _e, ...rest } = s;
        return { ...rest, ...(learned ? { learned } : {}), ...(expectedFrom ? { expectedFrom } : {}) };
      }),
    }));
    for (const r of rows) await markTaken(r.runId, r.elementId, null);
    return saved;
  });
}

/** Takes the ratios of sets as they ran into the configuration, where they are used when judging exactly those sets. */
export async function takeSets(user: SignedIn, siteId: string, runId: string, wanted: string[][]): Promise<LoadedSite> {
  const run = await ownLearningRun(user, siteId, runId);
  const keys = new Set(wanted.map(setKey));
  const sets = run.sets.filter((s) => keys.has(setKey(s.stationIds)));
  if (sets.length !== keys.size || sets.some((s) => s.verdict !== "accepted"))
    throw new AppError("badRequest", "Only accepted sets of this run can be taken. Learn the others again.");
  return inTransaction(async () => {
    const saved = await amendSite(
      user,
      siteId,
      `Ratio taken of ${sets.length} set${sets.length > 1 ? "s" : ""}`,
      (file) => ({
        ...file,
        setRatios: [
          ...(file.setRatios ?? []).filter((r) => !keys.has(setKey(r.stationIds))),
          ...sets.map((s) => ({
            stationIds: s.stationIds,
            ratio: Math.round(s.ratio * 10_000) / 10_000,
            meanLpm: hundredth(s.meanLpm),
            sdLpm: hundredth(s.sdLpm),
            partsLpm: hundredth(s.partsLpm),
            at: s.at,
          })),
        ],
      }),
    );
    const takenAt = new Date().toISOString();
    await updateLearningRun(run.id, {
      sets: JSON.stringify(run.sets.map((s) => (keys.has(setKey(s.stationIds)) ? { ...s, takenAt } : s))),
    });
    return saved;
  });
}

async function picked(user: SignedIn, siteId: string, picks: Pick[]): Promise<LearningResult[]> {
  const rows: LearningResult[] = [];
  for (const runId of new Set(picks.map((p) => p.runId))) {
    const run = await ownLearningRun(user, siteId, runId);
    const results = await learningResults(run.id);
    for (const p of picks.filter((x) => x.runId === runId)) {
      const row = results.find((r) => r.elementId === p.stationId);
      if (!row) throw new AppError("badRequest", "A station of these has no result in that run.");
      rows.push(row);
    }
  }
  if (new Set(rows.map((r) => r.elementId)).size !== rows.length)
    throw new AppError("badRequest", "A station is named twice.");
  return rows;
}

const hundredth = (value: number): number => Math.round(value * 100) / 100;
const count = (n: number): string => `${n} station${n === 1 ? "" : "s"}`;
