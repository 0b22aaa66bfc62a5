import type { ManyAsked } from "../../contracts/controllers.ts";
import type { DeedView, SitePreview } from "../../contracts/deeds.ts";
import { localDate } from "../../core/dates/wall-time.ts";
import { type ManyChange, manyWords } from "../../core/many/many-change.ts";
import type { NightSummary } from "../../core/summary/night-summary.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { deedById, deedSites, insertDeed, insertDeedSite, newestDeeds, setUndone } from "../db/deeds.ts";
import { revisionAt } from "../db/revisions.ts";
import { siteById } from "../db/sites.ts";
import { heavy } from "../heavy/pool.ts";
import { audited } from "./audited.ts";
import { restoreRevision, saveSettled, siteOf } from "./sites.ts";

const SHOWN = 30;
/** So many sites of one request are worked out beside each other. */
const AT_ONCE = 4;

/** Works on all, some beside each other; what comes of each, in their order. */
async function eachOf<T, R>(items: readonly T[], work: (item: T) => Promise<R>): Promise<R[]> {
  const done: R[] = [];
  for (let i = 0; i < items.length; i += AT_ONCE)
    done.push(...(await Promise.all(items.slice(i, i + AT_ONCE).map(work))));
  return done;
}

/** What a change would do to some sites, before anybody makes it. */
export function previewMany(
  user: SignedIn,
  { siteIds, change }: { siteIds: string[]; change: ManyChange },
  now: Date,
): Promise<SitePreview[]> {
  return eachOf([...new Set(siteIds)], (siteId) => previewOne(user, siteId, change, now));
}

async function previewOne(user: SignedIn, siteId: string, change: ManyChange, now: Date): Promise<SitePreview> {
  const { version } = await siteOf(user, siteId);
  const { siteFile } = await revisionOf(siteId, version);
  const date = localDate(siteFile.site.timeZone, now.getTime() / 1000);
  const seen = { siteId, version, localDate: date };
  const made = await heavy(user.organisationId, "manyOnSite", [siteFile, change, date]);
  const none = { finish: null, shortfallMin: 0 };
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
    before: figures(before),
    after: figures(after),
    come,
    go,
    problem: null,
  };
}

const figures = ({ finish, shortfallMin }: NightSummary) => ({ finish, shortfallMin });

async function revisionOf(siteId: string, version: number) {
  const revision = await revisionAt(siteId, version);
  if (!revision) throw new AppError("notFound", `There is no revision ${version} of this site.`);
  return revision;
}

/** Begins a deed; asked again under its id it is the same one. */
export async function beginDeed(user: SignedIn, { id, change }: { id: string; change: ManyChange }): Promise<void> {
  const name = manyWords(change);
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
    await eachOf(left, ({ siteId, version }) =>
      tried(user, siteId, async () => {
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
    await eachOf(stand, ({ siteId, beforeVersion, afterVersion }) =>
      tried(user, siteId, async () => {
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
