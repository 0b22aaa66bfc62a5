import { db } from "./connection.ts";

/** Makes the partitions that rows of these instants (ISO 8601) go into. */
export async function ensureMonths(
  table: "site_event" | "field_instant" | "reading",
  instants: readonly string[],
): Promise<void> {
  // Told in UTC, an instant begins with its month; with another offset its month may be the one beside.
  const month = (at: string): string => (at.endsWith("Z") ? at : new Date(at).toISOString()).slice(0, 7);
  const months = new Set(instants.map((at) => `${month(at)}-15T00:00:00Z`));
  for (const moment of months) await db().raw("select ensure_month(?, ?)", [table, moment]);
}
