import { z } from "zod";
import type { AlarmedDeparture } from "../../core/field/departure.ts";
import { type Alarm, alarm, type AlarmEntry, alarmEntry } from "../../contracts/alarms.ts";
import type { Knex } from "knex";
import { anywhere } from "./anywhere.ts";
import { db } from "./connection.ts";
import { ensureMonths } from "./months.ts";

/** An instant of the database, as it is told. */
const told = z.date().transform((d) => d.toISOString());
const alarmRow = z.object({
  ...alarm.shape,
  at: told,
  acknowledgedAt: told.nullable(),
  clearedAt: told.nullable(),
  departedFrom: told.nullable(),
});

const query = (organisationId: string) =>
  db()("alarm as a")
    .join("site as s", "s.id", "a.site_id")
    .leftJoin("app_user as k", "k.id", "a.acknowledged_by")
    .leftJoin("app_user as c", "c.id", "a.cleared_by")
    .leftJoin("app_user as g", "g.id", "a.assigned_to")
    .leftJoin("bench_run as b", "b.id", "a.bench_run_id")
    .where("a.organisation_id", organisationId)
    .select(
      "a.*",
      "s.name as site_name",
      "k.name as acknowledged_by_name",
      "c.name as cleared_by_name",
      "g.name as assigned_to_name",
      db().raw("a.bench_run_id is not null as rehearsed"),
      db().raw("(b.totals ->> 'lostL')::float8 as night_lost_l"),
      db().raw(
        "(select sum((u ->> 'minutes')::float8) from jsonb_array_elements(b.unwatered) u) as night_unwatered_min",
      ),
    );

/** Open ones first, newest first. */
const ORDER = "(a.state = 'cleared'), a.at desc, a.id";

export async function alarmsOfSite(organisationId: string, siteId: string, limit = 200): Promise<Alarm[]> {
  const rows: unknown[] = await query(organisationId).where("a.site_id", siteId).orderByRaw(ORDER).limit(limit);
  return z.array(alarmRow).parse(rows);
}

/** Alarms of a site raised between two instants, oldest first. */
export async function alarmsOfTime(
  organisationId: string,
  siteId: string,
  from: Date,
  to: Date,
  limit: number,
): Promise<Alarm[]> {
  const rows: unknown[] = await query(organisationId)
    .where("a.site_id", siteId)
    .where("a.at", ">=", from)
    .where("a.at", "<", to)
    .orderBy("a.at")
    .limit(limit);
  return z.array(alarmRow).parse(rows);
}

export type AlarmFilter = {
  state?: "open" | "cleared" | undefined;
  kind?: string | undefined;
  siteId?: string | undefined;
  assignedTo?: string | undefined;
  find?: string | undefined;
};

function passing<Q extends Knex.QueryBuilder>(asked: Q, filter: AlarmFilter): Q {
  // As the index has it.
  if (filter.state) asked.whereRaw("(a.state = 'cleared') = ?", [filter.state === "cleared"]);
  if (filter.kind) asked.where("a.kind", filter.kind);
  if (filter.siteId) asked.where("a.site_id", filter.siteId);
  if (filter.assignedTo) asked.where("a.assigned_to", filter.assignedTo);
  if (filter.find) {
    const like = anywhere(filter.find.toLowerCase());
    const called = db()("site").whereRaw("lower(name) like ?", [like]).select("id");
    asked.where((q) => q.whereLike("a.words", like).orWhereIn("a.site_id", called));
  }
  return asked;
}

/** So many are counted; what comes after them is known to be more. */
const MOST_COUNTED = 1000;

/**
 * Alarms over all sites of an organisation, open ones first, newest first: of those that pass, a page, and how many they are. `more`: that there are more than `found`, which
 * nobody waits for to be counted.
 */
export async function alarmsOfOrganisation(
  organisationId: string,
  filter: AlarmFilter,
  page: { from: number; count: number },
): Promise<{ alarms: Alarm[]; found: number; more: boolean }> {
  // Which they are first: what belongs to each is looked up for those that are shown.
  const passed = () => passing(db()("alarm as a").where("a.organisation_id", organisationId), filter);
  const most = Math.max(MOST_COUNTED, page.from + page.count);
  const counted = () =>
    passed()
      .orderByRaw(ORDER)
      .limit(most + 1)
      .select("a.id", "a.state", "a.at");
  const which: { id: string; found: number }[] = await db()
    .with("counted", counted())
    .from("counted as a")
    .orderByRaw(ORDER)
    .limit(page.count)
    .offset(page.from)
    .select("a.id", db().raw("(select count(*)::int from counted) as found"));
  const rows: unknown[] = await query(organisationId)
    .whereIn(
      "a.id",
      which.map((a) => a.id),
    )
    .orderByRaw(ORDER);
  const count = which[0]?.found ?? (page.from === 0 ? 0 : (await counted()).length);
  return { alarms: z.array(alarmRow).parse(rows), found: Math.min(count, most), more: count > most };
}

/** Sites that have an alarm, open or not, by name. */
export async function sitesWithAlarms(organisationId: string): Promise<{ id: string; name: string }[]> {
  const { rows } = await db().raw(
    `select s.id, s.name from site s where s.organisation_id = ? and exists (select 1 from alarm a where a.site_id = s.id) order by lower(s.name)`,
    [organisationId],
  );
  return rows;
}

export async function alarmById(organisationId: string, siteId: string, id: string): Promise<Alarm | null> {
  const row: unknown = await query(organisationId).where({ "a.site_id": siteId, "a.id": id }).first();
  return row ? alarmRow.parse(row) : null;
}

/** What other alarms of a site that are not cleared hold locked. */
export async function lockedByOthers(organisationId: string, siteId: string, alarmId: string): Promise<string[]> {
  const rows: { locked: string[] }[] = await db()("alarm")
    .where({ organisationId, siteId })
    .whereNot({ id: alarmId })
    .whereNot({ state: "cleared" })
    .select("locked");
  return rows.flatMap((r) => r.locked);
}

const entryRow = z.object({ ...alarmEntry.shape, at: told });
export type NewEntry = {
  organisationId: string;
  alarmId: string;
  userId: string;
  action: "acknowledged" | "assigned" | "cause" | "note" | "photo" | "cleared" | "reopened";
  words?: string;
  photo?: Buffer;
  photoType?: string;
};

export async function insertAlarmEntry(e: NewEntry): Promise<void> {
  await db()("alarm_entry").insert({
    organisationId: e.organisationId,
    alarmId: e.alarmId,
    madeBy: e.userId,
    action: e.action,
    words: e.words ?? "",
    photo: e.photo ?? null,
    photoType: e.photoType ?? null,
  });
}

/** What was done about these alarms, oldest first. */
export async function entriesOf(organisationId: string, alarmIds: string[]): Promise<AlarmEntry[]> {
  const rows: unknown[] = await db()("alarm_entry as e")
    .join("app_user as u", "u.id", "e.made_by")
    .where("e.organisation_id", organisationId)
    .whereIn("e.alarm_id", alarmIds)
    .orderBy("e.at")
    .select(
      "e.id",
      "e.alarm_id",
      "e.at",
      "e.action",
      "e.words",
      "u.name as made_by_name",
      db().raw("e.photo is not null as has_photo"),
    );
  return z.array(entryRow).parse(rows);
}

export async function photoOf(
  organisationId: string,
  entryId: string,
): Promise<{ photo: Buffer; photoType: string } | null> {
  const row: { photo: Buffer | null; photoType: string } | undefined = await db()("alarm_entry")
    .where({ organisationId: organisationId, id: entryId })
    .first("photo", "photo_type");
  return row?.photo ? { photo: row.photo, photoType: row.photoType } : null;
}

export async function updateAlarm(id: string, values: Record<string, unknown>): Promise<void> {
  await db()("alarm").where({ id }).update(values);
}

export type NewBenchRun = {
  organisationId: string;
  siteId: string;
  version: number;
  night: string;
  request: unknown;
  totals: unknown;
  unwatered: unknown;
  userId: string;
};

export async function insertBenchRun(run: NewBenchRun): Promise<string> {
  const [row] = await db()("bench_run")
    .insert({
      organisationId: run.organisationId,
      siteId: run.siteId,
      version: run.version,
      night: run.night,
      request: JSON.stringify(run.request),
      totals: JSON.stringify(run.totals),
      unwatered: JSON.stringify(run.unwatered),
      runBy: run.userId,
    })
    .returning("id");
  return row.id;
}

export async function insertAlarms(
  rows: {
    organisationId: string;
    siteId: string /** Null: read live. */;
    benchRunId: string | null;
    at: string;
    kind: string;
    subjectId: string;
    measuredLpm: number;
    expectedLpm: number;
    message: string;
    locked: string[];
  }[],
): Promise<void> {
  if (rows.length === 0) return;
  await db()("alarm").insert(
    rows.map((r) => ({
      organisationId: r.organisationId,
      siteId: r.siteId,
      benchRunId: r.benchRunId,
      at: r.at,
      kind: r.kind,
      subjectId: r.subjectId,
      measuredLpm: r.measuredLpm,
      expectedLpm: r.expectedLpm,
      message: r.message,
      locked: r.locked,
    })),
  );
}

/** What live alarms have cost by now, from the readings round them. */
export async function noteDepartures(siteId: string, departures: readonly AlarmedDeparture[]): Promise<void> {
  for (const { alarm: of, from, seconds, litres } of departures)
    await db()("alarm")
      .where({ siteId, benchRunId: null, subjectId: of.subjectId, at: new Date(of.at * 1000) })
      .update({ departedFrom: new Date(from * 1000), departedMin: seconds / 60, departedL: litres });
}

export type NewEvent = {
  organisationId: string;
  siteId: string;
  at: string;
  type: string;
  subjectId: string;
  reason: string;
  benchRunId?: string;
  stream?: string;
  seq?: number;
};

export async function insertEvents(rows: NewEvent[]): Promise<void> {
  await ensureMonths(
    "site_event",
    rows.map((r) => r.at),
  );
  for (let i = 0; i < rows.length; i += 1000) await db()("site_event").insert(rows.slice(i, i + 1000));
}
