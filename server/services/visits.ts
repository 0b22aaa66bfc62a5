import type { z } from "zod";
import type { VisitBegun, VisitBook, VisitEntry, visitEntries, VisitView } from "../../contracts/visits.ts";
import { localDate } from "../../core/dates/wall-time.ts";
import { DUTY_KINDS, dutySubjects } from "../../core/visits/duties.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { insertDutyDone, visitSetupOf } from "../db/duties.ts";
import { noteNamed } from "../db/kept-files.ts";
import { insertTodo } from "../db/todos.ts";
import { colleagues } from "../db/users.ts";
import {
  insertLook,
  insertVisit,
  keepVisit,
  type LookRow,
  lockVisit,
  looksOf,
  type VisitRow,
  visitsOf,
} from "../db/visits.ts";
import { mustHaveHappened } from "./not-ahead.ts";
import { loadSite, mustBeWorkedOn, siteOf } from "./sites.ts";
import { mustBeColleague } from "./todos.ts";
import { siteWalks } from "./walks.ts";

const SHOWN = 100;

/** The visits of a site, newest first, with what there is to begin another. */
export async function visitBook(user: SignedIn, siteId: string): Promise<VisitBook> {
  await siteOf(user, siteId);
  const [rows, walks, people, setup] = await Promise.all([
    visitsOf(siteId, SHOWN),
    siteWalks(user, siteId),
    colleagues(user.organisationId),
    visitSetupOf(user.organisationId),
  ]);
  const looks = await looksOf(rows.map((r) => r.id));
  return {
    visits: rows.map((r) => shown(user, r, looks)),
    walks,
    people: people.map(({ id, name }) => ({ id, name })),
    setup,
  };
}

function shown(user: SignedIn, { byId, byName, ...row }: VisitRow, looks: readonly LookRow[]): VisitView {
  const looked = looks
    .filter((l) => l.visitId === row.id)
    .map(({ visitId: _, byName: by, ...look }) => ({ ...look, by }));
  return { ...row, by: byName, mine: byId === user.userId, looked };
}

/** Begins a visit with the checklist as it stands; asked again under its id, once. */
export async function beginVisit(user: SignedIn, siteId: string, begun: VisitBegun, now: Date): Promise<VisitBook> {
  mustBeWorkedOn(await siteOf(user, siteId));
  const list = (await visitSetupOf(user.organisationId)).checklists.find((c) => c.id === begun.checklistId);
  if (!list) throw new AppError("badRequest", "There is no such checklist any more. Choose another.");
  mustHaveHappened(begun.begunAt, now);
  const { name, lines } = list;
  const by = { byId: user.userId, byName: user.name };
  if (!(await insertVisit({ organisationId: user.organisationId, siteId }, { ...begun, name, lines, ...by })))
    throw new AppError("conflict", "Another visit has this id. Begin it again.");
  return visitBook(user, siteId);
}

/**
 * Takes in what was looked at, each once under its id: what is not in order becomes something to do, what was done anew is noted with its day. Ends the visit where it says
 * so; what comes after its end is taken in too, since a phone may send late.
 */
export async function enterVisit(
  user: SignedIn,
  siteId: string,
  visitId: string,
  { entries, endedAt, note }: z.output<typeof visitEntries>,
  now: Date,
): Promise<VisitBook> {
  const { file } = await loadSite(user, siteId);
  mustBeWorkedOn(await siteOf(user, siteId));
  for (const e of entries) await mustBeColleague(user, e.todo?.ownerId);
  await inTransaction(async () => {
    const visit = await lockVisit(siteId, visitId);
    if (!visit) throw new AppError("notFound", "There is no such visit at this site.");
    if (visit.byId !== user.userId)
      throw new AppError("notAllowed", `This visit is ${visit.byName}'s. Begin one of your own.`);
    for (const e of entries) await enter(user, siteId, file, visit, e, now);
    if (endedAt) mustHaveHappened(endedAt, now);
    if (endedAt && Date.parse(endedAt) < Date.parse(visit.begunAt))
      throw new AppError("badRequest", "A visit ends after it has begun.");
    await keepVisit(visitId, { endedAt: endedAt ? new Date(endedAt) : null, note });
  });
  return visitBook(user, siteId);
}

async function enter(
  user: SignedIn,
  siteId: string,
  file: SiteFile,
  visit: VisitRow,
  entry: VisitEntry,
  now: Date,
): Promise<void> {
  const line = visit.lines.find((l) => l.id === entry.lineId);
  if (!line) throw new AppError("badRequest", `${visit.name} has no such line.`);
  mustHaveHappened(entry.at, now);
  const of = { organisationId: user.organisationId, siteId };
  if (!(await insertLook(of, visit.id, entry, user.name))) return;
  await noteNamed(siteId, entry.photoIds);
  if (entry.todo)
    await insertTodo(of, {
      ...entry.todo,
      id: entry.id,
      subjectId: null,
      photoIds: entry.photoIds,
      madeBy: user.name,
      madeAt: new Date(entry.at),
      visitId: visit.id,
      lineId: line.id,
    });
  const { duty } = line;
  if (entry.state !== "done" || !duty || !DUTY_KINDS[duty].noted) return;
  const there = dutySubjects(file).filter((s) => s.duty === duty && entry.doneOf.includes(s.subjectId));
  const on = localDate(file.site.timeZone, Date.parse(entry.at) / 1000);
  for (const { subjectId } of there)
    await insertDutyDone(of, {
      id: crypto.randomUUID(),
      duty,
      subjectId,
      on,
      words: entry.note.slice(0, 500),
      by: user.name,
      visitId: visit.id,
    });
}
