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
    .parse(await db()("site").where({ organisationId: organisationId }).orderBy("name").select("id", "name"));
}

export type NewestNight = {
  id: string;
  organisationId: string;
  version: number;
  nightVersion: number | null;
  date: string | null;
  timeZone: string | null;
};

/** Every site with the revision and the day that its newest night is of; those without one first. */
export async function newestNights(): Promise<NewestNight[]> {
  const { rows } = await db().raw(
    `select s.id, s.organisation_id, s.version, m.version as night_version, m.date::text as date, m.facts ->> 'timeZone' as time_zone
     from site s left join lateral (select version, date, facts from site_summary k where k.site_id = s.id order by k.date desc limit 1) m on true
     order by m.date nulls first`,
  );
  return rows;
}

/** Keeps what Rounds shows of a site's night; older nights are not kept. */
export async function saveSummary(
  organisationId: string,
  siteId: string,
  version: number,
  { summary, facts }: { summary: NightSummary; facts: SiteFacts },
): Promise<void> {
  const row = { organisationId, siteId, version, date: summary.date };
  await db()("site_summary")
    .insert({ ...row, summary: JSON.stringify(summary), facts: JSON.stringify(facts) })
    .onConflict(["site_id", "date"])
    .merge();
  await db()("site_summary").where({ siteId }).where("date", "<", summary.date).delete();
}

/** The units and time zone that each of these sites is kept in. */
export async function customsOfSites(
  organisationId: string,
  siteIds: string[],
): Promise<Map<string, { units: "us" | "metric"; zone: string }>> {
  // From what is kept ahead; a whole file is opened only where nothing is yet.
  const { rows } = await db().raw(
    `select s.id, coalesce(m.facts, (select jsonb_build_object('units', r.site_file -> 'site' -> 'units', 'timeZone', r.site_file -> 'site' -> 'timeZone')
         from revision r where r.site_id = s.id and r.version = s.version)) as customs
     from site s left join lateral (select facts from site_summary k where k.site_id = s.id order by k.date desc limit 1) m on true
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
