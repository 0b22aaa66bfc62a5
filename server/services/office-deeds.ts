import type { SitePreview } from "../../contracts/deeds.ts";
import type { OfficeChange } from "../../contracts/office-change.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { insertDeedSite, setUndone } from "../db/deeds.ts";
import { tell } from "../db/listen.ts";
import { sessionsOf } from "../db/people.ts";
import { seenOf, setSeen, sitesSeenBy, sortedSites } from "../db/site-groups.ts";
import { lockSite, versionsOf } from "../db/sites.ts";
import { userById } from "../db/users.ts";
import { audited } from "./audited.ts";
import { putSorted } from "./groups.ts";
import { siteOf } from "./sites.ts";

/** One change of the office's own on many sites: how they are sorted, and who sees them. No revision comes of it. */

/** Who may do it, and whether it can be done at all. */
export async function mayChangeOffice(user: SignedIn, change: OfficeChange): Promise<void> {
  if (user.role !== "manager")
    throw new AppError("notAllowed", "Who sees which sites, and how they are sorted, a manager says.");
  if (change.kind !== "person") return;
  const seen = await sitesSeenBy(user.organisationId, change.personId);
  if (seen === undefined) throw new AppError("notFound", "There is no such person here.");
  const name = (await userById(change.personId))?.name;
  if (name !== change.name) throw new AppError("conflict", `They are called ${name} now. Choose the person once more.`);
  if (seen === null)
    throw new AppError("conflict", `${change.name} sees every site. Give them some only first, under Organisation.`);
}

/** What is so of each site now, in words: the name of its group, or whether it is seen. */
async function asItIs(
  user: SignedIn,
  siteIds: string[],
  change: OfficeChange,
): Promise<(siteId: string) => string | null> {
  if (change.kind === "group") {
    const sites = new Map((await sortedSites(user.organisationId)).map((s) => [s.id, s[change.group]]));
    return (id) => sites.get(id) ?? null;
  }
  const seen = await seenOf(change.personId, siteIds);
  return (id) => (seen.has(id) ? "sees it" : "does not see it");
}

const asAsked = (change: OfficeChange): string | null => {
  if (change.kind === "group") return change.name;
  return change.sees ? "sees it" : "does not see it";
};
/** Groups are one whatever their capitals. */
const alike = (a: string | null, b: string | null): boolean => (a ?? "").toLowerCase() === (b ?? "").toLowerCase();

/** One that was asked for is not there any more. */
export const siteGone = (): AppError =>
  new AppError("notFound", "One of these sites is not in your organisation any more. Load the page again.");

export async function previewOffice(user: SignedIn, siteIds: string[], change: OfficeChange): Promise<SitePreview[]> {
  await mayChangeOffice(user, change);
  const [sites, now] = await Promise.all([versionsOf(user.organisationId, siteIds), asItIs(user, siteIds, change)]);
  if (sites.length < siteIds.length) throw siteGone();
  const what = change.kind === "group" ? change.group : change.name;
  const after = asAsked(change);
  return sites.map(({ siteId, version }) => {
    const before = now(siteId);
    return {
      siteId,
      version,
      changes: alike(before, after) ? [] : [`${what}: ${before ?? "none"} → ${after ?? "none"}`],
      before: null,
      after: null,
      come: [],
      go: [],
      localDate: "",
      problem: null,
    };
  });
}

async function put(
  user: SignedIn,
  siteId: string,
  change: OfficeChange,
  value: string | null,
  within: () => Promise<void>,
): Promise<void> {
  if (change.kind === "group") return putSorted(user, siteId, { [change.group]: value }, within);
  await inTransaction(async () => {
    const site = await lockSite(user.organisationId, siteId);
    if (!site) throw new AppError("notFound", "There is no such site in your organisation.");
    const sees = value === "sees it";
    await setSeen({ organisationId: user.organisationId, userId: change.personId, siteId }, sees);
    await audited(user, "sitesGiven", `${change.name}: ${site.name} ${sees ? "given" : "taken"}`);
    await within();
  });
  for (const { id } of await sessionsOf(change.personId)) await tell(`session_${id}`, { type: "again" });
}

/** Does it to a site; what was so before is kept with the deed. */
export async function doOffice(
  user: SignedIn,
  { deedId, siteId }: { deedId: string; siteId: string },
  change: OfficeChange,
): Promise<void> {
  await mayChangeOffice(user, change);
  const { version } = await siteOf(user, siteId);
  const was = (await asItIs(user, [siteId], change))(siteId);
  const of = { organisationId: user.organisationId, deedId, siteId, beforeVersion: version, afterVersion: version };
  await put(user, siteId, change, asAsked(change), () => insertDeedSite({ ...of, was }));
}

/** Takes it back on a site, as long as it is still as the deed made it. */
export async function undoOffice(
  user: SignedIn,
  { deedId, siteId, was }: { deedId: string; siteId: string; was: string | null },
  change: OfficeChange,
): Promise<void> {
  await mayChangeOffice(user, change);
  const { version } = await siteOf(user, siteId);
  if (!alike((await asItIs(user, [siteId], change))(siteId), asAsked(change)))
    throw new AppError("staleVersion", "somebody changed it since");
  await put(user, siteId, change, was, () => setUndone(deedId, siteId, version));
}
