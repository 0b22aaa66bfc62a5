import { z } from "zod";
import type { TodoMade } from "../../contracts/visits.ts";
import { db } from "./connection.ts";

type Of = { organisationId: string; siteId: string };
const iso = z.date().transform((d) => d.toISOString());
const todoRow = z.object({
  id: z.string(),
  words: z.string(),
  subjectId: z.string().nullable(),
  ownerId: z.string().nullable(),
  owner: z.string().nullable(),
  due: z.string().nullable(),
  photoIds: z.array(z.string()),
  visitId: z.string().nullable(),
  madeBy: z.string(),
  madeAt: iso,
  doneAt: iso.nullable(),
  doneBy: z.string().nullable(),
  doneWords: z.string().nullable(),
  version: z.number(),
});
export type TodoRow = z.infer<typeof todoRow>;

const all = () =>
  db()("todo as t")
    .leftJoin("app_user as u", "u.id", "t.owner_id")
    .select(
      ...["id", "words", "subject_id", "owner_id", "photo_ids", "visit_id", "made_by", "made_at"].map((c) => `t.${c}`),
      ...["done_at", "done_by", "done_words", "version"].map((c) => `t.${c}`),
      "u.name as owner",
      db().raw("t.due::text as due"),
    );

/** What is to do at a site, open first and by its day, and what was done last. */
export async function todosOf(siteId: string, limit: number): Promise<TodoRow[]> {
  const rows: unknown[] = await all()
    .where("t.site_id", siteId)
    .orderByRaw("t.done_at desc nulls first, t.due asc nulls last, t.made_at desc")
    .limit(limit);
  return z.array(todoRow).parse(rows);
}

/** @returns false where it is there already */
export async function insertTodo(
  of: Of,
  todo: TodoMade & { madeBy: string; madeAt: Date; visitId?: string; lineId?: string },
): Promise<boolean> {
  const done: unknown[] = await db()("todo")
    .insert({ ...of, ...todo })
    .onConflict("id")
    .ignore()
    .returning("id");
  return done.length > 0;
}

export type TodoPatch = Partial<Pick<TodoRow, "words" | "ownerId" | "due">> & {
  doneAt?: Date | null;
  doneBy?: string | null;
  doneWords?: string | null;
};
/** @returns false where another version of it stands by now */
export async function patchTodo(siteId: string, id: string, version: number, patch: TodoPatch): Promise<boolean> {
  const done = await db()("todo")
    .where({ siteId, id, version })
    .update({ ...patch, version: version + 1 });
  return done === 1;
}

export async function todoOf(siteId: string, id: string): Promise<TodoRow | null> {
  const row: unknown = await all().where({ "t.site_id": siteId, "t.id": id }).first();
  return row ? todoRow.parse(row) : null;
}

const openRow = z.object({ siteId: z.string(), words: z.string(), due: z.string().nullable() });
/** What is to do at these sites. */
export async function openTodos(siteIds: string[]): Promise<z.infer<typeof openRow>[]> {
  const { rows } = await db().raw(
    "select site_id, words, due::text as due from todo where done_at is null and site_id = any(?) order by due nulls last, made_at",
    [siteIds],
  );
  return z.array(openRow).parse(rows);
}
