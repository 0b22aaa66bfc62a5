import { AppError } from "../app-error.ts";
import { db, inTransaction } from "./connection.ts";

/** Keys are kept so long: a request is not sent again after that. A phone may lie in a drawer for weeks before it asks whether an answer was lost. */
const KEPT = "90 days";

/**
 * Does what was asked under a key once: asked again, at the same time or later, it waits for the first and answers alike. Without a key it is done each time.
 *
 * @param key made by the asker for one intention
 */
export async function once<T>(organisationId: string, key: string | null, work: () => Promise<T>): Promise<T> {
  if (key === null) return work();
  if (!/^[\w-]{8,100}$/.test(key))
    throw new AppError("badRequest", "An idempotency key has 8 to 100 letters, digits, - or _.");
  return inTransaction(async () => {
    const row = { organisationId, key, answer: "null" };
    const mine: unknown[] = await db()("done_once")
      .insert(row)
      .onConflict(["organisation_id", "key"])
      .ignore()
      .returning("key");
    if (mine.length === 0) {
      const done = await db()("done_once").where({ organisationId, key }).first("answer");
      return done?.answer as T;
    }
    const answer = await work();
    await db()("done_once")
      .where({ organisationId, key })
      .update({ answer: JSON.stringify(answer ?? null) });
    await db()("done_once").whereRaw(`at < now() - interval '${KEPT}'`).delete();
    return answer;
  });
}
