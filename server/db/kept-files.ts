import { z } from "zod";
import { type FileType, fileType } from "../../contracts/kept-files.ts";
import { db } from "./connection.ts";

/** @returns false where one of that id is there already */
export async function insertFile(row: {
  id: string;
  organisationId: string;
  siteId: string;
  type: FileType;
  content: Buffer;
  keptBy: string;
}): Promise<boolean> {
  const { rows } = await db().raw(
    `insert into kept_file (id, organisation_id, site_id, type, content, kept_by)
     values (:id, :organisationId, :siteId, :type, :content, :keptBy) on conflict (id) do nothing returning id`,
    row,
  );
  return rows.length > 0;
}

const content = z.object({ type: fileType, size: z.number(), content: z.instanceof(Buffer) });

export async function fileOf(siteId: string, id: string): Promise<z.infer<typeof content> | null> {
  const row: unknown = await db()("kept_file").where({ siteId, id }).first("type", "size", "content");
  return row ? content.parse(row) : null;
}

export async function typeOf(siteId: string, id: string): Promise<{ type: FileType; size: number } | null> {
  const row: unknown = await db()("kept_file").where({ siteId, id }).first("type", "size");
  return row ? content.omit({ content: true }).strip().parse(row) : null;
}

/** How much is kept for an organisation, bytes. */
export async function bytesKept(organisationId: string): Promise<number> {
  const { rows } = await db().raw("select coalesce(sum(size), 0) as bytes from kept_file where organisation_id = ?", [
    organisationId,
  ]);
  return z.object({ bytes: z.number() }).parse(rows[0]).bytes;
}

/** A revision names these: they stay as long as the site. */
export async function noteNamed(siteId: string, ids: string[]): Promise<void> {
  if (ids.length > 0)
    await db()("kept_file").where({ siteId, named: false }).whereIn("id", ids).update({ named: true });
}

/** Files that were kept before `bound` and that no revision ever named go. */
export async function dropUnnamed(organisationId: string, bound: Date): Promise<number> {
  return db()("kept_file").where({ organisationId, named: false }).where("kept_at", "<", bound).delete();
}

type Arriving = { id: string; organisationId: string; siteId: string; ofBytes: number };

/** How many bytes of a file have come so far; null: none. */
export async function arrivedOf(siteId: string, id: string): Promise<number | null> {
  const row = await db()("arriving_file").where({ siteId, id }).first(db().raw("length(content) as has"));
  return row === undefined ? null : z.object({ has: z.number() }).parse(row).has;
}

/** Adds a piece where it follows what is here; else nothing is done. */
export async function addPiece(of: Arriving, from: number, piece: Buffer): Promise<void> {
  if (from === 0)
    await db()("arriving_file")
      .insert({ ...of, content: piece })
      .onConflict("id")
      .ignore();
  else
    await db()("arriving_file")
      .where({ id: of.id, siteId: of.siteId, ofBytes: of.ofBytes })
      .whereRaw("length(content) = ? and length(content) + ? <= of_bytes", [from, piece.length])
      .update({ content: db().raw("content || ?", [piece]) });
}

/** Takes the whole content out once it is all here. */
export async function takeArrived(siteId: string, id: string, ofBytes: number): Promise<Buffer | null> {
  const rows: unknown[] = await db()("arriving_file")
    .where({ siteId, id })
    .whereRaw("length(content) = ?", [ofBytes])
    .delete()
    .returning("content");
  return rows[0] === undefined ? null : z.object({ content: z.instanceof(Buffer) }).parse(rows[0]).content;
}

/** How much of an organisation's files has come without being whole, bytes. */
export async function bytesArriving(organisationId: string): Promise<number> {
  const { rows } = await db().raw(
    "select coalesce(sum(length(content)), 0)::float8 as bytes from arriving_file where organisation_id = ?",
    [organisationId],
  );
  return z.object({ bytes: z.number() }).parse(rows[0]).bytes;
}

/** What never became whole and was begun before `bound` goes. */
export async function dropArriving(organisationId: string, bound: Date): Promise<number> {
  return db()("arriving_file").where({ organisationId }).where("begun_at", "<", bound).delete();
}
