import { z } from "zod";
import type { DeedView } from "../../contracts/deeds.ts";
import { type DeedChange, deedChange } from "../../contracts/office-change.ts";
import { db } from "./connection.ts";

/** Begins a deed; false: one is there under its id already. */
export async function insertDeed(of: {
  id: string;
  organisationId: string;
  name: string;
  change: DeedChange;
  madeBy: string;
}): Promise<boolean> {
  const rows = await db()("deed")
    .insert({ ...of, change: JSON.stringify(of.change) })
    .onConflict("id")
    .ignore()
    .returning("id");
  return rows.length > 0;
}

const row = z.object({ name: z.string(), change: deedChange });

export async function deedById(organisationId: string, id: string): Promise<z.infer<typeof row> | null> {
  const found: unknown = await db()("deed").where({ organisationId, id }).first();
  return found ? row.parse(found) : null;
}

export async function insertDeedSite(of: {
  organisationId: string;
  deedId: string;
  siteId: string;
  beforeVersion: number;
  afterVersion: number;
  /** What was so before, where no revision says it. */
  was?: string | null;
}): Promise<void> {
  await db()("deed_site").insert(of);
}

const siteRow = z.object({
  siteId: z.string(),
  beforeVersion: z.number(),
  afterVersion: z.number(),
  undoneVersion: z.number().nullable(),
  was: z.string().nullable(),
});

/** On which of these sites a deed was done, and how it stands there. */
export async function deedSites(deedId: string, siteIds: string[]): Promise<z.infer<typeof siteRow>[]> {
  return z.array(siteRow).parse(await db()("deed_site").where({ deedId }).whereIn("siteId", siteIds));
}

export async function setUndone(deedId: string, siteId: string, undoneVersion: number): Promise<void> {
  await db()("deed_site").where({ deedId, siteId }).update({ undoneVersion });
}

const view = z.object({
  id: z.string(),
  name: z.string(),
  madeBy: z.string(),
  madeAt: z.date().transform((at) => at.toISOString()),
  standing: z.array(z.object({ siteId: z.string(), name: z.string() })),
  undone: z.number(),
});

/** The newest deeds that were done anywhere. */
export async function newestDeeds(organisationId: string, limit: number): Promise<DeedView[]> {
  const { rows } = await db().raw(
    `select d.id, d.name, u.name as made_by, d.made_at,
       coalesce(json_agg(json_build_object('siteId', s.id, 'name', s.name) order by s.name)
         filter (where x.undone_version is null), '[]') as standing,
       count(x.undone_version)::int as undone
     from deed d join app_user u on u.id = d.made_by join deed_site x on x.deed_id = d.id join site s on s.id = x.site_id
     where d.organisation_id = ? group by d.id, u.name order by d.made_at desc limit ?`,
    [organisationId, limit],
  );
  return z.array(view).parse(rows);
}
