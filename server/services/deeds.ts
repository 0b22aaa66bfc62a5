import type { ManyAsked } from "../../contracts/controllers.ts";
import type { DeedView, SitePreview } from "../../contracts/deeds.ts";
import { nth } from "../../core/checked.ts";
import { localDate } from "../../core/dates/wall-time.ts";
import { type DeedChange, deedWords, isOffice } from "../../contracts/office-change.ts";
import type { ManyChange } from "../../core/many/many-change.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { deedById, deedSites, insertDeed, insertDeedSite, newestDeeds, setUndone } from "../db/deeds.ts";
import { revisionAt } from "../db/revisions.ts";
import { siteById, type SiteStanding, sitesAsTheyStand } from "../db/sites.ts";
import { heavy } from "../heavy/pool.ts";
import type { Tasks } from "../heavy/tasks.ts";
import { eachOf } from "./each-of.ts";
import { audited } from "./audited.ts";
import { doOffice, mayChangeOffice, previewOffice, siteGone, undoOffice } from "./office-deeds.ts";
import { restoreRevision, saveSettled, siteOf } from "./sites.ts";

const SHOWN = 30;
/** As the table of deeds takes it. */
const LONGEST_NAME = 200;
/** So many parts of one request are worked out beside each other, and so many sites are a part of a look. */
const AT_ONCE = 4;
const A_PART = 5;

/** What a change would do to some sites, before anybody makes it; in their order. */
export async function previewMany(
  user: SignedIn,
  { siteIds, change }: { siteIds: string[]; change: DeedChange },
  now: Date,
): Promise<SitePreview[]> {
  if (isOffice(change)) return previewOffice(user, [...new Set(siteIds)], change);
  const sites = await sitesAsTheyStand(user.organisationId, [...new Set(siteIds)]);
  if (sites.length < new Set(siteIds).size) throw siteGone();
  const parts = Array.from({ length: Math.ceil(sites.length / A_PART) }, (_, i) =>
    sites.slice(i * A_PART, (i + 1) * A_PART),
  );
  const seen = await eachOf(parts, AT_ONCE, async (part) => {
    const asked = part.map((s) => {
      const date = localDate(s.timeZone, now.getTime() / 1000);
      return { siteText: s.siteText, date, known: s.date === date ? s.known : null };
    });
    const made = await heavy(user.organisationId, "manyOnSites", [asked, change]);
    return part.map((s, i) => previewOf(s, nth(asked, i).date, nth(made, i)));
  });
  return seen.flat();
}

function previewOf(
  { siteId, version }: SiteStanding,
  date: string,
  made: Awaited<ReturnType<Tasks["manyOnSites"]>>[number],
): SitePreview {
  const seen = { siteId, version, localDate: date };
  const none = { finish: null, shortfallMin: 0, ofBudget: null };
  if (!made.ok)
    return {
      ...seen,
      changes: [],
      before: none,
      after: none,
      come: [],
      go: [],
      problem: made.problems[0]?.message ?? "It does not fit this site.",
    };
  const { changes, before, after, come, go } = made;
  return {
    ...seen,
    changes: changes.map((c) => c.words),
    before,
    after,
    come,
    go,
    problem: null,
  };
}

async function revisionOf(siteId: string, version: number) {
  const revision = await revisionAt(siteId, version);
  if (!revision) throw new AppError("notFound", `There is no revision ${version} of this site.`);
  return revision;
}

/** Begins a deed; asked again under its id it is the same one. */
export async function beginDeed(user: SignedIn, { id, change }: { id: string; change: DeedChange }): Promise<void> {
  if (isOffice(change)) await mayChangeOffice(user, change);
  const name = deedWords(change).slice(0, LONGEST_NAME);
  const begun = await insertDeed({ id, organisationId: user.organisationId, name, change, madeBy: user.userId });
  if (begun) await audited(user, "changedMany", name);
  else if (!(await deedById(user.organisationId, id)))
    throw new AppError("conflict", "That is another's deed. Begin anew.");
}

/** Makes a deed's change on some sites, each in the revision that was looked at. A site that somebody saved meanwhile is told and left; one on which it was done already is not done again. */
export async function doDeed(
  user: SignedIn,
  deedId: string,
  sites: readonly { siteId: string; version: number }[],
  now: Date,
): Promise<ManyAsked> {
  const deed = await deedById(user.organisationId, deedId);
  if (!deed) throw new AppError("notFound", "There is no such deed. Begin anew.");
  const done = new Set(
    (
      await deedSites(
        deedId,
        sites.map((s) => s.siteId),
      )
    ).map((s) => s.siteId),
  );
  const left = sites.filter((s) => !done.has(s.siteId));
  return told(
    done.size,
    await eachOf(left, AT_ONCE, ({ siteId, version }) =>
      tried(user, siteId, async () => {
        if (isOffice(deed.change)) return doOffice(user, { deedId, siteId }, deed.change);
        const base = await revisionOf(siteId, version);
        const date = localDate(base.siteFile.site.timeZone, now.getTime() / 1000);
        const asked: [typeof base.siteFile, ManyChange, string, string] = [
          base.siteFile,
          deed.change,
          date,
          now.toISOString(),
        ];
        const settled = await heavy(user.organisationId, "manyToSave", asked);
        const { organisationId } = user;
        const of = { organisationId, deedId, siteId, beforeVersion: version };
        await saveSettled(user, siteId, { ...base, version }, settled, deed.name, (saved) =>
          insertDeedSite({ ...of, afterVersion: saved.version }),
        );
      }),
    ),
  );
}

/** Takes a deed back on some sites: each as it was before. A site that somebody saved since keeps what they saved, and is told. */
export async function undoDeed(user: SignedIn, deedId: string, siteIds: readonly string[]): Promise<ManyAsked> {
  const deed = await deedById(user.organisationId, deedId);
  if (!deed) throw new AppError("notFound", "There is no such deed.");
  const stand = (await deedSites(deedId, [...siteIds])).filter((s) => s.undoneVersion === null);
  const outcome = told(
    0,
    await eachOf(stand, AT_ONCE, ({ siteId, beforeVersion, afterVersion, was }) =>
      tried(user, siteId, async () => {
        if (isOffice(deed.change)) return undoOffice(user, { deedId, siteId, was }, deed.change);
        const { version } = await siteOf(user, siteId);
        if (version !== afterVersion)
          throw new AppError("staleVersion", "somebody saved it since; take it back there, under Log");
        const back = await restoreRevision(user, siteId, beforeVersion, afterVersion);
        await setUndone(deedId, siteId, back.version);
      }),
    ),
  );
  if (outcome.asked > 0) await audited(user, "undidMany", `${deed.name}, ${outcome.asked} sites`);
  return outcome;
}

/** The newest deeds, with the sites on which they stand. */
export const deedList = (user: SignedIn): Promise<DeedView[]> => newestDeeds(user.organisationId, SHOWN);

/** What came of a site: nothing to tell, or its name and why it was left. */
async function tried(user: SignedIn, siteId: string, work: () => Promise<void>): Promise<string | null> {
  try {
    await work();
    return null;
  } catch (error) {
    if (!(error instanceof AppError)) throw error;
    const name = (await siteById(user.organisationId, siteId))?.name ?? "A site that is gone";
    return `${name}: ${error.code === "staleVersion" && "current" in error.details ? "somebody saved it meanwhile; look at it again" : error.message}`;
  }
}

function told(before: number, outcomes: readonly (string | null)[]): ManyAsked {
  const not = outcomes.filter((o) => o !== null);
  return { asked: before + outcomes.length - not.length, not };
}
