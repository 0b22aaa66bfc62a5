import { z } from "zod";
import type { Change } from "../../core/site-file/difference.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { db } from "./connection.ts";

const revisionRow = z.object({
  version: z.number(),
  // As it was written once the schema took it: nobody else writes here, and reading it anew costs a save and a page some milliseconds.
  siteFile: z.custom<SiteFile>((file) => typeof file === "object" && file !== null),
  note: z.string(),
  madeAt: z.date().transform((d) => d.toISOString()),
  madeByName: z.string(),
  changes: z.array(z.object({ path: z.string(), words: z.string() })),
});
export type RevisionRow = z.infer<typeof revisionRow>;
export type RevisionHead = Omit<RevisionRow, "siteFile">;

export async function insertRevision(row: {
  organisationId: string;
  siteId: string;
  version: number;
  file: SiteFile;
  changes: Change[];
  note: string;
  userId: string;
  /** The controllers did it by themselves. */
  bySite?: boolean;
}): Promise<void> {
  await db()("revision").insert({
    organisationId: row.organisationId,
    siteId: row.siteId,
    version: row.version,
    siteFile: JSON.stringify(row.file),
    changes: JSON.stringify(row.changes),
    note: row.note,
    madeBy: row.userId,
    bySite: row.bySite === true,
  });
}

const WHO = "case when r.by_site then 'The controller' else u.name end as made_by_name";
const base = (siteId: string) =>
  db()("revision as r").join("app_user as u", "u.id", "r.made_by").where("r.site_id", siteId);

export async function revisionAt(siteId: string, version: number): Promise<RevisionRow | null> {
  const row: unknown = await base(siteId).where("r.version", version).select("r.*", db().raw(WHO)).first();
  return row ? revisionRow.parse(row) : null;
}

/** Newest first, without the files themselves. */
export async function revisionHeads(siteId: string, limit: number): Promise<RevisionHead[]> {
  const rows: unknown[] = await base(siteId)
    .orderBy("r.version", "desc")
    .limit(limit)
    .select("r.version", "r.note", "r.made_at", "r.changes", db().raw(WHO));
  return z.array(revisionRow.omit({ siteFile: true })).parse(rows);
}

/** The time zone of a site as it stands, without the rest of its file. */
export async function zoneOfSite(siteId: string, version: number): Promise<string> {
  const row: { zone: string } | undefined = await db()("revision")
    .where({ siteId, version })
    .first(db().raw("site_file -> 'site' ->> 'timeZone' as zone"));
  return row?.zone ?? "UTC";
}
