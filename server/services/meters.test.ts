import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import type { InSession } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { insertReadings, setGateway } from "../db/field.ts";
import { closeListening } from "../db/listen.ts";
import { endHeavy } from "../heavy/pool.ts";
import { countersOf, enterMeterReading, meterLogs, resetCounter, takeMeterReadingOut } from "./meters.ts";
import { importSite } from "./sites.ts";
import { noteRead, rollUpWater } from "./water.ts";

let maren: InSession;
let stranger: InSession;
let siteId: string;
const iso = (t: number): string => new Date(t * 1000).toISOString();
const at = (instant: string): number => Date.parse(instant) / 1000;
/** Midnight where the site is. */
const MIDNIGHT = at("2026-07-13T22:00:00Z");
const NOW = new Date("2026-07-15T12:00:00Z");
const HOUR = 3600;

beforeAll(async () => {
  [maren, stranger] = await twoPeople();
  const file = smallSite((s) => {
    s.site.id = `meters-${Date.now()}`;
    s.pocs[0]?.devices.unshift({ id: "wm", kind: "meter" });
  });
  siteId = (await importSite(maren, JSON.stringify(file))).id;
  const of = { organisationId: maren.organisationId, siteId };
  await setGateway({ ...of, account: `meters-${crypto.randomUUID()}`, userId: maren.userId });
  // A day and a half at 12 L/min, a reading a minute.
  const instants = Array.from({ length: 36 * 60 + 1 }, (_, i) => MIDNIGHT + 60 * i);
  await insertReadings(
    { ...of, stream: "m" },
    instants.map((t, i) => ({ at: iso(t), seq: i + 1, open: [], valves: [], pumps: [] })),
    instants.map((t, i) => ({ at: iso(t), seq: i + 1, sensorId: "fs", quantity: "flow" as const, value: 12 })),
  );
  await noteRead(of, "Europe/Vienna", instants, NOW);
  await rollUpWater(NOW);
});
afterAll(async () => {
  await endHeavy();
  await closeListening();
  await closeDatabase();
});

const litres = async (): Promise<number[]> =>
  (await countersOf(maren, siteId)).map((c) => Math.round(c.litres / 10) * 10);
const reset = (counter: 1 | 2, when: number, id = crypto.randomUUID()) =>
  resetCounter(maren, siteId, { id, sensorId: "fs", counter, reason: "a new month" }, new Date(when * 1000));

describe("the counters of a sensor", () => {
  const ALL = 36 * 60 * 12;
  it("count from the first reading, and from the second they are begun anew at, each for itself", async () => {
    expect(await litres()).toEqual([ALL, ALL]);
    const id = crypto.randomUUID();
    await reset(1, MIDNIGHT + 10 * HOUR, id);
    await rollUpWater(NOW);
    expect(await litres()).toEqual([26 * 60 * 12, ALL]);
    // Asked again under the same id, it stays as it was begun.
    await reset(1, MIDNIGHT + 20 * HOUR, id);
    expect(await litres()).toEqual([26 * 60 * 12, ALL]);
    expect((await countersOf(maren, siteId))[0]).toMatchObject({
      since: iso(MIDNIGHT + 10 * HOUR),
      by: "maren",
      reason: "a new month",
    });
    await reset(1, MIDNIGHT + 30 * HOUR);
    await rollUpWater(NOW);
    expect(await litres()).toEqual([6 * 60 * 12, ALL]);
    expect(await db()("counter_reset").where({ siteId })).toHaveLength(2);
  });
  it("are of a sensor that is there, and another organisation's to nobody", async () => {
    const wrong = { id: crypto.randomUUID(), sensorId: "none", counter: 1 as const, reason: "x" };
    expect((await refusal(resetCounter(maren, siteId, wrong, NOW))).message).toMatch(/no such flow sensor/);
    expect((await refusal(countersOf(stranger, siteId))).code).toBe("notFound");
    expect((await refusal(meterLogs(stranger, siteId))).code).toBe("notFound");
  });
});

describe("the meter log", () => {
  const enter = (hour: number, m3: number, more: object = {}) =>
    enterMeterReading(
      maren,
      siteId,
      {
        id: crypto.randomUUID(),
        meterId: "wm",
        at: iso(MIDNIGHT + hour * HOUR),
        m3,
        begins: false,
        note: "",
        photoId: null,
        ...more,
      },
      NOW,
    );
  it("tells what flowed between readings beside what the sensors summed in the very same time", async () => {
    await enter(6, 100);
    await enter(16, 107.2);
    const id = crypto.randomUUID();
    await enter(30, 117.3, { id });
    // From a phone that heard no answer it comes twice.
    await enter(30, 117.3, { id });
    await rollUpWater(NOW);
    const [log] = await meterLogs(maren, siteId);
    expect(log?.sensorIds).toEqual(["fs"]);
    expect(log?.readings.map((r) => [r.m3, r.between && Math.round(100 * r.between.sensorM3) / 100])).toEqual([
      [117.3, 10.08],
      [107.2, 7.2],
      [100, null],
    ]);
    expect(log?.readings[0]?.between).toMatchObject({
      meterM3: expect.closeTo(10.1, 6),
      days: expect.closeTo(14 / 24, 6),
    });
    expect(log?.verdict.is).toBe("agrees");
  });
  it("refuses what a meter cannot read, with the reading that it does not fit", async () => {
    expect((await refusal(enter(32, 90))).message).toMatch(/On 2026-07-15 it read 117.3 m³, which is more/);
    expect((await refusal(enter(7, 140))).message).toMatch(/it read 107.2 m³, which is less/);
    expect((await refusal(enter(16, 107.2))).message).toMatch(/read at that instant already/);
    expect((await refusal(enter(100, 200))).message).toMatch(/in the future/);
    expect((await refusal(enter(33, 200, { meterId: "fs" }))).message).toMatch(/no such water meter/);
  });
  it("begins anew with another meter, and forgets a reading that is taken out", async () => {
    const [log] = await enter(34, 3, { begins: true });
    expect(log?.readings[0]).toMatchObject({ m3: 3, begins: true, between: null });
    const [left] = await takeMeterReadingOut(maren, siteId, log?.readings[0]?.id as string);
    expect(left?.readings.map((r) => r.m3)).toEqual([117.3, 107.2, 100]);
  });
});
