import { db } from "./connection.ts";

/** Makes the partitions that rows of these instants (ISO 8601) go into. */
export async function ensureMonths(
  table: "site_event" | "field_instant" | "reading",
  instants: readonly string[],
): Promise<void> {
  const months = new Set(instants.map((at) => `${new Date(at).toISOString().slice(0, 7)}-15T00:00:00Z`));
  for (const moment of months) await db().raw("select ensure_month(?, ?)", [table, moment]);
}
