import { z } from "zod";
import type { Change } from "../../core/site-file/difference.ts";
import { expectedFlow } from "../../core/site-file/expected-flow.ts";
import { siteFileSchema, type SiteFile } from "../../core/site-file/schema.ts";
import { db } from "./connection.ts";

const revisionRow = z.object({
  version: z.number(),
  siteFile: siteFileSchema,
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
}): Promise<void> {
  await db()("revision").insert({
    organisationId: row.organisationId,
    siteId: row.siteId,
    version: row.version,
    siteFile: JSON.stringify(row.file),
    changes: JSON.stringify(row.changes),
    note: row.note,
    madeBy: row.userId,
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
  return z.array(revisionRow.omit({ siteFile: true })).parse(rows);
}

/** The element table follows the current revision: gone elements stay, marked absent, for the history that points at them. */
export async function projectElements(organisationId: string, siteId: string, file: SiteFile): Promise<void> {
  type Row = {
    elementId: string;
    kind: string;
    name: string;
    number?: number | null;
    expectedLpm?: number | null;
    lockedOut?: boolean;
  };
  const devices = [
    ...file.pocs.flatMap((p) => p.devices),
    ...file.mainlines.flatMap((m) => [...m.pipes, ...(m.devices ?? [])]),
  ];
  const rows: Row[] = [
    ...file.sources.map((s) => ({ elementId: s.id, kind: "source", name: s.name })),
    ...file.pocs.map((p) => ({ elementId: p.id, kind: "poc", name: p.name, lockedOut: p.lockedOut === true })),
    ...file.mainlines.map((m) => ({
      elementId: m.id,
      kind: "mainline",
      name: m.name,
      lockedOut: m.lockedOut === true,
    })),
    ...file.controllers.map((c) => ({ elementId: c.id, kind: "controller", name: c.name })),
    ...file.programs.map((p) => ({ elementId: p.id, kind: "program", name: p.name })),
    ...devices.map((d) => ({ elementId: d.id, kind: "device", name: d.name ?? d.id })),
    ...file.stations.map((s) => ({
      elementId: s.id,
      kind: "station",
      name: s.name,
      number: s.number,
      expectedLpm: expectedFlow(s)?.lpm ?? null,
      lockedOut: s.lockedOut === true,
    })),
  ];
  await db()("element").where({ siteId: siteId }).update({ present: false, lockedOut: false });
  const full = rows.map((r) => ({
    number: null,
    expectedLpm: null,
    lockedOut: false,
    ...r,
    present: true,
    organisationId: organisationId,
    siteId: siteId,
  }));
  for (let i = 0; i < full.length; i += 1000)
    await db()("element")
      .insert(full.slice(i, i + 1000))
      .onConflict(["site_id", "element_id"])
      .merge();
}
