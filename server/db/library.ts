import { z } from "zod";
import type { DeviceBody, LibraryItem } from "../../core/library/library-item.ts";
import { db } from "./connection.ts";
import type { Kept } from "./seen.ts";

const row = z.object({
  id: z.string(),
  kind: z.string(),
  name: z.string(),
  note: z.string(),
  body: z.looseObject({ kind: z.string() }),
  keptAt: z.date(),
  keptByName: z.string(),
});
export type KeptItem = LibraryItem & { id: string; keptBy: string; keptAt: string };

export async function libraryItems(organisationId: string): Promise<KeptItem[]> {
  const rows: unknown[] = await db()("library_item as i")
    .join("app_user as u", "u.id", "i.kept_by")
    .where("i.organisation_id", organisationId)
    .orderBy(["i.kind", "i.name"])
    .select("i.*", "u.name as kept_by_name");
  return rows.map((r) => {
    const { id, name, note, body, keptAt, keptByName } = row.parse(r);
    return { id, name, note, body: body as unknown as DeviceBody, keptBy: keptByName, keptAt: keptAt.toISOString() };
  });
}

/** The item of that kind and name, locked until the transaction ends. */
export async function lockItem(organisationId: string, kind: string, name: string): Promise<Kept | undefined> {
  return db()("library_item as i")
    .join("app_user as u", "u.id", "i.kept_by")
    .where({ "i.organisation_id": organisationId, "i.kind": kind })
    .whereRaw("lower(i.name) = lower(?)", [name])
    .forUpdate("i")
    .first("i.kept_at", "u.name as kept_by_name");
}

/** Keeps items; one of the same kind and name takes the new data sheet. */
export async function keepItems(organisationId: string, userId: string, items: LibraryItem[]): Promise<void> {
  for (const item of items)
    await db().raw(
      `insert into library_item (organisation_id, kind, name, note, body, kept_by) values (?, ?, ?, ?, ?, ?)
       on conflict (organisation_id, kind, lower(name)) do update set name = excluded.name, note = excluded.note, body = excluded.body, kept_by = excluded.kept_by, kept_at = now()`,
      [organisationId, item.body.kind, item.name, item.note, JSON.stringify(item.body), userId],
    );
}

/** The name of what was taken out; null where there was none. */
export async function dropItem(organisationId: string, id: string): Promise<string | null> {
  const [gone] = await db()("library_item").where({ organisationId, id }).delete().returning("name");
  return gone?.name ?? null;
}
