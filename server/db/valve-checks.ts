import { z } from "zod";
import type { ValveCheck } from "../../contracts/valve-checks.ts";
import { CHECK_UNITS } from "../../core/wiring/valve-check.ts";
import { db } from "./connection.ts";

const checkRow = z.object({
  id: z.string(),
  controllerId: z.string(),
  at: z.date().transform((d) => d.toISOString()),
  how: z.enum(["typed", "pasted", "gateway"]),
  unit: z.enum(CHECK_UNITS),
  // As they were kept: what a gateway says is not held to what people may type.
  readings: z.array(z.object({ stationId: z.string(), value: z.number() })),
  by: z.string(),
});

/** The newest checks of a site. */
export async function valveChecksOf(siteId: string, limit: number): Promise<ValveCheck[]> {
  const rows: unknown[] = await db()("valve_check")
    .where({ siteId })
    .orderBy([
      { column: "at", order: "desc" },
      { column: "made_at", order: "desc" },
    ])
    .limit(limit)
    .select("id", "controller_id", "at", "how", "unit", "readings", "by_name as by");
  return z.array(checkRow).parse(rows);
}

/** Keeps a check, once under its id. */
export async function insertValveCheck(
  of: { organisationId: string; siteId: string },
  { by, at, readings, ...check }: ValveCheck,
): Promise<void> {
  await db()("valve_check")
    .insert({ ...of, ...check, at: new Date(at), readings: JSON.stringify(readings), byName: by })
    .onConflict("id")
    .ignore();
}
