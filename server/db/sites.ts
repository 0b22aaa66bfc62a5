import { z } from "zod";
import type { NightSummary } from "../../core/summary/night-summary.ts";
import type { SiteFacts } from "../../core/summary/site-facts.ts";
import { db } from "./connection.ts";

const siteRow = z.object({
  id: z.string(),
  organisationId: z.string(),
  fileId: z.string(),
  name: z.string(),
  version: z.number(),
  archivedAt: z.date().nullable(),
});
export type SiteRow = z.infer<typeof siteRow>;

export async function insertSite(organisationId: string, fileId: string, name: string): Promise<SiteRow> {
  const [row] = await db()("site").insert({ organisationId: organisationId, fileId: fileId, name }).returning("*");
  return siteRow.parse(row);
}

export async function siteById(organisationId: string, siteId: string): Promise<SiteRow | null> {
  const row: unknown = await db()("site").where({ organisationId: organisationId, id: siteId }).first();
  return row ? siteRow.parse(row) : null;
}

export async function siteByFileId(organisationId: string, fileId: string): Promise<SiteRow | null> {
  const row: unknown = await db()("site").where({ organisationId: organisationId, fileId: fileId }).first();
  return row ? siteRow.parse(row) : null;
}

/** Locks the row until the transaction ends, so that two writers come one after the other. */
export async function lockSite(organisationId: string, siteId: string): Promise<SiteRow | null> {
  const row: unknown = await db()("site").where({ organisationId: organisationId, id: siteId }).forUpdate().first();
  return row ? siteRow.parse(row) : null;
}

export async function setSiteHead(siteId: string, version: number, name: string): Promise<void> {
  await db()("site").where({ id: siteId }).update({ version, name });
}

export async function siteNames(organisationId: string): Promise<{ id: string; name: string }[]> {
  return z
    .array(z.object({ id: z.string(), name: z.string() }))
    .parse(await db()("site").where({ organisationId }).whereNull("archived_at").orderBy("name").select("id", "name"));
}

export type NewestNight = {
  id: string;
  organisationId: string;
  version: number;
  nightVersion: number | null;
  date: string | null;
  timeZone: string | null;
};

/** Every site that is worked on, or each of these, with the revision and the day that its newest night is of; those without one first. */
export async function newestNights(siteIds: string[] | null = null): Promise<NewestNight[]> {
  const { rows } = await db().raw(
    `select s.id, s.organisation_id, s.version, m.version as night_version, m.date::text as date, m.facts ->> 'timeZone' as time_zone
     from site s left join site_summary m on m.site_id = s.id
     where s.version > 0 and s.archived_at is null and (?::uuid[] is null or s.id = any(?)) order by m.date nulls first`,
    [siteIds, siteIds],
  );
  return rows;
}

/** What is kept of a revision on a date: its night, its facts, and what is found of it. */
export type WorkedOut = { summary: NightSummary; facts: SiteFacts; found: { key: string; words: string }[] };

/** Keeps what Rounds shows of a site's night; older nights are not kept. */
export async function saveSummary(
  organisationId: string,
  siteId: string,
  version: number,
  { summary, facts, found }: WorkedOut,
): Promise<void> {
  const row = { organisationId, siteId, version, date: summary.date };
  await db()("site_summary")
    .insert({ ...row, summary: JSON.stringify(summary), facts: JSON.stringify(facts), found: JSON.stringify(found) })
    .onConflict("site_id")
    .merge()
    .where("site_summary.date", "<=", summary.date);
}

/** As text, which a thread reads: nothing of it is needed here. @property known what was worked out last of the revision that stands, if it was of `date` */
export type SiteStanding = {
  siteId: string;
  version: number;
  siteText: string;
  timeZone: string;
  known: string | null;
  date: string | null;
};
/** These sites as they stand, each with what is known of it, in their order; what is not the organisation's is left out. */
export async function sitesAsTheyStand(organisationId: string, siteIds: string[]): Promise<SiteStanding[]> {
  const { rows } = await db().raw(
    `select s.id as site_id, s.version, r.site_file::text as site_text, r.site_file -> 'site' ->> 'timeZone' as time_zone, m.date::text as date,
       case when m.version = s.version then jsonb_build_object('summary', m.summary, 'found', m.found)::text end as known
     from unnest(?::uuid[]) with ordinality a(id, place) join site s on s.id = a.id
       join revision r on r.site_id = s.id and r.version = s.version
       left join site_summary m on m.site_id = s.id
     where s.organisation_id = ? and s.archived_at is null order by a.place`,
    [siteIds, organisationId],
  );
  return rows;
}

/** Which revision each of these sites stands at, in their order; what is not the organisation's is left out. */
export async function versionsOf(
  organisationId: string,
  siteIds: string[],
): Promise<{ siteId: string; version: number }[]> {
  const { rows } = await db().raw(
    `select s.id as site_id, s.version from unnest(?::uuid[]) with ordinality a(id, place) join site s on s.id = a.id
     where s.organisation_id = ? and s.archived_at is null order by a.place`,
    [siteIds, organisationId],
  );
  return rows;
}

/** The units and time zone that each of these sites is kept in. */
export async function customsOfSites(
  organisationId: string,
  siteIds: string[],
): Promise<Map<string, { units: "us" | "metric"; zone: string }>> {
  // From what is kept ahead; a whole file is opened only where nothing is yet.
  const { rows } = await db().raw(
    `select s.id, case when m.site_id is not null then jsonb_build_object('units', m.facts -> 'units', 'timeZone', m.facts -> 'timeZone')
       else (select jsonb_build_object('units', r.site_file -> 'site' -> 'units', 'timeZone', r.site_file -> 'site' -> 'timeZone')
         from revision r where r.site_id = s.id and r.version = s.version) end as customs
     from site s left join site_summary m on m.site_id = s.id
     where s.organisation_id = ? and s.id = any(?)`,
    [organisationId, siteIds],
  );
  return new Map(
    rows.map(({ id, customs }: { id: string; customs: { units: "us" | "metric"; timeZone: string } }) => [
      id,
      { units: customs.units, zone: customs.timeZone },
    ]),
  );
}
