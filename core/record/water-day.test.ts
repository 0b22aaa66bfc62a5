import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { addDays, instantOf } from "../dates/wall-time.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { type PlannedRun, type Reading, WaterDay } from "./water-day.ts";

const ZONE = "Europe/Vienna";
const at = (clock: string, date = "2026-07-14"): number => instantOf(ZONE, date, clock);
const DAY = { from: at("00:00"), to: at("00:00", "2026-07-15") };
const MINUTE = 60;

/** A reading a second while something flows or is open, one a minute at rest, as gateways speak. */
function readings(from: number, to: number, lpmAt: (t: number) => number, openAt: (t: number) => string[]): Reading[] {
  const said: Reading[] = [];
  for (let t = from; t <= to; t++) {
    const [lpm, open] = [lpmAt(t), openAt(t)];
    if (lpm > 0 || open.length > 0 || t % MINUTE === 0) said.push({ at: t, flow: { fs: lpm }, open });
  }
  return said;
}

function dayOf(
  said: readonly Reading[],
  { site = smallSite(), span = DAY, events = [], planned = [], until = span.to }: Partial<Given> = {},
) {
  const day = new WaterDay(waterworks(site), span);
  const left = [...events];
  for (const reading of said) {
    while (left[0] && left[0].at <= reading.at) day.event(left.shift() as Given["events"][number]);
    day.reading(reading);
  }
  return day.figures({ until, planned });
}
type Given = {
  site: SiteFile;
  span: { from: number; to: number };
  events: { at: number; type: string; subjectId: string; reason: string }[];
  planned: PlannedRun[];
  until: number;
};

const litresBy = <K extends string>(
  rows: readonly { litres: number }[],
  key: (row: never) => K,
): Record<string, number> => {
  const sums: Record<string, number> = {};
  for (const row of rows) sums[key(row as never)] = Math.round((sums[key(row as never)] ?? 0) + row.litres);
  return sums;
};
const byCause = (rows: ReturnType<typeof dayOf>["rows"]) => litresBy(rows, (r: { cause: string }) => r.cause);
const open = (t: number, stationId: string, reason: string) => ({ at: t, type: "open", subjectId: stationId, reason });

describe("water of a day", () => {
  it("is flow times time, to the litre, and every litre is somebody's", () => {
    const run = { from: at("22:00"), to: at("22:10") };
    const inRun = (t: number): boolean => t > run.from && t <= run.to;
    const { rows, sensors } = dayOf(
      readings(
        DAY.from,
        DAY.to,
        (t) => (inRun(t) ? 101 : 0),
        (t) => (inRun(t) ? ["s1"] : []),
      ),
      { events: [open(run.from + 1, "s1", "P, cycle 1")] },
    );
    expect(sensors).toEqual([{ sensorId: "fs", litres: expect.closeTo(1010, 6), seconds: 86_400, gaps: [] }]);
    expect(rows).toEqual([
      {
        sensorId: "fs",
        stationId: "s1",
        programId: "p",
        cause: "scheduled",
        estimated: false,
        litres: expect.closeTo(1010, 6),
      },
    ]);
  });

  it("is shared by what each open station should take", () => {
    const inRun = (t: number): boolean => t > at("22:00") && t <= at("22:10");
    const { rows } = dayOf(
      readings(
        at("21:00"),
        at("23:00"),
        (t) => (inRun(t) ? 150 : 0),
        (t) => (inRun(t) ? ["s1", "s3"] : []),
      ),
    );
    expect(litresBy(rows, (r: { stationId: string }) => r.stationId)).toEqual({ s1: 1000, s3: 500 });
  });

  it("of a station that no program opened is by hand; while it is learned, learning's; in search of a break, the break's", () => {
    const inRun = (t: number): boolean => t > at("12:00") && t <= at("12:10");
    const said = readings(
      at("11:00"),
      at("13:00"),
      (t) => (inRun(t) ? 100 : 0),
      (t) => (inRun(t) ? ["s1"] : []),
    );
    const told = (type: string, subjectId: string, reason = "") => [{ at: at("12:00"), type, subjectId, reason }];
    expect(byCause(dayOf(said, { events: told("open", "s1", "One station, cycle 1") }).rows)).toEqual({ byHand: 1000 });
    expect(byCause(dayOf(said, { events: told("learnBegins", "") }).rows)).toEqual({ learning: 1000 });
    expect(byCause(dayOf(said, { events: told("test", "s1") }).rows)).toEqual({ broken: 1000 });
  });

  it("with nothing open is hand watering in its hours as far as it is allowed, and a leak beyond", () => {
    const site = smallSite((s) => {
      const [poc] = s.pocs;
      if (poc) poc.handWatering = [{ flowLpm: 30, window: { from: "08:00", to: "10:00" } }];
    });
    const flows = (t: number): boolean => t > at("09:00") && t <= at("11:00");
    const { rows } = dayOf(
      readings(
        at("07:00"),
        at("12:00"),
        (t) => (flows(t) ? 40 : 0),
        () => [],
      ),
      { site },
    );
    expect(byCause(rows)).toEqual({ handWatering: 1800, offSchedule: 3000 });
  });

  it("over the limit is broken once it has lasted as long as the limits ask, and the station's where it has not", () => {
    const inRun = (t: number): boolean => t > at("22:00") && t <= at("22:10");
    const flow = (brokenS: number) => (t: number) => {
      if (!inRun(t)) return 0;
      return t > at("22:05") && t <= at("22:05") + brokenS ? 160 : 100;
    };
    const said = (brokenS: number) =>
      readings(at("21:00"), at("23:00"), flow(brokenS), (t) => (inRun(t) ? ["s1"] : []));
    expect(byCause(dayOf(said(120)).rows)).toEqual({ scheduled: 1000, broken: 120 });
    expect(byCause(dayOf(said(30)).rows)).toEqual({ scheduled: 1030 });
  });

  it("of a gap is told as one, beside what was planned in it", () => {
    const gap = { from: at("22:03"), to: at("22:08") };
    const inRun = (t: number): boolean => t > at("22:00") && t <= at("22:10");
    const said = readings(
      DAY.from,
      DAY.to,
      (t) => (inRun(t) ? 100 : 0),
      (t) => (inRun(t) ? ["s1"] : []),
    ).filter((r) => r.at <= gap.from || r.at > gap.to);
    const planned = [{ stationId: "s1", programId: "p", from: at("22:00"), to: at("22:10"), lpm: 90 }];
    const { rows, sensors } = dayOf(said, { planned });
    expect(sensors[0]).toMatchObject({ litres: expect.closeTo(500, 6), gaps: [gap], seconds: 86_400 - 300 });
    expect(rows.filter((r) => r.estimated)).toEqual([
      { sensorId: "fs", stationId: "s1", programId: "p", cause: "scheduled", estimated: true, litres: 450 },
    ]);
  });

  it("tells what was read by some instants of the day", () => {
    const said = readings(
      DAY.from,
      DAY.to,
      () => 6,
      () => [],
    );
    const day = new WaterDay(waterworks(smallSite()), DAY, { cuts: [at("06:00"), at("18:30"), DAY.from] });
    for (const reading of said) day.reading(reading);
    expect(day.figures({ until: DAY.to, planned: [] }).cuts).toEqual([
      { at: at("06:00"), sensorId: "fs", litres: expect.closeTo(6 * 360, 6) },
      { at: at("18:30"), sensorId: "fs", litres: expect.closeTo(18.5 * 360, 6) },
      { at: DAY.from, sensorId: "fs", litres: 0 },
    ]);
  });

  it("of a day that is not over ends now", () => {
    const said = readings(
      DAY.from,
      at("06:00"),
      () => 0,
      () => [],
    );
    expect(dayOf(said, { until: at("06:00") }).sensors[0]?.gaps).toEqual([]);
    expect(dayOf(said, { until: at("06:30") }).sensors[0]?.gaps).toEqual([{ from: at("06:00"), to: at("06:30") }]);
  });

  it.each([
    ["2026-10-25", 25],
    ["2026-03-29", 23],
  ])("of %s has %i hours, and none of them falls to two days", (date, hours) => {
    const span = { from: at("00:00", date), to: at("00:00", addDays(date, 1)) };
    const said = readings(
      span.from - 3600,
      span.to + 3600,
      () => 6,
      () => [],
    );
    const { sensors } = dayOf(said, { span });
    expect(sensors[0]).toMatchObject({ litres: expect.closeTo(hours * 360, 6), seconds: hours * 3600, gaps: [] });
  });

  it("that a run goes over midnight of is each day's own part", () => {
    const inRun = (t: number): boolean => t > at("23:50") && t <= DAY.to + 600;
    const said = readings(
      at("23:00"),
      DAY.to + 3600,
      (t) => (inRun(t) ? 60 : 0),
      (t) => (inRun(t) ? ["s1"] : []),
    );
    const next = { from: DAY.to, to: DAY.to + 86_400 };
    const litres = (span: typeof DAY) => dayOf(said, { span }).sensors[0]?.litres;
    expect([litres(DAY), litres(next)]).toEqual([expect.closeTo(600, 6), expect.closeTo(600, 6)]);
  });
});
