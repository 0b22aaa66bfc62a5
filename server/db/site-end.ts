import { randomUUID } from "node:crypto";
import { z } from "zod";
import type { DeletedSite } from "../../contracts/deleted-sites.ts";
import { db } from "./connection.ts";
import { tablesOfOrganisations } from "./everything.ts";

export async function setArchived(organisationId: string, siteId: string, archived: boolean): Promise<void> {
  await db()("site")
    .where({ organisationId, id: siteId })
    .update({ archivedAt: archived ? db().fn.now() : null });
}

/** Deletes a site with everything of it, and keeps its file. Within the caller's transaction, with the site's row locked. */
export async function deleteWithAll(
  { organisationId, siteId, name, by }: { organisationId: string; siteId: string; name: string; by: string },
  text: string,
): Promise<void> {
  await db()("deleted_site").insert({ id: randomUUID(), organisationId, name, file: text, deletedBy: by });
  await db()("alarm_entry").whereIn("alarm_id", db()("alarm").where({ siteId }).select("id")).delete();
  const { rows } = await db().raw(
    `select table_name as name from information_schema.columns where column_name = 'site_id' and table_schema = 'public'`,
  );
  const ofSites = new Set(rows.map((r: { name: string }) => r.name));
  const all = await tablesOfOrganisations(async (sql) => (await db().raw(sql)).rows);
  for (const table of all.reverse()) if (ofSites.has(table)) await db()(table).where({ siteId }).delete();
  await db()("site").where({ organisationId, id: siteId }).delete();
}

const row = z.object({
  id: z.string(),
  name: z.string(),
  deletedBy: z.string(),
  deletedAt: z.date().transform((d) => d.toISOString()),
});
export async function deletedSites(organisationId: string): Promise<DeletedSite[]> {
  const rows: unknown[] = await db()("deleted_site")
    .where({ organisationId })
    .orderBy("deleted_at", "desc")
    .select("id", "name", "deleted_by", "deleted_at");
  return z.array(row).parse(rows);
}

export async function fileOfDeleted(
  organisationId: string,
  id: string,
): Promise<{ name: string; file: string } | null> {
  const found: { name: string; file: string } | undefined = await db()("deleted_site")
    .where({ organisationId, id })
    .first("name", "file");
  return found ?? null;
}
