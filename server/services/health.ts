import { db } from "../db/connection.ts";

/** Is the database there? Asked by whoever decides whether this process may be sent requests. */
export async function ready(): Promise<boolean> {
  return db()
    .raw("select 1")
    .then(
      () => true,
      () => false,
    );
}
