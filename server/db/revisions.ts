import { z } from "zod";
import type { Change } from "../../core/site-file/difference.ts";
import { expectedFlow } from "../../core/site-file/expected-flow.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { db } from "./connection.ts";

const revisionRow = z.object({
  version: z.number(),
  /** Was checked when it was saved: not once more each time it is read. */
  siteFile: z.custom<SiteFile>(),
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

const serialOf = (device: object): string | null => ("serial" in device ? ((device.serial as string) ?? null) : null);

/** The element table follows the current revision: gone elements stay, marked absent, for the history that points at them. */
export async function projectElements(organisationId: string, siteId: string, file: SiteFile): Promise<void> {
  type Row = {
    elementId: string;
    kind: string;
    name: string;
    number?: number | null;
    expectedLpm?: number | null;
    lockedOut?: boolean;
    serial?: string | null;
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
    ...devices.map((d) => ({ elementId: d.id, kind: "device", name: d.name ?? d.id, serial: serialOf(d) })),
    ...file.stations.map((s) => ({
      elementId: s.id,
      kind: "station",
      name: s.name,
      number: s.number,
      expectedLpm: expectedFlow(s)?.lpm ?? null,
      lockedOut: s.lockedOut === true,
      serial: s.serial ?? null,
    })),
  ];
  const full = rows.map((r) => ({ number: null, expectedLpm: null, lockedOut: false, serial: null, ...r }));
  await takeOutElements(
    siteId,
    full.map((r) => r.elementId),
  );
  // What stands there already as it is now is not written again: a revision changes a few of many.
  await db().raw(
    `insert into element (organisation_id, site_id, element_id, kind, name, number, expected_lpm, locked_out, serial, present)
     select ?, ?, n.*, true from jsonb_to_recordset(?::jsonb) n("elementId" text, kind text, name text, number integer, "expectedLpm" float8, "lockedOut" boolean, serial text)
     where not exists (select 1 from element e where e.site_id = ? and e.element_id = n."elementId" and e.present
       and (e.kind, e.name, e.locked_out) = (n.kind, n.name, n."lockedOut") and e.number is not distinct from n.number
       and e.expected_lpm is not distinct from n."expectedLpm" and e.serial is not distinct from n.serial)
     on conflict (site_id, element_id) do update set kind = excluded.kind, name = excluded.name, number = excluded.number,
       expected_lpm = excluded.expected_lpm, locked_out = excluded.locked_out, serial = excluded.serial, present = true`,
    [organisationId, siteId, JSON.stringify(full), siteId],
  );
}

const takeOutElements = (siteId: string, but: string[]): Promise<unknown> =>
  db().raw(
    "update element set present = false, locked_out = false where site_id = ? and present and element_id <> all(?)",
    [siteId, but],
  );

/** Names of elements by site and id, as they stand now: of stations with their number. */
export async function elementNames(
  organisationId: string,
  siteIds: string[],
  elementIds: string[],
): Promise<Map<string, Map<string, string>>> {
  const rows: { siteId: string; elementId: string; kind: string; name: string; number: number | null }[] = await db()(
    "element",
  )
    .where({ organisationId })
    .whereRaw("site_id = any(?) and element_id = any(?)", [siteIds, elementIds])
    .select("site_id", "element_id", "kind", "name", "number");
  const names = new Map<string, Map<string, string>>(siteIds.map((id) => [id, new Map()]));
  for (const r of rows)
    names.get(r.siteId)?.set(r.elementId, r.kind === "station" ? `station ${r.number} ${r.name}` : r.name);
  return names;
}
