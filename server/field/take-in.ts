import { alarmWords } from "../../core/judge/alarm-words.ts";
import type { LiveJudge, LiveState } from "../../core/field/live-judge.ts";
import type { Alarm } from "../../core/judge/alarm.ts";
import type { EventMessage, ReadingMessage } from "../../core/field/messages.ts";
import type { Ready } from "../../core/field/sequence.ts";
import { withLocks } from "../../core/site-file/locks.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { insertAlarms, insertEvents } from "../db/alarms.ts";
import { inTransaction } from "../db/connection.ts";
import { addLockToLiveAlarm, advanceStream, type GatewayRow, insertReadings, lockStream } from "../db/field.ts";
import { userById } from "../db/users.ts";
import { tell } from "../db/listen.ts";
import { alarmsChanged } from "../services/alarms.ts";
import { amendSite } from "../services/sites.ts";

export type Judged = { version: number; file: SiteFile; judge: LiveJudge };
/** What came of it: taken in; or another recorder was here first, and the stream stands elsewhere. */
export type TakenIn = { ok: true; applied: number; alarms: number } | { ok: false; applied: number | null };

/**
 * Takes a stretch of a stream into the database, once and for all: readings, events, what the judge makes of them, lockouts, and how far the stream has come, in one transaction.
 * Whatever stops it half-way leaves nothing behind; the same stretch is then taken in again.
 *
 * @param ready in order, beginning with the number after the last one taken in
 */
export async function takeIn(
  gateway: GatewayRow,
  stream: string,
  isolates: boolean,
  ready: readonly Ready[],
  repeats: number,
  site: Judged,
): Promise<TakenIn> {
  const of = { organisationId: gateway.organisationId, siteId: gateway.siteId };
  const first = ready[0];
  if (!first) return { ok: true, applied: 0, alarms: 0 };
  const done = await inTransaction(async (): Promise<TakenIn> => {
    const row = await lockStream(gateway.siteId, stream);
    const begins = "hole" in first ? first.hole.from : first.message.seq;
    if (!row || row.appliedSeq + 1 !== begins) return { ok: false, applied: row?.appliedSeq ?? null };
    const known = row.judge as LiveState | null;
    const state = known && site.judge.fits(known) ? known : site.judge.blank();
    const readings: ReadingMessage[] = [];
    const events: EventMessage[] = [];
    const alarms: Alarm[] = [];
    let lost = 0;
    let applied = row.appliedSeq;
    for (const item of ready) {
      if ("hole" in item) {
        lost += item.hole.to - item.hole.from + 1;
        applied = item.hole.to;
        site.judge.hole(state);
        continue;
      }
      applied = item.message.seq;
      if (item.message.kind === "reading") {
        readings.push(item.message);
        alarms.push(...site.judge.reading(state, item.message, isolates));
      } else {
        events.push(item.message);
        alarms.push(...site.judge.event(state, item.message));
      }
    }
    await insertReadings(
      of,
      readings.map((r) => ({ at: r.at, stream, seq: r.seq, open: r.open, valves: r.valves, pumps: r.pumps })),
      readings.flatMap((r) => [...figures(r, "flow", stream), ...figures(r, "pressure", stream)]),
    );
    await insertEvents(
      events.map((e) => ({
        ...of,
        at: e.at,
        type: e.type,
        subjectId: e.subject,
        reason: e.reason,
        stream,
        seq: e.seq,
      })),
    );
    const elements = idsOf(site.file);
    const told = alarms.filter((a) => elements.has(a.subjectId));
    await insertAlarms(
      told.map((a) => ({
        organisationId: gateway.organisationId,
        siteId: gateway.siteId,
        benchRunId: null,
        at: new Date(a.at * 1000).toISOString(),
        kind: a.kind,
        subjectId: a.subjectId,
        measuredLpm: a.measuredLpm,
        expectedLpm: a.expectedLpm,
        message: alarmWords(site.file, a),
        locked: [],
      })),
    );
    await lockOut(
      gateway,
      events.filter((e) => e.type === "lockedOut" && elements.has(e.subject)),
    );
    const newest = readings.reduce<string | null>(
      (latest, r) => (latest === null || Date.parse(r.at) > Date.parse(latest) ? r.at : latest),
      null,
    );
    await advanceStream(gateway.siteId, stream, {
      appliedSeq: applied,
      lastAt: newest,
      judge: state,
      readings: row.readings + readings.length,
      events: row.events + events.length,
      repeats: row.repeats + repeats,
      lost: row.lost + lost,
    });
    const last = readings.at(-1);
    if (last)
      await tell(`field_${gateway.siteId}`, {
        type: "reading",
        at: last.at,
        flow: last.flow,
        pressure: last.pressure,
        open: last.open.slice(0, 40),
        running: last.open.length,
        valves: last.valves,
        pumps: last.pumps,
        lost: row.lost + lost,
        repeats: row.repeats + repeats,
        readings: row.readings + readings.length,
      });
    if (events.length > 0)
      await tell(`field_${gateway.siteId}`, {
        type: "events",
        events: events
          .slice(-20)
          .map((e) => ({ at: e.at, type: e.type, subjectId: e.subject, reason: e.reason.slice(0, 100) })),
      });
    return { ok: true, applied, alarms: told.length };
  });
  if (done.ok && done.alarms > 0) await alarmsChanged(gateway.organisationId);
  return done;
}

function figures(r: ReadingMessage, quantity: "flow" | "pressure", stream: string) {
  return Object.entries(r[quantity]).flatMap(([sensorId, value]) =>
    value === null ? [] : [{ at: r.at, stream, seq: r.seq, sensorId, quantity, value }],
  );
}

/** What the controller locked out is locked out in the configuration too, in the name of who set the gateway up. */
async function lockOut(gateway: GatewayRow, events: EventMessage[]): Promise<void> {
  if (events.length === 0) return;
  for (const e of events) await addLockToLiveAlarm(gateway.siteId, e.at, e.subject);
  const user = await userById(gateway.setBy);
  if (!user) return;
  const as = {
    userId: user.id,
    organisationId: user.organisationId,
    name: user.name,
    email: user.email,
    role: user.role,
  };
  await amendSite(as, gateway.siteId, "Locked out by the controller, as its gateway told", (file) =>
    withLocks(
      file,
      events.map((e) => e.subject),
      true,
    ),
  );
}

function idsOf(file: SiteFile): Set<string> {
  return new Set(
    [
      ...file.sources,
      ...file.pocs,
      ...file.mainlines,
      ...file.controllers,
      ...file.programs,
      ...file.stations,
      ...file.pocs.flatMap((p) => p.devices),
      ...file.mainlines.flatMap((m) => [...m.pipes, ...(m.devices ?? [])]),
    ].map((x) => x.id),
  );
}
