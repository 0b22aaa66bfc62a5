import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { localIso } from "../dates/wall-time.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { beginLearning, learn } from "./learn.ts";
import { learnFromReadings } from "./from-readings.ts";
import { learnedCsv, parseLearnedCsv } from "./learned-csv.ts";
import { readingsCsv, readingSeries, readingsSheet, type SeriesOptions } from "./readings-sheet.ts";
import { meterLeakLpm, timedFlow } from "./stopwatch.ts";

const DATE = "2026-07-14";
const read = (site: SiteFile, text: string, options: Partial<SeriesOptions> = {}) => {
  const opened = readingsSheet(text);
  if (!opened.ok) throw new Error(opened.problem);
  const made = readingSeries(site, opened.sheet, {
    columns: opened.sheet.columns,
    unit: opened.sheet.unit ?? "L/min",
    date: DATE,
    ...options,
  });
  if (!made.ok) throw new Error(made.problem);
  return made.series;
};
/** A line a second: closed a minute, then each span. */
const log = (
  spans: { mark: string; seconds: number; flow: (s: number) => number }[],
  head = "time,flow L/min,station",
): string => {
  let t = 0;
  return [
    head,
    ...spans.flatMap(({ mark, seconds, flow }) =>
      Array.from({ length: seconds }, (_, s) => {
        const at = t++;
        return `02:${String(Math.floor(at / 60)).padStart(2, "0")}:${String(at % 60).padStart(2, "0")},${flow(s)},${mark}`;
      }),
    ),
  ].join("\n");
};

describe("a log of readings", () => {
  it("from the bench is learned from to the same figures", () => {
    const site = smallSite();
    const begun = beginLearning(site, { date: DATE, seed: 6, from: "02:00" });
    if (!begun.ok) throw new Error(begun.problem.message);
    const rows = [...begun.events].flatMap((e) =>
      e.type === "sample"
        ? [{ time: localIso(site.site.timeZone, e.at - 1), lpm: e.readingLpm, stations: e.stationId ?? "" }]
        : [],
    );
    const fromLog = learnFromReadings(site, read(site, readingsCsv(rows)), null);
    const direct = learn(site, { date: DATE, seed: 6, from: "02:00" });
    expect(fromLog.results.map((r) => [r.stationId, r.verdict, r.secondsToSteady])).toEqual(
      direct.ok ? direct.result.results.map((r) => [r.stationId, r.verdict, r.secondsToSteady]) : [],
    );
    for (const [i, r] of fromLog.results.entries())
      expect(r.meanLpm).toBeCloseTo(direct.ok ? (direct.result.results[i]?.meanLpm ?? 0) : 0, 1);
    expect(fromLog.flowAtRest).toBe(false);
  });
  it("guesses columns and unit, and takes marks like “open 12”", () => {
    const opened = readingsSheet("Timestamp;Flow (gal/min);Event\n02:00:00;0;\n");
    expect(opened.ok && [opened.sheet.columns, opened.sheet.unit]).toEqual([["time", "flow", "event"], "gal/min"]);
    const text = [
      "time,flow gpm,event",
      ...Array.from(
        { length: 200 },
        (_, s) => `${3600 + s},${s < 20 ? 0 : 26.4},${{ 20: "open 1", 190: "close 1" }[s] ?? ""}`,
      ),
    ].join("\n");
    const site = smallSite();
    const found = learnFromReadings(site, read(site, text), null).results;
    expect(found).toMatchObject([
      { stationId: "s1", verdict: "accepted", meanLpm: expect.closeTo(26.4 * 3.785411784, 6), secondsToSteady: 90 },
    ]);
  });
  it("a flow that swings or drifts is unsteady, too little of it is no flow", () => {
    const site = smallSite();
    const found = learnFromReadings(
      site,
      read(
        site,
        log([
          { mark: "", seconds: 60, flow: () => 0 },
          { mark: "1", seconds: 200, flow: (s) => 100 + 20 * Math.sin(s / 3) },
          { mark: "2", seconds: 200, flow: (s) => 60 + 0.4 * s },
          { mark: "S3", seconds: 200, flow: () => 4 },
        ]),
      ),
      null,
    );
    expect(found.results.map((r) => [r.stationId, r.verdict])).toEqual([
      ["s1", "unsteady"],
      ["s2", "unsteady"],
      ["s3", "noFlow"],
    ]);
    expect(found.restLpm).toBe(0);
  });
  it("tells of flow with everything closed, and learns sets that ran together", () => {
    const site = smallSite();
    const found = learnFromReadings(
      site,
      read(
        site,
        log([
          { mark: "", seconds: 90, flow: () => 14 },
          { mark: "1", seconds: 120, flow: () => 100 },
          { mark: "3", seconds: 120, flow: () => 50 },
          { mark: "1+3", seconds: 120, flow: () => 141 },
        ]),
      ),
      null,
    );
    expect([found.flowAtRest, found.restLpm]).toEqual([true, 14]);
    expect(found.sets).toMatchObject([
      { stationIds: ["s1", "s3"], verdict: "accepted", partsLpm: 150, ratio: expect.closeTo(0.94, 9) },
    ]);
  });
  it("of pulses is judged by the time between them, in coarse rows too", () => {
    const site = smallSite((s) => {
      (s.pocs[0] as { devices: unknown[] }).devices[1] = {
        id: "fs",
        kind: "flowSensor",
        output: { type: "pulse", litresPerPulse: 10 },
        minLpm: 10,
        maxLpm: 1500,
      };
    });
    const text = [
      "time,pulses,station",
      ...Array.from(
        { length: 330 },
        (_, i) =>
          `02:${String(Math.floor(i / 60)).padStart(2, "0")}:${String(i % 60).padStart(2, "0")},${i % 6 === 0 ? 1 : 0},1`,
      ),
    ].join("\n");
    const found = learnFromReadings(site, read(site, text, { litresPerPulse: 10 }), 10).results;
    expect(found).toMatchObject([
      { stationId: "s1", verdict: "accepted", meanLpm: expect.closeTo(100, 3), samples: 20 },
    ]);
    const few = learnFromReadings(
      site,
      read(site, text.split("\n").slice(0, 120).join("\n"), { litresPerPulse: 10 }),
      10,
    ).results;
    expect(few[0]?.verdict).toBe("unsteady");
  });
  it("lines that cannot be read are refused with their number; a log without what it needs says what to choose", () => {
    const site = smallSite();
    const series = read(
      site,
      "time,flow,station\n02:00:00,5,1\nlater,5,1\n02:00:02,x,1\n02:00:03,5,99\n02:00:01,5,1\n",
    );
    expect(series.refused.map((r) => r.line)).toEqual([3, 4, 5]);
    expect(series.refused[2]?.problem).toBe("There is no station “99” on this site.");
    const opened = readingsSheet("a,b\nx,y\n");
    expect(
      opened.ok && readingSeries(site, opened.sheet, { columns: ["skip", "flow"], unit: "L/min", date: DATE }),
    ).toEqual({ ok: false, problem: "No column is the time. Choose it." });
    expect(readingsSheet("")).toMatchObject({ ok: false });
  });
  it("never throws, whatever the text", () => {
    const site = smallSite();
    fc.assert(
      fc.property(
        fc.string(),
        fc.array(fc.array(fc.string({ maxLength: 8 }), { minLength: 3, maxLength: 3 }), { maxLength: 8 }),
        (head, body) => {
          const opened = readingsSheet([head, ...body.map((r) => r.join(","))].join("\n"));
          if (opened.ok) {
            const made = readingSeries(site, opened.sheet, {
              columns: ["time", "flow", "station"],
              unit: "L/s",
              date: DATE,
            });
            if (made.ok) learnFromReadings(site, made.series, null);
          }
        },
      ),
      { numRuns: 200, seed: 1 },
    );
  });
});

describe("a list of learned flows", () => {
  it("goes out and comes back as proposals", () => {
    const site = smallSite((s) => {
      for (const x of s.stations)
        x.learned = {
          meanLpm: (x.designFlowLpm as number) * 1.02,
          sdLpm: 1.5,
          at: "2026-05-01T02:00:00.000Z",
          how: "bench",
        };
    });
    const back = parseLearnedCsv(site, learnedCsv(site), "gal/min");
    expect(back).toMatchObject({
      ok: true,
      list: {
        refused: [],
        unit: "L/min",
        results: [
          { stationId: "s1", meanLpm: 102, sdLpm: 1.5 },
          { stationId: "s2", meanLpm: 102 },
          { stationId: "s3", meanLpm: 51 },
        ],
      },
    });
  });
  it("refuses what is not a flow or not a station, line by line", () => {
    const back = parseLearnedCsv(smallSite(), "station,flow gpm\n1,20\n9,5\n2,-3\n1,21\n3,\n", "L/min");
    expect(
      back.ok && [back.list.results.map((r) => [r.stationId, r.meanLpm]), back.list.refused.map((r) => r.line)],
    ).toEqual([[["s1", 20 * 3.785411784]], [3, 4, 5]]);
    expect(parseLearnedCsv(smallSite(), "a,b\n1,2\n", "L/min")).toMatchObject({ ok: false });
  });
});

describe("a stopwatch", () => {
  it("gives litres ÷ minutes, with the spread between readings", () => {
    expect(timedFlow([{ litres: 100, seconds: 60 }])).toEqual({
      meanLpm: 100,
      sdLpm: expect.closeTo(100 / 120, 9),
      samples: 1,
    });
    expect(
      timedFlow([
        { litres: 50, seconds: 30 },
        { litres: 51, seconds: 30 },
        { litres: 0, seconds: 9 },
      ]),
    ).toEqual({ meanLpm: 101, sdLpm: expect.closeTo(Math.SQRT2, 9), samples: 2 });
    expect(timedFlow([])).toBeNull();
  });
  it("and the meter read before and after shows a leak that the sensor cannot see", () => {
    expect([meterLeakLpm(81_200, 81_230, 10), meterLeakLpm(5, 4, 10), meterLeakLpm(5, 5, 0)]).toEqual([3, null, null]);
  });
});
