import { z } from "zod";
import {
  keeping,
  type Keeping,
  type OrganisationSettings,
  organisationSettings,
} from "../../contracts/organisation.ts";
import { db, inTransaction } from "./connection.ts";

const organisationRow = keeping.extend({ id: z.string(), name: z.string() }).strip();
export type OrganisationRow = z.infer<typeof organisationRow>;

export async function organisationById(id: string): Promise<OrganisationRow | null> {
  const found: unknown = await db()("organisation").where({ id }).first();
  return found ? organisationRow.parse(found) : null;
}

export async function allOrganisations(): Promise<OrganisationRow[]> {
  return z.array(organisationRow).parse(await db()("organisation").orderBy("id"));
}

export async function setKeeping(id: string, values: Keeping): Promise<void> {
  await db()("organisation").where({ id }).update(values);
}

export async function settingsOf(id: string): Promise<OrganisationSettings> {
  return organisationSettings.strip().parse(await db()("organisation").where({ id }).first());
}

export async function setSettings(id: string, values: OrganisationSettings): Promise<void> {
  await db()("organisation").where({ id }).update(values);
}

const oldest = z.object({ siteId: z.string(), day: z.string().nullable() });

/** The first UTC day before `bound` that still has rows, by site; sites without any are left out. */
export async function oldestDays(
  table: "reading" | "field_instant" | "site_event",
  organisationId: string,
  bound: Date,
): Promise<{ siteId: string; day: string }[]> {
  const { rows } = await db().raw(
    `select s.id as site_id, (select to_char(min(t.at) at time zone 'UTC', 'YYYY-MM-DD') from ${table} t where t.site_id = s.id and t.at < ?) as day
     from site s where s.organisation_id = ?`,
    [bound, organisationId],
  );
  return z
    .array(oldest)
    .parse(rows)
    .flatMap(({ siteId, day }) => (day === null ? [] : [{ siteId, day }]));
}

/** Rows of a site on a UTC day, up to a bound: site, day, day, bound. */
const IN_DAY =
  "site_id = ? and at >= ?::date::timestamp at time zone 'UTC' and at < least((?::date + 1)::timestamp at time zone 'UTC', ?)";

/** One UTC day of a site's readings, up to `bound`, into hours: the rows themselves are gone then. What was rolled up of the same hour already is added to. */
export async function rollUpReadings(siteId: string, day: string, bound: Date): Promise<void> {
  const of = [siteId, day, day, bound];
  await inTransaction(async () => {
    await db().raw(
      `insert into reading_hour as h (organisation_id, site_id, sensor_id, quantity, hour, count, mean, least, most)
       select organisation_id, site_id, sensor_id, quantity, date_trunc('hour', at), count(*), avg(value), min(value), max(value)
       from reading where ${IN_DAY} group by 1, 2, 3, 4, 5
       on conflict (site_id, sensor_id, quantity, hour) do update set
         mean = (h.mean * h.count + excluded.mean * excluded.count) / (h.count + excluded.count),
         count = h.count + excluded.count, least = least(h.least, excluded.least), most = greatest(h.most, excluded.most)`,
      of,
    );
    await db().raw(`delete from reading where ${IN_DAY}`, of);
    await db().raw(`delete from field_instant where ${IN_DAY}`, of);
  });
}

/** The same for what happened: how often a day, by kind and subject. What a bench night made up is not counted. */
export async function rollUpEvents(siteId: string, day: string, bound: Date): Promise<void> {
  const of = [siteId, day, day, bound];
  await inTransaction(async () => {
    await db().raw(
      `insert into event_day as d (organisation_id, site_id, day, type, subject_id, count)
       select organisation_id, site_id, (at at time zone 'UTC')::date, type, subject_id, count(*)
       from site_event where bench_run_id is null and ${IN_DAY} group by 1, 2, 3, 4, 5
       on conflict (site_id, day, type, subject_id) do update set count = d.count + excluded.count`,
      of,
    );
    await db().raw(`delete from site_event where ${IN_DAY}`, of);
  });
}

/** Photographs of alarms that are older; the entries stay, and say that there was one. */
export async function dropPhotos(organisationId: string, bound: Date): Promise<number> {
  return db()("alarm_entry")
    .where({ organisationId })
    .whereNotNull("photo")
    .where("at", "<", bound)
    .update({ photo: null });
}

const partitions = z.array(z.object({ name: z.string(), month: z.string() }));

/** Months of a table that lie wholly before `bound` and hold nothing any more are taken away. */
export async function dropEmptyMonths(table: string, bound: Date): Promise<string[]> {
  const { rows } = await db().raw(
    "select c.relname as name, replace(right(c.relname, 7), '_', '-') as month from pg_inherits i join pg_class c on c.oid = i.inhrelid where i.inhparent = ?::regclass",
    [table],
  );
  const dropped: string[] = [];
  for (const { name, month } of partitions.parse(rows)) {
    const end = Date.parse(`${month}-01T00:00:00Z`) + 31 * 86_400_000;
    if (!(end < bound.getTime())) continue;
    await inTransaction(async () => {
      // Whoever reads now is waited for a moment, and no longer: it is tried again next time.
      await db().raw("set local lock_timeout = '1s'");
      await db().raw("lock table ?? in share mode", [name]);
      const { rows: any } = await db().raw("select 1 from ?? limit 1", [name]);
      if (any.length > 0) return;
      await db().raw("drop table ??", [name]);
      dropped.push(name);
    }).catch(() => {});
  }
  return dropped;
}
