import { z } from "zod";
import { db } from "./connection.ts";

const row = z.object({
  version: z.number(),
  runAt: z.date(),
  by: z.string(),
  faults: z.coerce.number(),
  alarms: z.coerce.number(),
  unwateredMin: z.coerce.number(),
});
export type RehearsalFacts = {
  version: number;
  at: string;
  by: string;
  faults: number;
  alarms: number;
  unwateredMin: number;
};

/** The newest night taken from the bench without faults, and the newest with them. */
export async function newestRehearsals(
  organisationId: string,
  siteId: string,
): Promise<{ calm: RehearsalFacts | null; faulted: RehearsalFacts | null }> {
  const newest = async (faulted: boolean): Promise<RehearsalFacts | null> => {
    const found: unknown = await db()("bench_run as b")
      .join("app_user as u", "u.id", "b.run_by")
      .where({ "b.organisation_id": organisationId, "b.site_id": siteId })
      .whereRaw(`jsonb_array_length(b.request -> 'faults') ${faulted ? ">" : "="} 0`)
      .orderBy("b.run_at", "desc")
      .select(
        "b.version",
        "b.run_at",
        "u.name as by",
        db().raw("jsonb_array_length(b.request -> 'faults') as faults"),
        db().raw("(select count(*) from alarm a where a.bench_run_id = b.id) as alarms"),
        db().raw(
          "(select coalesce(sum((x ->> 'minutes')::float8), 0) from jsonb_array_elements(b.unwatered) x) as unwatered_min",
        ),
      )
      .first();
    if (!found) return null;
    const { version, runAt, by, faults, alarms, unwateredMin } = row.parse(found);
    return { version, at: runAt.toISOString(), by, faults, alarms, unwateredMin: unwateredMin };
  };
  const [calm, faulted] = await Promise.all([newest(false), newest(true)]);
  return { calm, faulted };
}

export async function openAlarmCount(organisationId: string, siteId: string): Promise<number> {
  const found = await db()("alarm")
    .where({ organisationId: organisationId, siteId: siteId })
    .whereNot({ state: "cleared" })
    .count({ n: "*" })
    .first();
  return Number(found?.n ?? 0);
}
