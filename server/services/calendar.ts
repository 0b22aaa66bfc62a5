import { createHash, randomBytes } from "node:crypto";
import { CALENDAR_PLACES, type Calendar, type CalendarAddress, type CalendarQuery } from "../../contracts/calendar.ts";
import { addDays, localDate } from "../../core/dates/wall-time.ts";
import { officeCalendar } from "../../core/exports/office-calendar.ts";
import { calendarOf } from "../../core/visits/calendar.ts";
import { AppError } from "../app-error.ts";
import { asUser, type SignedIn } from "../auth/session.ts";
import {
  addressMadeAt,
  addressOf,
  dropAddress,
  setAddress,
  sitesOfCalendar,
  todosBetween,
  visitsBetween,
} from "../db/calendar.ts";
import { asOperator } from "../db/reach.ts";
import { asUser as personOf } from "../field/as-user.ts";
import { audited } from "./audited.ts";
import { dueOfSites } from "./duties.ts";

/** What another calendar is told: so many days back and ahead. */
const FEED = { back: 60, ahead: 300 };
/** A site's day is at most so far from the server's, days. */
const ZONES = 1;

/** What stands in the calendar of every site that somebody sees, between two days. */
export async function calendar(user: SignedIn, { from, to }: CalendarQuery, now: Date): Promise<Calendar> {
  const { organisationId } = user;
  const instant = (date: string): Date => new Date(`${date}T00:00:00Z`);
  const [sites, visits, todos, madeAt] = await Promise.all([
    sitesOfCalendar(organisationId),
    visitsBetween(organisationId, instant(addDays(from, -ZONES)), instant(addDays(to, ZONES + 1))),
    todosBetween(organisationId, from, to),
    addressMadeAt(user.userId),
  ]);
  const due = await dueOfSites(
    organisationId,
    sites.map(({ siteId, duties }) => ({ siteId, facts: { duties } })),
  );
  const [visitsAt, todosAt] = [bySite(visits), bySite(todos)];
  const entries = sites.flatMap(({ siteId, site, timeZone, dated, night, shortfallMin, ahead }) =>
    calendarOf(
      {
        siteId,
        site,
        today: localDate(timeZone, now.getTime() / 1000),
        due: due.get(siteId) ?? [],
        dated,
        nights: [{ date: night, shortfallMin }, ...ahead],
        visits: visitsAt(siteId).map((v) => ({
          id: v.id,
          on: localDate(timeZone, v.begunAt.getTime() / 1000),
          words: `${v.name}, ${v.by}`,
          open: v.endedAt === null,
        })),
        todos: todosAt(siteId).map((t) => ({
          id: t.id,
          on: t.due,
          words: t.owner ? `${t.words} (${t.owner})` : t.words,
        })),
      },
      { from, to },
    ),
  );
  return { entries: entries.sort((a, b) => a.on.localeCompare(b.on)), madeAt: madeAt?.toISOString() ?? null };
}

function bySite<T extends { siteId: string }>(all: readonly T[]): (siteId: string) => T[] {
  const by = new Map<string, T[]>();
  for (const one of all) by.set(one.siteId, [...(by.get(one.siteId) ?? []), one]);
  return (siteId) => by.get(siteId) ?? [];
}

const digestOf = (secret: string): Buffer => createHash("sha256").update(secret).digest();

/** A secret address of one's own from which other calendars read this one; the one before it leads nowhere from now on. */
export async function makeAddress(user: SignedIn): Promise<CalendarAddress> {
  const secret = randomBytes(24).toString("base64url");
  await setAddress({ organisationId: user.organisationId, userId: user.userId, digest: digestOf(secret) });
  await audited(user, "calendarAddress");
  return { path: `/api/calendar/${secret}` };
}

export const endAddress = (user: SignedIn): Promise<void> => dropAddress(user.userId);

/** The calendar of whoever has this address, as iCalendar (RFC 5545), a whole day each: what they see signed in, and no more. */
export async function calendarFeed(secret: string, now: Date): Promise<string> {
  const userId = await asOperator(() => addressOf(digestOf(secret)));
  const user = userId ? await asOperator(() => personOf(userId)) : null;
  if (!user) throw new AppError("notFound", "There is no calendar at this address. It was changed, or never was.");
  const today = localDate("UTC", now.getTime() / 1000);
  const days = { from: addDays(today, -FEED.back), to: addDays(today, FEED.ahead) };
  const { entries } = await asUser(user, () => calendar(user, days, now));
  const base = process.env["PRESA_ADDRESS"]?.replace(/\/$/, "");
  return officeCalendar(entries, now.toISOString(), (e) =>
    base ? `${base}/sites/${e.siteId}/${CALENDAR_PLACES[e.what]}` : null,
  );
}
