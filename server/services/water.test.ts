import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { addDays, instantOf } from "../../core/dates/wall-time.ts";
import type { InSession } from "../auth/session.ts";
import { insertEvents } from "../db/alarms.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { insertReadings, setGateway } from "../db/field.ts";
import { closeListening } from "../db/listen.ts";
import { keepWaterDay, noteUnreadDays } from "../db/water.ts";
import { endHeavy } from "../heavy/pool.ts";
import { importSite } from "./sites.ts";
import { noteRead, rollUpWater, waterUsed } from "./water.ts";

const ZONE = "Europe/Vienna";
const at = (date: string, clock: string): number => instantOf(ZONE, date, clock);
/** The clock goes back an hour on the 25th. */
const DAYS = ["2026-10-24", "2026-10-25", "2026-10-26"];
const LAST = "2026-10-26";
const GAP = { from: at(LAST, "03:00"), to: at(LAST, "05:00") };

let maren: InSession;
let stranger: InSession;
let siteId: string;
let of: { organisationId: string; siteId: string };
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
  siteId = (await importSite(maren, JSON.stringify(smallSite((s) => (s.site.id = "water"))))).id;
  of = { organisationId: maren.organisationId, siteId };
  await setGateway({ ...of, account: `water-${crypto.randomUUID()}`, userId: maren.userId });
});
afterAll(async () => {
  await endHeavy();
  await closeListening();
  await closeDatabase();
});

/** A reading in ten seconds over three days: a run from half past one to half past three each night, and a leak of 4 L/min all the time. */
async function read(): Promise<number[]> {
  const instants: number[] = [];
  for (let t = at(DAYS[0] as string, "00:00"); t < at(addDays(LAST, 1), "00:00"); t += 10)
    if (t <= GAP.from || t > GAP.to) instants.push(t);
  const runs = DAYS.map((d) => ({ from: at(d, "01:30"), to: at(d, "03:30") }));
  const open = (t: number): boolean => runs.some((r) => t > r.from && t <= r.to);
  const iso = (t: number): string => new Date(t * 1000).toISOString();
  const rows = instants.map((t, i) => ({
    at: iso(t),
    seq: i + 1,
    lpm: open(t) ? 104 : 4,
    open: open(t) ? ["s1"] : [],
  }));
  await insertReadings(
    { ...of, stream: "w" },
    rows.map((r) => ({ ...r, valves: [], pumps: [] })),
    rows.map((r) => ({ at: r.at, seq: r.seq, sensorId: "fs", quantity: "flow" as const, value: r.lpm })),
  );
  await insertEvents(
    runs.flatMap(({ from, to }, i) => [
      { ...of, at: iso(from), type: "open", subjectId: "s1", reason: "P, cycle 1", stream: "w", seq: 1_000_000 + i },
      { ...of, at: iso(to), type: "close", subjectId: "s1", reason: "", stream: "w", seq: 2_000_000 + i },
    ]),
  );
  await noteRead(of, ZONE, instants, new Date());
  return instants;
}

const NOW = new Date("2026-11-20T12:00:00Z");
const sum = (rows: { litres: number }[]): number => rows.reduce((all, r) => all + r.litres, 0);
const ask = (step: "day" | "month", by: "cause" | "station" = "cause") =>
  waterUsed(maren, siteId, { from: DAYS[0], to: LAST, by, step }, NOW);

describe("water used", () => {
  it("of readings, days and the month is the same to the litre, through a clock change and a gap", async () => {
    await read();
    // The readings' own sum, by the database alone: each holds since the one before it, and nothing in the gap.
    const { rows } = await db().raw(
      `select sum(value * case when s > 90 then 1 else s end) / 60 as litres from (
         select value, extract(epoch from at - lag(at) over (order by at))::float8 as s from reading where site_id = ? and quantity = 'flow') r`,
      [siteId],
    );
    const litres: number = rows[0].litres;
    expect(await rollUpWater(NOW)).toBeGreaterThanOrEqual(4);
    const [days, month] = [await ask("day"), await ask("month")];
    expect(sum(days.sensors)).toBeCloseTo(litres, 6);
    expect(sum(month.sensors)).toBeCloseTo(litres, 6);
    expect(sum(days.rows.filter((r) => !r.estimated))).toBeCloseTo(litres, 6);
    expect(sum((await ask("month", "station")).rows.filter((r) => !r.estimated))).toBeCloseTo(litres, 6);
    expect(days.sensors.map((d) => [d.at, Math.round(d.seconds), Math.round(d.gapS)])).toEqual([
      ["2026-10-24", 86_400, 0],
      ["2026-10-25", 90_000, 0],
      // Its last ten seconds are told of by nobody either.
      ["2026-10-26", 86_400 - 7219, 7219],
    ]);
    // The hour that comes twice is watered twice, and in the gap nothing is known.
    const scheduled = days.rows.filter((r) => r.key === "scheduled" && !r.estimated);
    expect(scheduled.map((r) => Math.round(r.litres / 104))).toEqual([120, 180, 90]);
    expect(days.rows.filter((r) => r.key === "offSchedule")).toHaveLength(3);
  });

  it("is rolled up again when more comes, in the place of what was", async () => {
    const before = sum((await ask("day")).sensors);
    await insertReadings(
      { ...of, stream: "late" },
      [{ at: new Date((GAP.from + 60) * 1000).toISOString(), seq: 1, open: [], valves: [], pumps: [] }],
      [
        {
          at: new Date((GAP.from + 60) * 1000).toISOString(),
          seq: 1,
          sensorId: "fs",
          quantity: "flow",
          value: 30,
        },
      ],
    );
    await db()("water_due").where({ siteId, day: LAST }).update({ takenAt: null });
    await rollUpWater(NOW);
    expect(sum((await ask("day")).sensors) - before).toBeCloseTo(30, 6);
  });

  it("of a day on which nothing was heard is told as unread, beside what was planned", async () => {
    await db()("field_gateway")
      .where({ siteId })
      .update({ heardAt: NOW, setAt: new Date("2026-10-01T00:00:00Z") });
    await db()("site_summary")
      .insert({
        ...of,
        version: 1,
        date: "2026-11-20",
        summary: "{}",
        found: "[]",
        facts: JSON.stringify({ timeZone: ZONE }),
      })
      .onConflict("site_id")
      .merge();
    await noteUnreadDays(NOW);
    await rollUpWater(NOW);
    const { sensors } = await waterUsed(
      maren,
      siteId,
      { from: "2026-11-19", to: "2026-11-19", by: "cause", step: "day" },
      NOW,
    );
    expect(sensors).toEqual([{ at: "2026-11-19", sensorId: "fs", litres: 0, seconds: 0, gapS: 86_400 }]);
    // A recorder's log of that day takes its place, and is not replaced by nothing again.
    const figures = { rows: [], sensors: [{ sensorId: "fs", litres: 40, seconds: 600, gaps: [] }] };
    const half = { day: "2026-11-19", part: "pm", source: "log" } as const;
    expect(await keepWaterDay(of, half, figures)).toBe(true);
    const nothing = { rows: [], sensors: [{ sensorId: "fs", litres: 0, seconds: 0, gaps: [] }] };
    const whole = { day: "2026-11-19", part: "day", source: "gateway" } as const;
    expect(await keepWaterDay(of, whole, nothing)).toBe(false);
    const day = { from: "2026-11-19", to: "2026-11-19", by: "cause", step: "day" } as const;
    expect((await waterUsed(maren, siteId, day, NOW)).sensors).toMatchObject([{ litres: 40, seconds: 600, gapS: 0 }]);
    // A sensor that was replaced keeps its part of the day beside the new one's.
    expect(await keepWaterDay(of, whole, figures)).toBe(true);
    const replaced = { rows: [], sensors: [{ sensorId: "fs2", litres: 7, seconds: 300, gaps: [] }] };
    expect(await keepWaterDay(of, whole, replaced)).toBe(true);
    const both = (await waterUsed(maren, siteId, day, NOW)).sensors.map((s) => [s.sensorId, s.litres]);
    expect(both).toEqual([
      ["fs", 40],
      ["fs2", 7],
    ]);
    // What a gateway read stays, whatever log is brought.
    expect(await keepWaterDay(of, whole, figures)).toBe(true);
    expect(await keepWaterDay(of, half, figures)).toBe(false);
  });

  it("is not another organisation's", async () => {
    expect((await refusal(waterUsed(stranger, siteId, { by: "cause", step: "day" }, NOW))).code).toBe("notFound");
  });
});
