import { z } from "zod";
import { db } from "./connection.ts";

const alarmRow = z.object({
  id: z.string(), site_id: z.string(), at: z.date(), kind: z.string(), subject_id: z.string(), measured_lpm: z.number(), expected_lpm: z.number(),
  message: z.string(), locked: z.array(z.string()), state: z.enum(["open", "acknowledged", "cleared"]), cause: z.string().nullable(),
  acknowledged_at: z.date().nullable(), acknowledged_by_name: z.string().nullable(), cleared_at: z.date().nullable(), cleared_by_name: z.string().nullable(),
});
export type AlarmRow = z.infer<typeof alarmRow>;

const query = (organisationId: string) =>
  db()("alarm as a")
    .leftJoin("app_user as k", "k.id", "a.acknowledged_by")
    .leftJoin("app_user as c", "c.id", "a.cleared_by")
    .where("a.organisation_id", organisationId)
    .select("a.*", "k.name as acknowledged_by_name", "c.name as cleared_by_name");

export async function alarmsOfSite(organisationId: string, siteId: string, limit = 200): Promise<AlarmRow[]> {
  const rows: unknown[] = await query(organisationId).where("a.site_id", siteId).orderByRaw("(a.state = 'cleared'), a.at desc").limit(limit);
  return z.array(alarmRow).parse(rows);
}

export async function alarmById(organisationId: string, siteId: string, id: string): Promise<AlarmRow | null> {
  const row: unknown = await query(organisationId).where({ "a.site_id": siteId, "a.id": id }).first();
  return row ? alarmRow.parse(row) : null;
}

export async function updateAlarm(id: string, values: Record<string, unknown>): Promise<void> {
  await db()("alarm").where({ id }).update(values);
}

export type NewBenchRun = { organisationId: string; siteId: string; version: number; night: string; request: unknown; totals: unknown; unwatered: unknown; userId: string };

export async function insertBenchRun(run: NewBenchRun): Promise<string> {
  const [row] = await db()("bench_run")
    .insert({
      organisation_id: run.organisationId, site_id: run.siteId, version: run.version, night: run.night, request: JSON.stringify(run.request),
      totals: JSON.stringify(run.totals), unwatered: JSON.stringify(run.unwatered), run_by: run.userId,
    })
    .returning("id");
  return row.id;
}

export async function insertAlarms(rows: { organisationId: string; siteId: string; benchRunId: string; at: string; kind: string; subjectId: string; measuredLpm: number; expectedLpm: number; message: string; locked: string[] }[]): Promise<void> {
  if (rows.length === 0) return;
  await db()("alarm").insert(rows.map((r) => ({
    organisation_id: r.organisationId, site_id: r.siteId, bench_run_id: r.benchRunId, at: r.at, kind: r.kind, subject_id: r.subjectId,
    measured_lpm: r.measuredLpm, expected_lpm: r.expectedLpm, message: r.message, locked: r.locked,
  })));
}

export async function insertEvents(rows: { organisation_id: string; site_id: string; at: string; type: string; subject_id: string; reason: string; bench_run_id: string }[]): Promise<void> {
  for (const month of new Set(rows.map((r) => r.at.slice(0, 7)))) {
    const moment = rows.find((r) => r.at.startsWith(month))?.at;
    await db().raw("select ensure_site_event_month(?)", [moment as string]);
  }
  const last = rows[rows.length - 1];
  if (last) await db().raw("select ensure_site_event_month(?)", [last.at]);
  for (let i = 0; i < rows.length; i += 1000) await db()("site_event").insert(rows.slice(i, i + 1000));
}
