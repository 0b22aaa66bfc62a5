import type { DutyNoted, SiteDue, VisitSetup } from "../../contracts/visits.ts";
import { localDate } from "../../core/dates/wall-time.ts";
import type { SiteFacts } from "../../core/summary/site-facts.ts";
import { DUTY_KINDS, type DueDay, dueDays, dutySubjects } from "../../core/visits/duties.ts";
import { AppError } from "../app-error.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { dropDutyDone, dutiesDone, dutiesOf, insertDutyDone, keepVisitSetup, visitSetupOf } from "../db/duties.ts";
import { audited } from "./audited.ts";
import { loadSite, mustBeWorkedOn, siteOf } from "./sites.ts";

const SHOWN = 200;

export const visitSetup = (user: SignedIn): Promise<VisitSetup> => visitSetupOf(user.organisationId);

/** Keeps what the organisation looks at and asks for; whoever looked at an earlier one is told so. */
export async function changeVisitSetup(user: SignedIn, setup: VisitSetup): Promise<VisitSetup> {
  await inTransaction(async () => {
    if (!(await keepVisitSetup(user.organisationId, setup, user.name)))
      throw new AppError(
        "conflict",
        "Somebody has changed this since you looked. Load the page again; nothing was kept.",
      );
    await audited(user, "visitsChanged");
  });
  return visitSetupOf(user.organisationId);
}

/** What is to be done anew at a site, each with its day, and what was noted of it. */
export async function siteDue(user: SignedIn, siteId: string): Promise<SiteDue> {
  return dueOfFile(user, siteId, (await loadSite(user, siteId)).file);
}

/** The same of a site whose file is read already. */
export async function dueOfFile(user: SignedIn, siteId: string, file: SiteFile): Promise<SiteDue> {
  const [rules, done, of] = await Promise.all([
    visitSetupOf(user.organisationId),
    dutiesDone(siteId, SHOWN),
    dutiesOf([siteId]),
  ]);
  const due = dueDays(dutySubjects(file), of.done, rules.duties, of.since.get(siteId) as string);
  return { due, done: done.map(({ siteId: _, ...d }) => d) };
}

/** Notes that something was done anew, once under its id. */
export async function noteDutyDone(user: SignedIn, siteId: string, noted: DutyNoted, now: Date): Promise<SiteDue> {
  const { file } = await loadSite(user, siteId);
  mustBeWorkedOn(await siteOf(user, siteId));
  const { duty, subjectId, on } = noted;
  const kind = DUTY_KINDS[duty];
  if (!kind.noted)
    throw new AppError(
      "badRequest",
      `The settings tell of a ${kind.words} by themselves: do it there, and it is noted.`,
    );
  if (!dutySubjects(file).some((s) => s.duty === duty && s.subjectId === subjectId))
    throw new AppError("badRequest", `This site has nothing that such a ${kind.words} is of.`);
  if (on > localDate(file.site.timeZone, now.getTime() / 1000))
    throw new AppError("badRequest", "That day is still to come. Look at the date.");
  await insertDutyDone({ organisationId: user.organisationId, siteId }, { ...noted, by: user.name });
  return siteDue(user, siteId);
}

export async function takeDutyOut(user: SignedIn, siteId: string, id: string): Promise<SiteDue> {
  mustBeWorkedOn(await siteOf(user, siteId));
  if (!(await dropDutyDone(siteId, id))) throw new AppError("notFound", "That is gone already.");
  return siteDue(user, siteId);
}

/** Of each of these sites of an organisation, what is to be done anew, by facts that were worked out before. */
export async function dueOfSites(
  organisationId: string,
  sites: readonly { siteId: string; facts: Pick<SiteFacts, "duties"> }[],
): Promise<Map<string, DueDay[]>> {
  const [rules, of] = await Promise.all([visitSetupOf(organisationId), dutiesOf(sites.map((s) => s.siteId))]);
  return new Map(
    sites.map(({ siteId, facts }) => [
      siteId,
      dueDays(
        facts.duties,
        of.done.filter((d) => d.siteId === siteId),
        rules.duties,
        of.since.get(siteId) as string,
      ),
    ]),
  );
}
