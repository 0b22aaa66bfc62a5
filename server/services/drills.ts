import type { DrillBook, DrillRequest } from "../../contracts/drills.ts";
import { beginDrill, judgeDrill, type DrillOutcome } from "../../core/drill/drill.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { drillPeople, drillsOfSite, insertDrillResult } from "../db/drills.ts";
import { revisionAt } from "../db/revisions.ts";
import { loadSite } from "./sites.ts";

/** Keeps what came of a drill. The server plays it again itself, from the revision, the date and the seed, so nobody writes their own result. */
export async function keepDrill(user: SignedIn, siteId: string, asked: DrillRequest): Promise<DrillOutcome> {
  const site = await loadSite(user, siteId);
  const revision = await revisionAt(site.id, asked.version);
  const drill = revision && beginDrill(revision.siteFile, asked.date, asked.seed);
  if (!drill)
    throw new AppError(
      "badRequest",
      "There is no such drill on this site: no such revision, or nothing that runs behind a flow sensor on that date.",
    );
  const { bench } = drill;
  const known = new Set([
    ...bench.stations.map((s) => s.id),
    ...bench.pocs,
    ...bench.mainlines,
    ...bench.masterValves,
    ...bench.pumps,
  ]);
  for (const [i, { standing: s, check: c }] of asked.steps.entries())
    for (const used of [
      ...s.open,
      ...s.valves,
      ...s.pumps,
      ...("pocId" in c ? [c.pocId] : []),
      ...("subjectId" in c ? [c.subjectId] : []),
    ])
      if (!known.has(used))
        throw new AppError("badRequest", `Step ${i + 1} names "${used}", which is not in this drill.`);
  const outcome = judgeDrill(drill, asked.steps, asked.named);
  await insertDrillResult({
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
