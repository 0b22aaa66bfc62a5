import { alarmWords } from "../../core/judge/alarm-words.ts";
import type { AlarmedDeparture } from "../../core/field/departure.ts";
import type { LiveJudge, LiveState } from "../../core/field/live-judge.ts";
import type { Alarm } from "../../core/judge/alarm.ts";
import { type EventMessage, type ReadingMessage, totalLpm } from "../../core/field/messages.ts";
import type { Ready } from "../../core/field/sequence.ts";
import { withLocks } from "../../core/site-file/locks.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { insertAlarms, insertEvents, noteDepartures } from "../db/alarms.ts";
import { inTransaction } from "../db/connection.ts";
import {
  addLockToLiveAlarm,
  advanceStream,
  type GatewayRow,
  insertReadings,
  lockStream,
  type NewReading,
} from "../db/field.ts";
import { RECORDERS_REST_S } from "../db/leases.ts";
import { tell } from "../db/listen.ts";
import { alarmsChanged } from "../services/alarms.ts";
import { noteRead } from "../services/water.ts";
import { amend, freedThere } from "./answers.ts";
import type { SiteNow } from "../../contracts/rounds.ts";
import { noteNow } from "./rounds-news.ts";
import { hearLearning, tellSamples } from "./learn-there.ts";

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
  let now: SiteNow | null = null;
  const done = await inTransaction(async (): Promise<TakenIn> => {
    const row = await lockStream(gateway.siteId, stream);
    const begins = "hole" in first ? first.hole.from : first.message.seq;
    if (!row || row.appliedSeq + 1 !== begins) return { ok: false, applied: row?.appliedSeq ?? null };
    const heard = judgeAll(row.judge as LiveState | null, row.appliedSeq, ready, isolates, site.judge);
    const { state, readings, events, alarms, departures, lost, refused, applied } = heard;
    await insertReadings(
      { ...of, stream },
      readings,
      readings.flatMap((r) => [...figures(r, "flow"), ...figures(r, "pressure")]),
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
    await noteDepartures(gateway.siteId, departures);
    await lockOut(
      gateway,
      events.filter((e) => (e.type === "lockedOut" || e.type === "cleared") && elements.has(e.subject)),
    );
    await hearLearning(gateway, site.file, events);
    const last = readings.at(-1);
    const newest = readings.reduce<string | null>(
      (latest, r) => (latest === null || Date.parse(r.at) > Date.parse(latest) ? r.at : latest),
      null,
    );
    if (last) now = nowOf(gateway.siteId, site.judge, last);
    await advanceStream(gateway.siteId, stream, {
      appliedSeq: applied,
      lastAt: newest,
      judge: state,
      now,
      readings: row.readings + readings.length,
      events: row.events + events.length,
      repeats: row.repeats + repeats,
      lost: row.lost + lost,
      refused: row.refused + refused,
    });
    await tellWatchers(gateway.siteId, last, events, {
      lost: row.lost + lost,
      refused: row.refused + refused,
      repeats: row.repeats + repeats,
      readings: row.readings + readings.length,
    });
    return { ok: true, applied, alarms: told.length };
  }, RECORDERS_REST_S);
  if (done.ok && now) noteNow(gateway.organisationId, now);
  if (done.ok)
    await noteRead(
      of,
      site.file.site.timeZone,
      ready.flatMap((r) => (!("hole" in r) && r.message.kind === "reading" ? [Date.parse(r.message.at) / 1000] : [])),
      new Date(),
    );
  if (done.ok)
    await tellSamples(
      gateway,
      ready.flatMap((r) => (!("hole" in r) && r.message.kind === "reading" ? [r.message] : [])),
    );
  if (done.ok && done.alarms > 0) await alarmsChanged(gateway.organisationId);
  return done;
}

/** What a stretch of a stream says, and what the judge makes of it. */
function judgeAll(
  known: LiveState | null,
  appliedSeq: number,
  ready: readonly Ready[],
  isolates: boolean,
  judge: LiveJudge,
) {
  const state = known && judge.fits(known) ? known : judge.blank();
  const readings: ReadingMessage[] = [];
  const events: EventMessage[] = [];
  const alarms: Alarm[] = [];
  const departures = new Map<string, AlarmedDeparture>();
  let lost = 0;
  let refused = 0;
  let applied = appliedSeq;
  for (const item of ready) {
    if ("hole" in item) {
      lost += item.hole.to - item.hole.from + 1;
      applied = item.hole.to;
      judge.hole(state);
      continue;
    }
    const { message } = item;
    applied = message.seq;
    if (message.kind === "refused") {
      refused++;
      judge.hole(state);
      continue;
    }
    if (message.kind === "reading") {
      readings.push(message);
      alarms.push(...judge.reading(state, message, isolates));
    } else {
      events.push(message);
      alarms.push(...judge.event(state, message));
    }
    for (const d of judge.departures(state)) departures.set(`${d.alarm.at} ${d.alarm.subjectId}`, d);
  }
  return { state, readings, events, alarms, departures: [...departures.values()], lost, refused, applied };
}

function nowOf(siteId: string, judge: LiveJudge, r: ReadingMessage): SiteNow {
  const readingLpm = totalLpm(r.flow);
  const band = judge.band(r.open, Date.parse(r.at) / 1000);
  let state: SiteNow["state"] = "rest";
  if (band) {
    state = "inside";
    if (readingLpm > band.highLpm) state = "over";
    if (readingLpm < band.lowLpm) state = "under";
  }
  return { siteId, at: r.at, readingLpm, expectedLpm: band?.expectedLpm ?? null, state, open: r.open.length };
}

/** Whoever watches the site is told the newest reading and the newest events. */
async function tellWatchers(
  siteId: string,
  last: ReadingMessage | undefined,
  events: readonly EventMessage[],
  counts: { lost: number; refused: number; repeats: number; readings: number },
): Promise<void> {
  if (last)
    await tell(`field_${siteId}`, {
      type: "reading",
      at: last.at,
      flow: last.flow,
      pressure: last.pressure,
      open: last.open.slice(0, 40),
      ...(last.left ? { left: Object.fromEntries(Object.entries(last.left).slice(0, 40)) } : {}),
      ...(last.next ? { next: last.next } : {}),
      running: last.open.length,
      valves: last.valves,
      pumps: last.pumps,
      ...counts,
    });
  if (events.length > 0)
    await tell(`field_${siteId}`, {
      type: "events",
      events: events
        .slice(-20)
        .map((e) => ({ at: e.at, type: e.type, subjectId: e.subject, reason: e.reason.slice(0, 100) })),
    });
}

function figures(r: ReadingMessage, quantity: "flow" | "pressure"): NewReading[] {
  return Object.entries(r[quantity]).flatMap(([sensorId, value]) =>
    value === null ? [] : [{ at: r.at, seq: r.seq, sensorId, quantity, value }],
  );
}

/** What the controller locked out, or someone freed there, is so in the configuration too. */
async function lockOut(gateway: GatewayRow, events: EventMessage[]): Promise<void> {
  const locked = events.filter((e) => e.type === "lockedOut");
  for (const e of locked) await addLockToLiveAlarm(gateway.siteId, e.at, e.subject);
  const last = new Map(events.map((e) => [e.subject, e.type === "lockedOut"]));
  const ids = (is: boolean): string[] => [...last].flatMap(([id, isLocked]) => (isLocked === is ? [id] : []));
  if (ids(true).length > 0) await amend(gateway, "Locked out", (file) => withLocks(file, ids(true), true));
  if (ids(false).length > 0) await freedThere(gateway, ids(false));
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
