import { z } from "zod";
import type { VisitBegun, VisitEntry } from "../../contracts/visits.ts";
import { type ChecklistLine, checklistSchema, LOOKED } from "../../core/visits/checklists.ts";
import { db } from "./connection.ts";

type Of = { organisationId: string; siteId: string };
const iso = z.date().transform((d) => d.toISOString());

const visitRow = z.object({
  id: z.string(),
  checklistId: z.string(),
  name: z.string(),
  lines: checklistSchema.shape.lines,
  begunAt: iso,
  endedAt: iso.nullable(),
  note: z.string(),
  byId: z.string(),
  byName: z.string(),
});
export type VisitRow = z.infer<typeof visitRow>;

/** The newest visits of a site. */
export async function visitsOf(siteId: string, limit: number): Promise<VisitRow[]> {
  const rows: unknown[] = await db()("visit").where({ siteId }).orderBy("begun_at", "desc").limit(limit);
  return z.array(visitRow).parse(rows);
}

/** One visit, locked until the transaction ends. */
export async function lockVisit(siteId: string, id: string): Promise<VisitRow | null> {
  const row: unknown = await db()("visit").where({ siteId, id }).forUpdate().first();
  return row ? visitRow.parse(row) : null;
}

/** Begins a visit; asked again under its id it is the same. @returns false where that id is another's */
export async function insertVisit(
  of: Of,
  visit: VisitBegun & { name: string; lines: ChecklistLine[]; byId: string; byName: string },
): Promise<boolean> {
  await db()("visit")
    .insert({ ...of, ...visit, begunAt: new Date(visit.begunAt), lines: JSON.stringify(visit.lines) })
    .onConflict("id")
    .ignore();
  return (await db()("visit").where({ id: visit.id, siteId: of.siteId, byId: visit.byId }).first("id")) !== undefined;
}

/** @property note undefined: as it was */
export async function keepVisit(id: string, of: { endedAt: Date | null; note: string | undefined }): Promise<void> {
  const { note, endedAt } = of;
  if (note === undefined && endedAt === null) return;
  await db()("visit")
    .where({ id })
    .update({ ...(note === undefined ? {} : { note }), ...(endedAt === null ? {} : { endedAt }) });
}

const lookRow = z.object({
  id: z.string(),
  visitId: z.string(),
  lineId: z.string(),
  state: z.enum(LOOKED),
  note: z.string(),
  photoIds: z.array(z.string()),
  at: iso,
  byName: z.string(),
});
export type LookRow = z.infer<typeof lookRow>;

/** The newest of each line of these visits. */
export async function looksOf(visitIds: string[]): Promise<LookRow[]> {
  const { rows } = await db().raw(
    `select distinct on (visit_id, line_id) id, visit_id, line_id, state, note, photo_ids, at, by_name
     from visit_entry where visit_id = any(?) order by visit_id, line_id, at desc, made_at desc`,
    [visitIds],
  );
  return z.array(lookRow).parse(rows);
}

/** @returns false where it is there already */
export async function insertLook(of: Of, visitId: string, entry: VisitEntry, byName: string): Promise<boolean> {
  const { id, lineId, state, note, photoIds, at } = entry;
  const done: unknown[] = await db()("visit_entry")
    .insert({ ...of, visitId, id, lineId, state, note, photoIds, at: new Date(at), byName })
    .onConflict("id")
    .ignore()
    .returning("id");
  return done.length > 0;
}
