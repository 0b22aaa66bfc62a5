import type { Comparison } from "../../contracts/comparison.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { revisionAt } from "../db/revisions.ts";
import { heavy } from "../heavy/pool.ts";
import { loadSite, siteOf } from "./sites.ts";

/** @param asked null: nothing that could be meant */
export async function compare(
  user: SignedIn,
  siteId: string,
  asked: { with: string } | { from: number; to: number } | null,
): Promise<Comparison> {
  await siteOf(user, siteId);
  if (!asked) throw new AppError("badRequest", "Say which two revisions are compared, or with which site.");
  return "with" in asked
    ? compareSites(user, siteId, asked.with)
    : compareRevisions(user, siteId, asked.from, asked.to);
}

/** What changed from one revision of a site to another, in words; whichever is the earlier. */
export async function compareRevisions(user: SignedIn, siteId: string, from: number, to: number): Promise<Comparison> {
  await siteOf(user, siteId);
  const [a, b] = await Promise.all([revisionAt(siteId, from), revisionAt(siteId, to)]);
  if (!a || !b) throw new AppError("notFound", `There is no revision ${a ? to : from} of this site.`);
  const changes = await heavy(user.organisationId, "differences", [a.siteFile, b.siteFile]);
  return { from: `revision ${from}`, to: `revision ${to}`, changes };
}

/** What is otherwise at another site, in words: pieces that are called alike are taken for each other. */
export async function compareSites(user: SignedIn, siteId: string, otherId: string): Promise<Comparison> {
  const [here, there] = await Promise.all([loadSite(user, siteId), loadSite(user, otherId)]);
  const changes = await heavy(user.organisationId, "siteDifferences", [here.file, there.file]);
  return { from: here.file.site.name, to: there.file.site.name, changes };
}
