import { z } from "zod";
import { WALK_PROBLEMS, WALKED, type WalkLook } from "../../contracts/walks.ts";
import { db } from "./connection.ts";

type Of = { organisationId: string; siteId: string };
const iso = z.date().transform((d) => d.toISOString());

const walkRow = z.object({
  id: z.string(),
  stationIds: z.array(z.string()),
  begunAt: iso,
  endedAt: iso.nullable(),
  note: z.string(),
  byId: z.string(),
  byName: z.string(),
});
export type WalkRow = z.infer<typeof walkRow>;

/** The newest walks of a site. */
export async function walksOf(siteId: string, limit: number): Promise<WalkRow[]> {
  const rows: unknown[] = await db()("walk").where({ siteId }).orderBy("begun_at", "desc").limit(limit);
  return z.array(walkRow).parse(rows);
}

/** One walk, locked until the transaction ends. */
export async function lockWalk(siteId: string, id: string): Promise<WalkRow | null> {
  const row: unknown = await db()("walk").where({ siteId, id }).forUpdate().first();
  return row ? walkRow.parse(row) : null;
}

/** Begins a walk; asked again under its id it is the same. @returns false where that id is another's */
export async function insertWalk(
  of: Of,
  walk: { id: string; stationIds: string[]; begunAt: Date; byId: string; byName: string },
): Promise<boolean> {
  await db()("walk")
    .insert({ ...of, ...walk })
    .onConflict("id")
    .ignore();
  return (await db()("walk").where({ id: walk.id, siteId: of.siteId, byId: walk.byId }).first("id")) !== undefined;
}

export async function endWalk(id: string, endedAt: Date, note: string): Promise<void> {
  await db()("walk").where({ id }).update({ endedAt, note });
}

const lookRow = z.object({
  id: z.string(),
  walkId: z.string(),
  stationId: z.string(),
  state: z.enum(WALKED),
  problem: z.enum(WALK_PROBLEMS).nullable(),
  readLpm: z.number().nullable(),
  note: z.string(),
  photoIds: z.array(z.string()),
  at: iso,
  byName: z.string(),
});
export type WalkLookRow = z.infer<typeof lookRow>;

/** The newest of each station of these walks. */
export async function walkLooksOf(walkIds: string[]): Promise<WalkLookRow[]> {
  const { rows } = await db().raw(
    `select distinct on (walk_id, station_id) id, walk_id, station_id, state, problem, read_lpm, note, photo_ids, at, by_name
     from walk_entry where walk_id = any(?) order by walk_id, station_id, at desc, made_at desc`,
    [walkIds],
  );
  return z.array(lookRow).parse(rows);
}

/** @returns false where it is there already */
export async function insertWalkLook(
  of: Of,
  id: string,
  { walkId, stationId, state, problem, readLpm, note, photoIds }: WalkLook,
  more: { at: Date; byName: string },
): Promise<boolean> {
  const row = { ...of, id, walkId, stationId, state, problem, readLpm, note, photoIds, ...more };
  const done: unknown[] = await db()("walk_entry").insert(row).onConflict("id").ignore().returning("id");
  return done.length > 0;
}
