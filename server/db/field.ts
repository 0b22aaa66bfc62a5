import { z } from "zod";
import { type SiteNow, siteNow } from "../../contracts/rounds.ts";
import { stateMessage } from "../../core/field/messages.ts";
import { db, inTransaction } from "./connection.ts";
import { ensureMonths } from "./months.ts";

export const gatewayRow = z.object({
  siteId: z.string(),
  organisationId: z.string(),
  /** The gateway's account at the broker, which stands in its topics. */
  account: z.string(),
  setBy: z.string(),
  setAt: z.date(),
  state: z.enum(["waiting", "live", "silent", "unreachable"]),
  heardAt: z.date().nullable(),
  says: stateMessage.nullable(),
  setAside: z.number(),
  setAsideWords: z.string().nullable(),
});
export type GatewayRow = z.infer<typeof gatewayRow>;

export async function gatewayOf(siteId: string): Promise<GatewayRow | null> {
  const row: unknown = await db()("field_gateway").where({ siteId: siteId }).first();
  return row ? gatewayRow.parse(row) : null;
}

/** Sets the gateway of a site; the account that was its before, if it had one. */
export async function setGateway(row: {
  siteId: string;
  organisationId: string;
  account: string;
  userId: string;
}): Promise<string | null> {
  return inTransaction(async () => {
    const before: unknown = await db()("field_gateway").where({ siteId: row.siteId }).forUpdate().first();
    await db()("field_gateway")
      .insert({
        siteId: row.siteId,
        organisationId: row.organisationId,
        account: row.account,
        setBy: row.userId,
        setAt: new Date(),
        state: "waiting",
        heardAt: null,
        says: null,
      })
      .onConflict("site_id")
      .merge();
    return before ? gatewayRow.parse(before).account : null;
  });
}

/** The account that is no longer needed; null where the site had no gateway. */
export async function removeGateway(siteId: string): Promise<string | null> {
  const rows: unknown[] = await db()("field_gateway").where({ siteId }).delete().returning("*");
  return rows[0] ? gatewayRow.parse(rows[0]).account : null;
}

export async function accountsOf(organisationId: string): Promise<string[]> {
  return db()("field_gateway").where({ organisationId }).pluck("account");
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
  refused: z.number(),
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
    now: SiteNow | null;
    readings: number;
    events: number;
    repeats: number;
    lost: number;
    refused: number;
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
      refused: to.refused,
      ...(to.now ? { now: JSON.stringify(to.now) } : {}),
      ...(to.lastAt ? { lastAt: to.lastAt } : {}),
    });
}

/** What each site of an organisation read last. */
export async function sitesNow(organisationId: string): Promise<SiteNow[]> {
  const rows: { now: unknown }[] = await db()("field_stream as f")
    .join("field_gateway as g", (on) =>
      on.on("g.site_id", "f.site_id").andOn("f.stream", db().raw("g.says ->> 'stream'")),
    )
    .where("f.organisation_id", organisationId)
    .whereNotNull("f.now")
    .select("f.now");
  return z.array(siteNow).parse(rows.map((r) => r.now));
}

export type NewInstant = { at: string; seq: number; open: string[]; valves: string[]; pumps: string[] };
export type NewReading = { at: string; seq: number; sensorId: string; quantity: "flow" | "pressure"; value: number };
type Stream = { organisationId: string; siteId: string; stream: string };

/** Readings of one stream, a column at a time: PostgreSQL takes that in several times as fast as a row at a time. */
export async function insertReadings(of: Stream, instants: NewInstant[], readings: NewReading[]): Promise<void> {
  const times = instants.map((i) => i.at);
  await ensureMonths("field_instant", times);
  await ensureMonths("reading", times);
  const whose = [of.organisationId, of.siteId, of.stream];
  if (instants.length > 0)
    await db().raw(
      `insert into field_instant (organisation_id, site_id, stream, at, seq, open, valves, pumps)
       select ?, ?, ?, at, seq, open::text[], valves::text[], pumps::text[]
       from unnest(?::timestamptz[], ?::bigint[], ?::text[], ?::text[], ?::text[]) as i (at, seq, open, valves, pumps)`,
      [
        ...whose,
        times,
        instants.map((i) => i.seq),
        listOfIds(instants.map((i) => i.open)),
        listOfIds(instants.map((i) => i.valves)),
        listOfIds(instants.map((i) => i.pumps)),
      ],
    );
  if (readings.length > 0)
    await db().raw(
      `insert into reading (organisation_id, site_id, stream, at, seq, sensor_id, quantity, value)
       select ?, ?, ?, at, seq, sensor_id, quantity, value
       from unnest(?::timestamptz[], ?::bigint[], ?::text[], ?::text[], ?::float8[]) as r (at, seq, sensor_id, quantity, value)`,
      [
        ...whose,
        readings.map((r) => r.at),
        readings.map((r) => r.seq),
        readings.map((r) => r.sensorId),
        readings.map((r) => r.quantity),
        readings.map((r) => r.value),
      ],
    );
}

/** PostgreSQL has no lists of lists of different lengths: each as its text. */
const listOfIds = (lists: string[][]): string[] =>
  lists.map((ids) => `{${ids.map((id) => `"${id.replace(/["\\]/g, "\\$&")}"`).join()}}`);

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

/** The newest events of a stream since an instant: without one every month there is would be looked into. */
export async function recentEvents(
  siteId: string,
  stream: string,
  since: Date,
  limit: number,
): Promise<LiveEventRow[]> {
  const rows: unknown[] = await db()("site_event")
    .where({ siteId: siteId, stream })
    .where("at", ">", since)
    .orderBy([
      { column: "at", order: "desc" },
      { column: "seq", order: "desc" },
    ])
    .limit(limit)
    .select("at", "type", "subject_id", "reason");
  return z.array(eventRow).parse(rows);
}

/** When an event of that type and subject was last told, up to an instant and at most six hours before it. */
export async function lastEvent(siteId: string, type: string, subjectId: string, until: Date): Promise<Date | null> {
  const row = await db()("site_event")
    .where({ siteId, type, subjectId })
    .whereBetween("at", [new Date(until.getTime() - 6 * 3_600_000), until])
    .orderBy("at", "desc")
    .first("at");
  return row?.at ?? null;
}

/** What all flow sensors of a site read together from one instant to another, by epoch seconds. */
export async function flowsBetween(siteId: string, from: Date, to: Date): Promise<{ t: number; lpm: number }[]> {
  const rows: unknown[] = await db()("reading")
    .where({ siteId, quantity: "flow" })
    .whereBetween("at", [from, to])
    .groupBy("at")
    .orderBy("at")
    .select("at", db().raw("sum(value) as lpm"));
  return z
    .array(z.object({ at: z.date(), lpm: z.number() }))
    .parse(rows)
    .map((r) => ({ t: Math.round(r.at.getTime() / 1000), lpm: r.lpm }));
}

/** Marks what the controller locked out on the live alarm it belongs to: the newest one not cleared of about that time. */
export async function addLockToLiveAlarm(siteId: string, at: string, elementId: string): Promise<void> {
  await db().raw(
    "update alarm set locked = array_append(locked, ?) where id = (select id from alarm where site_id = ? and bench_run_id is null and state <> 'cleared' and at between ?::timestamptz - interval '10 minutes' and ?::timestamptz + interval '5 seconds' order by (subject_id = ?) desc, at desc limit 1) and not (? = any(locked))",
    [elementId, siteId, at, at, elementId, elementId],
  );
}
