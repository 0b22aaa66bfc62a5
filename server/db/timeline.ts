import { z } from "zod";
import { HAPPENED, type Happened, TOLD_BY, type ToldBy } from "../../contracts/timeline.ts";
import { db, planned } from "./connection.ts";

/** @property at an instant, to the microsecond as the database has it: a page ends exactly there */
const happening = z.object({ at: z.string(), sort: z.enum(HAPPENED), ref: z.string() });
export type Happening = z.infer<typeof happening>;

/**
 * What happened at a site between two instants, newest first.
 *
 * @param before what the page before ended with
 * @param wanted sorts and heads; none: everything
 */
export async function happeningsOf(
  siteId: string,
  {
    from,
    to,
    before,
    wanted,
    limit,
  }: { from: Date; to: Date; before: Happening | null; wanted: readonly string[]; limit: number },
): Promise<Happening[]> {
  const cut = before ? "and (at, sort, ref) < (cast(:at as timestamptz), cast(:sort as text), cast(:ref as text))" : "";
  const within = `site_id = cast(:siteId as uuid) and at >= cast(:from as timestamptz) and at < cast(:to as timestamptz) ${cut}`;
  const newest = "order by at desc, sort desc, ref desc limit :limit";
  // Of each head by its own index: a rare one is not looked for among all that happened.
  const found =
    wanted.length === 0
      ? `select at, sort, ref from happening where ${within} ${newest}`
      : `select h.at, h.sort, h.ref from unnest(cast(:wanted as text[])) x(wanted) cross join lateral (
           select at, sort, ref from happening where ${within} and sort = x.wanted ${newest}) h
         union
         (select at, sort, ref from happening where ${within} and also <> '{}' and also && cast(:wanted as text[]) ${newest})`;
  const { rows } = await planned(
    `select to_char(f.at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"') as at, f.sort, f.ref from (${found}) f
     order by f.at desc, f.sort desc, f.ref desc limit :limit`,
    { siteId, from, to, limit, ...(before ?? {}), ...(wanted.length > 0 ? { wanted: [...wanted] } : {}) },
  );
  return z.array(happening).parse(rows);
}

/** When a site's history begins; null: nothing has happened. */
export async function firstHappening(siteId: string): Promise<Date | null> {
  const row: { at: Date } | undefined = await db()("happening").where({ siteId }).orderBy("at").first("at");
  return row?.at ?? null;
}

/** What finds each sort again, with what tells it. */
const FOUND: Record<Happened, string> = {
  save: `select r.version::text as ref, case when r.by_site then 'The controller' else u.name end as who, r.note, r.changes -> 0 ->> 'words' as first, jsonb_array_length(r.changes) as changes
      from revision r join app_user u on u.id = r.made_by where r.site_id = :siteId and r.version = any(cast(:refs as int[]))`,
  send: `select s.id::text as ref, u.name as who, s.controller_id, s.version, s.state, s.reason from controller_send s left join app_user u on u.id = s.asked_by
      where s.site_id = :siteId and s.id = any(cast(:refs as uuid[]))`,
  order: `select o.id::text as ref, u.name as who, o.what, o.state, o.reason from controller_order o left join app_user u on u.id = o.asked_by
      where o.site_id = :siteId and o.id = any(cast(:refs as uuid[]))`,
  alarm: `select a.id::text as ref, a.kind, a.subject_id, a.message, a.state, a.bench_run_id is not null as rehearsed from alarm a
      where a.site_id = :siteId and a.id = any(cast(:refs as uuid[]))`,
  deed: `select e.id::text as ref, u.name as who, e.action, e.words, a.id::text as alarm_id, a.kind, a.subject_id
      from alarm_entry e join alarm a on a.id = e.alarm_id left join app_user u on u.id = e.made_by
      where a.site_id = :siteId and e.id = any(cast(:refs as uuid[]))`,
  learning: `select l.id::text as ref, u.name as who, l.state, l.how, (select count(*)::int from learning_result x where x.run_id = l.id) as results
      from learning_run l left join app_user u on u.id = l.asked_by where l.site_id = :siteId and l.id = any(cast(:refs as uuid[]))`,
  visit: `select v.id::text as ref, v.by_name as who, v.name, v.note, v.ended_at is null as open from visit v
      where v.site_id = :siteId and v.id = any(cast(:refs as uuid[]))`,
  walk: `select w.id::text as ref, w.by_name as who, w.note, w.ended_at is null as open, cardinality(w.station_ids) as stations,
      n.fine, n.problems from walk w, lateral (select count(*) filter (where state = 'fine')::int as fine, count(*) filter (where state = 'problem')::int as problems
        from (select distinct on (station_id) state from walk_entry e where e.walk_id = w.id order by station_id, at desc, made_at desc) newest) n
      where w.site_id = :siteId and w.id = any(cast(:refs as uuid[]))`,
  todo: `select t.id::text as ref, t.made_by as who, t.words, t.done_by, t.done_words from todo t where t.site_id = :siteId and t.id = any(cast(:refs as uuid[]))`,
  due: `select d.id::text as ref, d.by_name as who, d.duty, d.subject_id, d.on_day::text as on, d.words from duty_done d
      where d.site_id = :siteId and d.id = any(cast(:refs as uuid[]))`,
  meter: `select m.id::text as ref, m.by_name as who, m.meter_id, m.m3, m.note from meter_reading m where m.site_id = :siteId and m.id = any(cast(:refs as uuid[]))`,
  counter: `select c.id::text as ref, c.by_name as who, c.sensor_id, c.counter, c.reason from counter_reset c where c.site_id = :siteId and c.id = any(cast(:refs as uuid[]))`,
  wire: `select w.id::text as ref, w.by_name as who, w.controller_id, w.how, jsonb_array_length(w.readings) as stations from valve_check w
      where w.site_id = :siteId and w.id = any(cast(:refs as uuid[]))`,
};

/** What these things of one sort are told by, by what finds them. */
export async function toldBy<S extends Happened>(
  siteId: string,
  sort: S,
  refs: string[],
): Promise<Map<string, ToldBy[S]>> {
  const { rows } = await planned(FOUND[sort], { siteId, refs });
  const read = z.array(TOLD_BY[sort] as unknown as z.ZodType<ToldBy[S]>).parse(rows);
  return new Map(read.map((r) => [r.ref, r]));
}
