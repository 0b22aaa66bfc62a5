import type { DrillBook, DrillRequest } from "../../contracts/drills.ts";
import type { DrillOutcome } from "../../core/drill/drill.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { drillPeople, drillsOfSite, insertDrillResult } from "../db/drills.ts";
import { revisionAt } from "../db/revisions.ts";
import { heavy } from "../heavy/pool.ts";
import { loadSite } from "./sites.ts";

/** Keeps what came of a drill. The server plays it again itself, from the revision, the date and the seed, so nobody writes their own result. */
export async function keepDrill(user: SignedIn, siteId: string, asked: DrillRequest): Promise<DrillOutcome> {
  const site = await loadSite(user, siteId);
  const revision = await revisionAt(site.id, asked.version);
  const judged =
    revision &&
    (await heavy(user.organisationId, "drill", [
      revision.siteFile,
      { date: asked.date, seed: asked.seed, steps: asked.steps, named: asked.named },
    ]));
  if (!judged)
    throw new AppError(
      "badRequest",
      "There is no such drill on this site: no such revision, or nothing that runs behind a flow sensor on that date.",
    );
  if (!judged.ok) throw new AppError("badRequest", judged.problem);
  const { outcome } = judged;
  const kept = await insertDrillResult({
    organisationId: user.organisationId,
    siteId: site.id,
    version: asked.version,
    userId: user.userId,
    date: asked.date,
    seed: asked.seed,
    steps: asked.steps,
    hidden: outcome.hidden,
    named: asked.named,
    right: outcome.right,
    seconds: outcome.seconds,
    lostL: outcome.lostL,
    usedL: outcome.usedL,
  });
  if (!kept)
    throw new AppError(
      "conflict",
      "You have named the cause of this drill already; its first answer stands. Begin another.",
    );
  return outcome;
}

export async function drillBook(user: SignedIn, siteId: string): Promise<DrillBook> {
  const site = await loadSite(user, siteId);
  const [drills, people] = await Promise.all([
    drillsOfSite(user.organisationId, site.id),
    drillPeople(user.organisationId),
  ]);
  return { drills, people };
}
