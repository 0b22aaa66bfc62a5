import { z } from "zod";
import type { NightShort } from "../../core/visits/calendar.ts";
import type { Dated } from "../../core/visits/dated.ts";
import type { DutySubject } from "../../core/visits/duties.ts";
import { db } from "./connection.ts";

const siteRow = z.object({
  siteId: z.string(),
  site: z.string(),
  timeZone: z.string(),
  duties: z.custom<DutySubject[]>(),
  dated: z.custom<Dated[]>(),
  night: z.string(),
  shortfallMin: z.number(),
  ahead: z.custom<NightShort[]>(),
});
/** Sites that are worked on, with what of their settings stands in the calendar, as it was worked out last. */
export async function sitesOfCalendar(organisationId: string): Promise<z.infer<typeof siteRow>[]> {
  const { rows } = await db().raw(
    `select s.id as site_id, s.name as site, m.facts ->> 'timeZone' as time_zone, m.facts -> 'duties' as duties, m.facts -> 'dated' as dated,
       m.summary ->> 'date' as night, (m.summary ->> 'shortfallMin')::float8 as shortfall_min, coalesce(n.nights, '[]') as ahead
     from site s join site_summary m on m.site_id = s.id
     left join night_ahead n on n.site_id = s.id and n.version = m.version and n.date = m.date
     where s.organisation_id = ? and s.archived_at is null order by lower(s.name), s.id`,
    [organisationId],
  );
  return z.array(siteRow).parse(rows);
}

const visitRow = z.object({
  siteId: z.string(),
  id: z.string(),
  name: z.string(),
  by: z.string(),
  begunAt: z.date(),
  endedAt: z.date().nullable(),
});
export async function visitsBetween(organisationId: string, from: Date, to: Date): Promise<z.infer<typeof visitRow>[]> {
  const rows: unknown[] = await db()("visit")
    .where({ organisationId })
    .whereBetween("begun_at", [from, to])
    .select("site_id", "id", "name", "by_name as by", "begun_at", "ended_at");
  return z.array(visitRow).parse(rows);
}

const todoRow = z.object({
  siteId: z.string(),
  id: z.string(),
  words: z.string(),
  owner: z.string().nullable(),
  due: z.string(),
});
export async function todosBetween(
  organisationId: string,
  from: string,
  to: string,
): Promise<z.infer<typeof todoRow>[]> {
  const rows: unknown[] = await db()("todo as t")
    .leftJoin("app_user as u", "u.id", "t.owner_id")
    .where("t.organisation_id", organisationId)
    .whereNull("t.done_at")
    .whereBetween("t.due", [from, to])
    .select("t.site_id", "t.id", "t.words", "u.name as owner", db().raw("t.due::text as due"));
  return z.array(todoRow).parse(rows);
}

/** Since when somebody has an address for other calendars. */
export async function addressMadeAt(userId: string): Promise<Date | null> {
  const row: { madeAt: Date } | undefined = await db()("calendar_address").where({ userId }).first("made_at");
  return row?.madeAt ?? null;
}

/** Another address in place of the one that was. */
export async function setAddress(of: { organisationId: string; userId: string; digest: Buffer }): Promise<void> {
  await db()("calendar_address")
    .insert({ ...of, madeAt: db().fn.now() })
    .onConflict("user_id")
    .merge();
}

export async function dropAddress(userId: string): Promise<void> {
  await db()("calendar_address").where({ userId }).delete();
}

/** Whose address this is; none's where they have left. */
export async function addressOf(digest: Buffer): Promise<string | null> {
  const row: { userId: string } | undefined = await db()("calendar_address as c")
    .join("app_user as u", "u.id", "c.user_id")
    .where("c.digest", digest)
    .whereNull("u.left_at")
    .first("c.user_id");
  return row?.userId ?? null;
}
