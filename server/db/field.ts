import { z } from "zod";
import { stateMessage } from "../../core/field/messages.ts";
import { db } from "./connection.ts";
import { ensureMonths } from "./months.ts";

const gatewayRow = z.object({
  siteId: z.string(),
  organisationId: z.string(),
  url: z.string(),
  topic: z.string(),
  setBy: z.string(),
  setAt: z.date(),
  state: z.enum(["waiting", "live", "silent", "unreachable"]),
  heardAt: z.date().nullable(),
  says: stateMessage.nullable(),
});
export type GatewayRow = z.infer<typeof gatewayRow>;

export async function gatewayOf(siteId: string): Promise<GatewayRow | null> {
  const row: unknown = await db()("field_gateway").where({ siteId: siteId }).first();
  return row ? gatewayRow.parse(row) : null;
}

export async function allGateways(): Promise<GatewayRow[]> {
  return z.array(gatewayRow).parse(await db()("field_gateway").orderBy("site_id"));
}

export async function setGateway(row: {
  siteId: string;
  organisationId: string;
  url: string;
  topic: string;
  userId: string;
}): Promise<void> {
  await db()("field_gateway")
    .insert({
      siteId: row.siteId,
      organisationId: row.organisationId,
      url: row.url,
      topic: row.topic,
      setBy: row.userId,
      setAt: new Date(),
      state: "waiting",
      heardAt: null,
      says: null,
    })
    .onConflict("site_id")
    .merge();
}

export async function removeGateway(siteId: string): Promise<void> {
  await db()("field_gateway").where({ siteId: siteId }).delete();
}

export async function updateGateway(
  siteId: string,
  values: { state?: GatewayRow["state"]; heardAt?: Date; says?: string },
): Promise<void> {
  await db()("field_gateway").where({ siteId: siteId }).update(values);
}

const streamRow = z.object({
  stream: z.string(),
  firstSeq: z.number(),
  appliedSeq: z.number(),
  lastAt: z.date().nullable(),
  judge: z.unknown(),
  readings: z.number(),
  events: z.number(),
  repeats: z.number(),
  lost: z.number(),
});
export type StreamRow = z.infer<typeof streamRow>;

export async function streamOf(siteId: string, stream: string): Promise<StreamRow | null> {
  const row: unknown = await db()("field_stream").where({ siteId: siteId, stream }).first();
  return row ? streamRow.parse(row) : null;
}

export async function beginStream(row: {
  siteId: string;
  organisationId: string;
  stream: string;
  firstSeq: number;
}): Promise<void> {
  await db()("field_stream")
    .insert({
      siteId: row.siteId,
      organisationId: row.organisationId,
      stream: row.stream,
      firstSeq: row.firstSeq,
      appliedSeq: row.firstSeq - 1,
    })
    .onConflict(["site_id", "stream"])
    .ignore();
}

/** Locks the stream until the transaction ends: two recorders come one after the other. */
export async function lockStream(siteId: string, stream: string): Promise<StreamRow | null> {
  const row: unknown = await db()("field_stream").where({ siteId: siteId, stream }).forUpdate().first();
  return row ? streamRow.parse(row) : null;
}

export async function advanceStream(
  siteId: string,
  stream: string,
  to: {
    appliedSeq: number;
    lastAt: string | null;
    judge: unknown;
    readings: number;
    events: number;
    repeats: number;
    lost: number;
  },
): Promise<void> {
  await db()("field_stream")
    .where({ siteId: siteId, stream })
    .update({
      appliedSeq: to.appliedSeq,
      judge: JSON.stringify(to.judge),
      readings: to.readings,
      events: to.events,
      repeats: to.repeats,
      lost: to.lost,
      ...(to.lastAt ? { lastAt: to.lastAt } : {}),
    });
}

export type NewInstant = { at: string; stream: string; seq: number; open: string[]; valves: string[]; pumps: string[] };
export type NewReading = {
  at: string;
  stream: string;
  seq: number;
  sensorId: string;
  quantity: "flow" | "pressure";
  value: number;
};

export async function insertReadings(
  of: { organisationId: string; siteId: string },
  instants: NewInstant[],
  readings: NewReading[],
): Promise<void> {
  const times = instants.map((i) => i.at);
  await ensureMonths("field_instant", times);
  await ensureMonths("reading", times);
  for (let i = 0; i < instants.length; i += 1000)
    await db()("field_instant").insert(instants.slice(i, i + 1000).map((r) => ({ ...of, ...r })));
  for (let i = 0; i < readings.length; i += 1000)
    await db()("reading").insert(readings.slice(i, i + 1000).map((r) => ({ ...of, ...r })));
}

const instantRow = z.object({ at: z.date(), open: z.array(z.string()), flow: z.number().nullable() });
export type InstantRow = z.infer<typeof instantRow>;

/** What was read in the last so many minutes of a stream, thinned to one in `everyS` seconds, oldest first. */
export async function recentInstants(
  siteId: string,
  stream: string,
  since: Date,
  everyS: number,
): Promise<InstantRow[]> {
  const rows: unknown[] = await db()("field_instant as i")
    .where({ "i.site_id": siteId, "i.stream": stream })
    .where("i.at", ">", since)
    .whereRaw("extract(epoch from i.at)::bigint % ? = 0", [everyS])
    .orderBy("i.at")
    .select(
      "i.at",
      "i.open",
      db().raw(
        "(select sum(r.value) from reading r where r.site_id = i.site_id and r.at = i.at and r.stream = i.stream and r.seq = i.seq and r.quantity = 'flow') as flow",
      ),
    );
  return z.array(instantRow).parse(rows);
}

const eventRow = z.object({ at: z.date(), type: z.string(), subjectId: z.string(), reason: z.string() });
export type LiveEventRow = z.infer<typeof eventRow>;

export async function recentEvents(siteId: string, stream: string, limit: number): Promise<LiveEventRow[]> {
  const rows: unknown[] = await db()("site_event")
    .where({ siteId: siteId, stream })
    .orderBy([
      { column: "at", order: "desc" },
      { column: "seq", order: "desc" },
    ])
    .limit(limit)
    .select("at", "type", "subject_id", "reason");
  return z.array(eventRow).parse(rows);
}

/** Marks what the controller locked out on the live alarm it belongs to: the newest one not cleared of about that time. */
export async function addLockToLiveAlarm(siteId: string, at: string, elementId: string): Promise<void> {
  await db().raw(
    "update alarm set locked = array_append(locked, ?) where id = (select id from alarm where site_id = ? and bench_run_id is null and state <> 'cleared' and at between ?::timestamptz - interval '10 minutes' and ?::timestamptz + interval '5 seconds' order by (subject_id = ?) desc, at desc limit 1) and not (? = any(locked))",
    [elementId, siteId, at, at, elementId, elementId],
  );
}
