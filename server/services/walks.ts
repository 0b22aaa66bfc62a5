import { PROBLEM_WORDS, type WalkLook, type WalkView } from "../../contracts/walks.ts";
import type { Station } from "../../core/site-file/schema.ts";
import { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { inTransaction } from "../db/connection.ts";
import { noteNamed } from "../db/kept-files.ts";
import { insertTodo } from "../db/todos.ts";
import {
  endWalk,
  insertWalk,
  insertWalkLook,
  lockWalk,
  type WalkLookRow,
  type WalkRow,
  walkLooksOf,
  walksOf,
} from "../db/walks.ts";
import { loadSite, mustBeWorkedOn, siteOf } from "./sites.ts";
import { mustBeColleague } from "./todos.ts";

const SHOWN = 50;

/** The walks of a site that is the organisation's own, newest first. */
export async function siteWalks(user: SignedIn, siteId: string): Promise<WalkView[]> {
  const rows = await walksOf(siteId, SHOWN);
  const looks = await walkLooksOf(rows.map((r) => r.id));
  return rows.map((r) => shown(user, r, looks));
}

function shown(user: SignedIn, { byId, byName, ...row }: WalkRow, looks: readonly WalkLookRow[]): WalkView {
  const looked = looks
    .filter((l) => l.walkId === row.id)
    .map(({ walkId: _, byName: by, ...look }) => ({ ...look, by }));
  return { ...row, by: byName, mine: byId === user.userId, looked };
}

export async function beginWalk(
  user: SignedIn,
  siteId: string,
  { walkId, stationIds }: { walkId: string; stationIds: string[] },
  begunAt: Date,
): Promise<void> {
  mustBeWorkedOn(await siteOf(user, siteId));
  const by = { byId: user.userId, byName: user.name };
  const of = { organisationId: user.organisationId, siteId };
  if (!(await insertWalk(of, { id: walkId, stationIds, begunAt, ...by })))
    throw new AppError("conflict", "Another walk has this id. Begin it again.");
}

/** What came of a station, once under its id: a problem becomes something to do. A station that is gone by now is noted all the same. */
export async function enterWalkLook(
  user: SignedIn,
  siteId: string,
  id: string,
  look: WalkLook,
  at: Date,
): Promise<void> {
  const { file } = await loadSite(user, siteId);
  mustBeWorkedOn(await siteOf(user, siteId));
  await mustBeColleague(user, look.ownerId);
  await inTransaction(async () => {
    await ownWalk(user, siteId, look.walkId);
    const of = { organisationId: user.organisationId, siteId };
    if (!(await insertWalkLook(of, id, look, { at, byName: user.name }))) return;
    await noteNamed(siteId, look.photoIds);
    if (look.state !== "problem") return;
    const station = file.stations.find((s) => s.id === look.stationId);
    const { ownerId, due, photoIds } = look;
    const words = problemWords(station, look);
    const todo = { id, words, ownerId, due, photoIds, subjectId: station?.id ?? null, madeBy: user.name, madeAt: at };
    await insertTodo(of, todo);
  });
}

const LONGEST_TODO = 500;
function problemWords(station: Station | undefined, { problem, note, stationId }: WalkLook): string {
  const where = station ? `${station.number} ${station.name}` : stationId;
  return [`${where}: ${PROBLEM_WORDS[problem ?? "other"]}`, note].filter(Boolean).join(". ").slice(0, LONGEST_TODO);
}

export async function finishWalk(
  user: SignedIn,
  siteId: string,
  { walkId, note }: { walkId: string; note: string },
  at: Date,
): Promise<void> {
  mustBeWorkedOn(await siteOf(user, siteId));
  await inTransaction(async () => {
    const walk = await ownWalk(user, siteId, walkId);
    // Two clocks may differ: it never ends before it begins.
    await endWalk(walkId, new Date(Math.max(at.getTime(), Date.parse(walk.begunAt))), note);
  });
}

async function ownWalk(user: SignedIn, siteId: string, walkId: string): Promise<WalkRow> {
  const walk = await lockWalk(siteId, walkId);
  if (!walk) throw new AppError("notFound", "There is no such walk at this site.");
  if (walk.byId !== user.userId)
    throw new AppError("notAllowed", `This walk is ${walk.byName}'s. Begin one of your own.`);
  return walk;
}
