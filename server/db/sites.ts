import { z } from "zod";
import { siteFileSchema, type SiteFile } from "../../core/site-file/schema.ts";
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

export type SiteListRow = {
  id: string;
  name: string;
  version: number;
  siteFile: SiteFile;
  openAlarms: number;
  lockedOut: number;
  oldestLearned: string | null;
  revisedAt: Date;
  summary: unknown;
  summaryVersion: number | null;
};

/** All sites of an organisation with what Rounds shows; one query, whatever their number. */
export async function listSites(organisationId: string, date: string): Promise<SiteListRow[]> {
  return db()("site as s")
    .join("revision as r", (j) => {
      j.on("r.site_id", "s.id").andOn("r.version", "s.version");
    })
    .leftJoin("site_summary as m", (j) => {
      j.on("m.site_id", "s.id").andOnVal("m.date", date);
    })
    .where("s.organisation_id", organisationId)
    .orderBy("s.name")
    .select(
      "s.id",
      "s.name",
      "s.version",
      "r.site_file",
      "r.made_at as revised_at",
      "m.summary",
      "m.version as summary_version",
      db().raw(
        "(select count(*)::int from alarm a where a.site_id = s.id and a.organisation_id = s.organisation_id and a.state <> 'cleared') as open_alarms",
      ),
      db().raw(
        "(select count(*)::int from element e where e.site_id = s.id and e.locked_out and e.present) as locked_out",
      ),
    );
}

export async function saveSummary(
  organisationId: string,
  siteId: string,
  version: number,
  date: string,
  summary: unknown,
): Promise<void> {
  await db()("site_summary")
    .insert({ organisationId: organisationId, siteId: siteId, version, date, summary: JSON.stringify(summary) })
    .onConflict(["site_id", "date"])
    .merge();
}

export function decodeSiteFile(value: unknown): SiteFile {
  return siteFileSchema.parse(value);
}

/** The units and time zone that each of these sites is kept in. */
export async function customsOfSites(
  organisationId: string,
  siteIds: string[],
): Promise<Map<string, { units: "us" | "metric"; zone: string }>> {
  const rows: { id: string; units: string; zone: string }[] = await db()("site as s")
    .join("revision as r", (on) => on.on("r.site_id", "s.id").andOn("r.version", "s.version"))
    .where("s.organisation_id", organisationId)
    .whereIn("s.id", siteIds)
    .select(
      "s.id",
      db().raw("r.site_file -> 'site' ->> 'units' as units"),
      db().raw("r.site_file -> 'site' ->> 'timeZone' as zone"),
    );
  return new Map(rows.map((r) => [r.id, { units: r.units === "us" ? "us" : "metric", zone: r.zone }]));
}
