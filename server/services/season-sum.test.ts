import { afterAll, beforeAll, expect, it } from "vitest";
import { paperQuery } from "../../contracts/paper.ts";
import { instantOf } from "../../core/dates/wall-time.ts";
import { waterTable } from "../../core/record/water-table.ts";
import type { FlowSensor, SiteFile } from "../../core/site-file/schema.ts";
import { showQuantity } from "../../core/units/units.ts";
import { pdfText } from "../../testing/pdf-text.ts";
import { twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { InSession } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { insertReadings, setGateway } from "../db/field.ts";
import { closeListening } from "../db/listen.ts";
import { endHeavy } from "../heavy/pool.ts";
import { countersOf, enterMeterReading, resetCounter, takeMeterReadingOut } from "./meters.ts";
import { paper } from "./paper.ts";
import { importSite, loadSite, saveSite } from "./sites.ts";
import { noteRead, officeWater, rollUpWater, waterUsed } from "./water.ts";

let maren: InSession;
let siteId: string;
const ZONE = "Europe/Vienna";
const at = (date: string, clock = "00:00"): number => instantOf(ZONE, date, clock);
const iso = (t: number): string => new Date(1000 * t).toISOString();
const NOW = new Date("2026-10-29T12:00:00Z");
/** The clocks go back in the night to the 25th. */
const FIRST = at("2026-10-24");
const REPLACED = at("2026-10-26", "12:00");
const LAST = at("2026-10-28");
const GAP = { from: at("2026-10-25", "09:00"), to: at("2026-10-25", "11:30") };

const newSensor = (s: SiteFile): FlowSensor => ({
  ...(s.pocs[0]?.devices.find((d) => d.kind === "flowSensor") as FlowSensor),
  id: "fs2",
});

beforeAll(async () => {
  [maren] = await twoPeople();
  const file = smallSite((s) => {
    Object.assign(s.site, { id: `sum-${Date.now()}`, timeZone: ZONE });
    // A second connection that no sensor sees, with a meter.
    s.sources.push({ id: "well", name: "Well", kind: "well" });
    s.pocs.push({ id: "poc2", name: "Well head", sourceIds: ["well"], devices: [{ id: "wm", kind: "meter" }] });
    s.mainlines.push({ id: "main2", name: "Drip main", feedIds: ["poc2"], pipes: [], ceilingLpm: 40 });
  });
  siteId = (await importSite(maren, JSON.stringify(file))).id;
  await setGateway({
    organisationId: maren.organisationId,
    siteId,
    account: `sum-${crypto.randomUUID()}`,
    userId: maren.userId,
  });
});
afterAll(async () => {
  await endHeavy();
  await closeListening();
  await closeDatabase();
});

let seq = 0;
/** A reading a minute of a sensor, changing through the day; none in the gap. */
async function read(sensorId: string, from: number, to: number): Promise<void> {
  const of = { organisationId: maren.organisationId, siteId };
  const instants: number[] = [];
  for (let t = from; t <= to; t += 60) if (t <= GAP.from || t > GAP.to) instants.push(t);
  const rows = instants.map((t) => ({ at: iso(t), seq: ++seq, open: [], valves: [], pumps: [] }));
  const flows = rows.map((r, i) => ({
    at: r.at,
    seq: r.seq,
    sensorId,
    quantity: "flow" as const,
    value: 20 + (i % 7),
  }));
  await insertReadings({ ...of, stream: "sum" }, rows, flows);
  await noteRead(of, ZONE, instants, NOW);
  // What was noted lately is not noted again: a test does in a minute what takes days.
  await db().raw(
    "insert into water_due (organisation_id, site_id, day) select ?, ?, d::date from generate_series(?::date, ?::date, '1 day') d on conflict do nothing",
    [
      maren.organisationId,
      siteId,
      from < REPLACED ? "2026-10-24" : "2026-10-26",
      from < REPLACED ? "2026-10-26" : "2026-10-28",
    ],
  );
  await rollUpWater(NOW);
}

/** What the readings themselves sum to, litres, by the database alone: each stands since the one before it, and for a second after a gap. */
async function readingsSum(): Promise<number> {
  const { rows } = await db().raw(
    `select sum(value * case when s is null or s > 90 then 1 else s end) / 60 as litres from (
       select r.value, extract(epoch from r.at - lag(r.at) over (partition by r.sensor_id order by r.at)) as s
       from reading r where r.site_id = ? and r.quantity = 'flow') x`,
    [siteId],
  );
  return rows[0].litres;
}

it("readings, days, month, all sites and the report are one figure: through a clock change, a gap, a replaced sensor, a counter begun anew, and a meter alone", async () => {
  await read("fs", FIRST, REPLACED);
  const { version, file } = await loadSite(maren, siteId);
  const [poc] = file.pocs;
  const devices = (poc?.devices ?? []).map((d) => (d.id === "fs" ? newSensor(file) : d));
  const changed = { ...file, pocs: file.pocs.map((p) => (p.id === "poc" ? { ...p, devices } : p)) };
  await saveSite(maren, siteId, { baseVersion: version, file: changed, note: "Sensor replaced" });
  const reset = { id: crypto.randomUUID(), sensorId: "fs2", counter: 1 as const, reason: "a new sensor" };
  await resetCounter(maren, siteId, reset, new Date(1000 * (REPLACED + 3600)));
  await read("fs2", REPLACED + 60, LAST);

  // The meter of the other connection: 18.5 m³ in four days and an hour.
  const meter = (t: number, m3: number) =>
    enterMeterReading(
      maren,
      siteId,
      { id: crypto.randomUUID(), meterId: "wm", at: iso(t), m3, begins: false, note: "", photoId: null },
      NOW,
    );
  await meter(FIRST, 100);
  await meter(at("2026-10-26"), 110);
  const [log] = await meter(LAST, 118.5);
  const extra = await meter(at("2026-10-28", "06:00"), 500);
  await takeMeterReadingOut(maren, siteId, extra[0]?.readings[0]?.id as string);
  expect(log?.sensorIds).toEqual([]);

  const litres = (await readingsSum()) + 18_500;
  const time = { from: "2026-10-01", to: "2026-10-31" };
  const ask = (step: "day" | "month", by: "cause" | "source" = "cause") =>
    waterUsed(maren, siteId, { ...time, by, step }, NOW);
  const sum = (rows: { litres: number; estimated?: boolean }[]): number =>
    rows.reduce((all, r) => all + (r.estimated ? 0 : r.litres), 0);
  const days = await ask("day");
  expect(sum(days.sensors)).toBeCloseTo(litres, 3);
  expect(sum(days.rows)).toBeCloseTo(litres, 3);
  const month = await ask("month");
  expect(sum(month.rows)).toBeCloseTo(litres, 3);
  const metered = month.rows.filter((r) => r.key === "metered");
  expect(metered.map((r) => Math.round(r.litres))).toEqual([18_500]);
  const sources = await ask("month", "source");
  expect(sources.rows.find((r) => r.key === "well")?.litres).toBeCloseTo(18_500, 3);
  const replaced = days.sensors.filter((s) => s.at === "2026-10-26").map((s) => s.sensorId);
  expect(replaced.sort()).toEqual(["fs", "fs2", "wm"]);

  const office = await officeWater(maren, { from: "2026-10", to: "2026-10" }, NOW);
  expect(office.sites.find((s) => s.siteId === siteId)?.litres).toBeCloseTo(litres, 3);
  const [period] = waterTable((await loadSite(maren, siteId)).file, month).periods;
  expect(1000 * (period?.readM3 ?? 0)).toBeCloseTo(litres, 3);
  const said = (await pdfText((await paper(maren, siteId, "water", paperQuery.parse(time), NOW)).content)).join("\n");
  expect(said).toContain(`The site used ${showQuantity(litres / 1000, "bulk", "metric", 0)} of water`);

  // The counter that was begun anew counts from then; the other from the first of its sensor; neither changes what was used.
  const counters = (await countersOf(maren, siteId)).filter((c) => c.sensorId === "fs2");
  const [first, second] = counters;
  expect(first?.reason).toBe("a new sensor");
  expect((second?.litres ?? 0) - (first?.litres ?? 0)).toBeGreaterThan(55 * 20);
  expect((second?.litres ?? 0) - (first?.litres ?? 0)).toBeLessThan(62 * 27);
}, 120_000);
