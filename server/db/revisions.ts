import { z } from "zod";
import type { Change } from "../../core/site-file/difference.ts";
import { expectedFlow } from "../../core/site-file/expected-flow.ts";
import { siteFileSchema, type SiteFile } from "../../core/site-file/schema.ts";
import { db } from "./connection.ts";

const revisionRow = z.object({
  version: z.number(),
  site_file: siteFileSchema,
  note: z.string(),
  made_at: z.date(),
  made_by_name: z.string(),
  changes: z.array(z.object({ path: z.string(), words: z.string() })),
});
export type RevisionRow = z.infer<typeof revisionRow>;
export type RevisionHead = Omit<RevisionRow, "site_file">;

export async function insertRevision(row: {
  organisationId: string;
  siteId: string;
  version: number;
  file: SiteFile;
  changes: Change[];
  note: string;
  userId: string;
}): Promise<void> {
  await db()("revision").insert({
    organisation_id: row.organisationId,
    site_id: row.siteId,
    version: row.version,
    site_file: JSON.stringify(row.file),
    changes: JSON.stringify(row.changes),
    note: row.note,
    made_by: row.userId,
  });
}

const base = (siteId: string) =>
  db()("revision as r").join("app_user as u", "u.id", "r.made_by").where("r.site_id", siteId);

export async function revisionAt(siteId: string, version: number): Promise<RevisionRow | null> {
  const row: unknown = await base(siteId).where("r.version", version).select("r.*", "u.name as made_by_name").first();
  return row ? revisionRow.parse(row) : null;
}

/** Newest first, without the files themselves. */
export async function revisionHeads(siteId: string, limit: number): Promise<RevisionHead[]> {
  const rows: unknown[] = await base(siteId)
    .orderBy("r.version", "desc")
    .limit(limit)
    .select("r.version", "r.note", "r.made_at", "r.changes", "u.name as made_by_name");
  return z.array(revisionRow.omit({ site_file: true })).parse(rows);
}

/** The element table follows the current revision: gone elements stay, marked absent, for the history that points at them. */
export async function projectElements(organisationId: string, siteId: string, file: SiteFile): Promise<void> {
  type Row = {
    element_id: string;
    kind: string;
    name: string;
    number?: number | null;
    expected_lpm?: number | null;
    locked_out?: boolean;
  };
  const devices = [
    ...file.pocs.flatMap((p) => p.devices),
    ...file.mainlines.flatMap((m) => [...m.pipes, ...(m.devices ?? [])]),
  ];
  const rows: Row[] = [
    ...file.sources.map((s) => ({ element_id: s.id, kind: "source", name: s.name })),
    ...file.pocs.map((p) => ({ element_id: p.id, kind: "poc", name: p.name, locked_out: p.lockedOut === true })),
    ...file.mainlines.map((m) => ({
      element_id: m.id,
      kind: "mainline",
      name: m.name,
      locked_out: m.lockedOut === true,
    })),
    ...file.controllers.map((c) => ({ element_id: c.id, kind: "controller", name: c.name })),
    ...file.programs.map((p) => ({ element_id: p.id, kind: "program", name: p.name })),
    ...devices.map((d) => ({ element_id: d.id, kind: "device", name: d.name ?? d.id })),
    ...file.stations.map((s) => ({
      element_id: s.id,
      kind: "station",
      name: s.name,
      number: s.number,
      expected_lpm: expectedFlow(s)?.lpm ?? null,
      locked_out: s.lockedOut === true,
    })),
  ];
  await db()("element").where({ site_id: siteId }).update({ present: false, locked_out: false });
  const full = rows.map((r) => ({
    number: null,
    expected_lpm: null,
    locked_out: false,
    ...r,
    present: true,
    organisation_id: organisationId,
    site_id: siteId,
  }));
  for (let i = 0; i < full.length; i += 1000)
    await db()("element")
      .insert(full.slice(i, i + 1000))
      .onConflict(["site_id", "element_id"])
      .merge();
}
