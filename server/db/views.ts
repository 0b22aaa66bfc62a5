import { randomUUID } from "node:crypto";
import { z } from "zod";
import { type KeepViewRequest, type SavedView, VIEW_SCREENS } from "../../contracts/views.ts";
import { db } from "./connection.ts";

type Whose = { organisationId: string; userId: string };
const row = z.object({ id: z.string(), screen: z.enum(VIEW_SCREENS), name: z.string(), query: z.string() });

export async function viewsOf({ organisationId, userId }: Whose): Promise<SavedView[]> {
  const rows: unknown[] = await db()("saved_view")
    .where({ organisationId, userId })
    .orderByRaw("screen, lower(name)")
    .select("id", "screen", "name", "query");
  return z.array(row).parse(rows);
}

export async function keepView({ organisationId, userId }: Whose, view: KeepViewRequest): Promise<void> {
  await db()("saved_view")
    .insert({ id: randomUUID(), organisationId, userId, ...view })
    .onConflict(["user_id", "screen", "name"])
    .merge(["query"]);
}

/** @returns false where they have none such */
export async function dropView({ organisationId, userId }: Whose, id: string): Promise<boolean> {
  return (await db()("saved_view").where({ organisationId, userId, id }).delete()) === 1;
}

/** @returns how many of a person's views there are */
export async function countViews({ organisationId, userId }: Whose): Promise<number> {
  const [counted] = await db()("saved_view").where({ organisationId, userId }).count({ n: "*" });
  return Number(counted?.["n"] ?? 0);
}
