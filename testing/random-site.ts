import { DAY_RULES, DAY_TYPES } from "../core/dates/day-rules.ts";
import fc from "fast-check";
import type { Program, SiteFile } from "../core/site-file/schema.ts";
import type { Weekday } from "../core/dates/weekday.ts";

/** Random whole sites for property tests: several sources, POCs, mains in trees and with shared feeds, cycles, soaks, delays. */
const DAYS: Weekday[] = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];

export type SiteShape = { stations: { min: number; max: number }; windows: boolean; pumps?: boolean };

export function randomSite(shape: SiteShape): fc.Arbitrary<SiteFile> {
  return fc
    .record({
      sources: fc.array(
        fc.record({
          yieldLpm: fc.option(fc.integer({ min: 150, max: 900 }), { nil: undefined }),
          priority: fc.integer({ min: 1, max: 3 }),
        }),
        { minLength: 1, maxLength: 3 },
      ),
      pocs: fc.array(
        fc.record({
          ceiling: fc.integer({ min: 120, max: 700 }),
          from: fc.array(fc.nat(9), { minLength: 1, maxLength: 2 }),
        }),
        { minLength: 1, maxLength: 3 },
      ),
      mains: fc.array(
        fc.record({
          ceiling: fc.option(fc.integer({ min: 110, max: 500 }), { nil: undefined }),
          feeds: fc.array(fc.nat(9), { minLength: 1, maxLength: 2 }),
          underMain: fc.boolean(),
        }),
        { minLength: 1, maxLength: 4 },
      ),
      stations: fc.array(
        fc.record({
          main: fc.nat(9),
          controller: fc.nat(9),
          flow: fc.integer({ min: 10, max: 130 }),
          minutes: fc.integer({ min: 0, max: 25 }),
          cycle: fc.option(
            fc.oneof(
              fc.record({ longestMin: fc.integer({ min: 2, max: 9 }) }),
              fc.record({ count: fc.integer({ min: 1, max: 4 }) }),
            ),
            { nil: undefined },
          ),
          soakMin: fc.integer({ min: 0, max: 20 }),
        }),
        { minLength: shape.stations.min, maxLength: shape.stations.max },
      ),
      programs: fc.array(
        fc.record({
          start: fc.constantFrom("19:00", "20:30", "22:00", "23:45"),
          second: fc.boolean(),
          atOnce: fc.integer({ min: 1, max: 5 }),
          delayS: fc.constantFrom(0, 0, 15, 60),
          priority: fc.integer({ min: 1, max: 3 }),
          strict: fc.boolean(),
          percent: fc.constantFrom(100, 75, 110, 33),
          window: fc.option(fc.constantFrom(["20:00", "02:00"], ["21:15", "05:00"], ["22:30", "23:30"]), {
            nil: undefined,
          }),
          closed: fc.boolean(),
          cycle: fc.option(fc.record({ longestMin: fc.integer({ min: 3, max: 12 }) }), { nil: undefined }),
          soakMin: fc.option(fc.integer({ min: 0, max: 15 }), { nil: undefined }),
          days: fc.oneof(
            { weight: 9, arbitrary: fc.constant<Program["days"]>({ type: "weekdays", days: DAYS }) },
            { weight: 1, arbitrary: fc.constantFrom(...DAY_TYPES).map((type) => DAY_RULES[type].blank("2026-07-01")) },
          ),
        }),
        { minLength: 1, maxLength: 3 },
      ),
      controllers: fc.array(fc.option(fc.integer({ min: 1, max: 6 }), { nil: undefined }), {
        minLength: 1,
        maxLength: 2,
      }),
      siteAtOnce: fc.option(fc.integer({ min: 2, max: 8 }), { nil: undefined }),
    })
    .map((r) => {
      const pick = <T>(list: T[], n: number): T => list[n % list.length] as T;
      const sourceIds = r.sources.map((_, i) => `src${i}`);
      const pocIds = r.pocs.map((_, i) => `poc${i}`);
      const mainIds = r.mains.map((_, i) => `main${i}`);
      const controllerIds = r.controllers.map((_, i) => `ctl${i}`);
      const stations: SiteFile["stations"] = r.stations.map((s, i) => ({
        id: `s${i}`,
        number: i + 1,
        name: `S${i}`,
        controllerId: pick(controllerIds, s.controller),
        mainlineId: pick(mainIds, s.main),
        designFlowLpm: s.flow,
        ...(s.cycle ? { cycle: s.cycle, soakMin: s.soakMin } : {}),
      }));
      const programs: Program[] = r.programs.map((p, i) => {
        const controllerId = pick(controllerIds, i);
        return {
          id: `p${i}`,
          name: `P${i}`,
          controllerId,
          starts: p.second ? [p.start, "23:50"] : [p.start],
          days: p.days,
          priority: p.priority,
          maxStationsAtOnce: p.atOnce,
          delayS: p.delayS,
          dispatch: p.strict ? "strict" : "fill",
          seasonalPercent: p.percent,
          ...(p.cycle ? { cycle: p.cycle } : {}),
          ...(p.soakMin === undefined ? {} : { soakMin: p.soakMin }),
          ...(shape.windows && p.window
            ? { windows: [{ from: p.window[0] as string, to: p.window[1] as string }] }
            : {}),
          ...(shape.windows && p.closed ? { closedHours: [{ from: "23:00", to: "23:20" }] } : {}),
          runs: stations
            .filter((s, n) => s.controllerId === controllerId && n % r.programs.length === i % r.programs.length)
            .map((s) => ({ stationId: s.id, minutes: r.stations[Number(s.id.slice(1))]?.minutes ?? 0 })),
        };
      });
      return {
        format: "presa-site",
        version: 1,
        site: {
          id: "random",
          name: "Random",
          timeZone: "Europe/Vienna",
          units: "metric",
          ...(r.siteAtOnce === undefined ? {} : { maxStationsAtOnce: r.siteAtOnce }),
        },
        sources: r.sources.map((s, i) => ({
          id: `src${i}`,
          name: `Source ${i}`,
          kind: "municipal",
          priority: s.priority,
          ...(s.yieldLpm === undefined ? {} : { yieldLpm: s.yieldLpm }),
        })),
        pocs: r.pocs.map((p, i) => ({
          id: `poc${i}`,
          name: `Poc ${i}`,
          sourceIds: [...new Set(p.from.map((f) => pick(sourceIds, f)))],
          devices: [
            { id: `meter${i}`, kind: "meter", continuousMaxLpm: p.ceiling },
            { id: `valve${i}`, kind: "masterValve", normally: "closed" },
            {
              id: `sensor${i}`,
              kind: "flowSensor",
              output: { type: "frequency", kGpm: 1.6, offsetHz: 0.3 },
              minLpm: 5,
              maxLpm: 2000,
            },
          ],
        })),
        mainlines: r.mains.map((m, i) => ({
          id: `main${i}`,
          name: `Main ${i}`,
          feedIds:
            i > 0 && m.underMain
              ? [pick(mainIds.slice(0, i), m.feeds[0] ?? 0)]
              : [...new Set(m.feeds.map((f) => pick(pocIds, f)))],
          pipes: [],
          ...(m.ceiling === undefined ? {} : { ceilingLpm: m.ceiling }),
        })),
        controllers: r.controllers.map((atOnce, i) => ({
          id: `ctl${i}`,
          name: `Controller ${i}`,
          powered: "mains",
          ...(atOnce === undefined ? {} : { maxStationsAtOnce: atOnce }),
        })),
        stations,
        programs,
        policy: {
          basis: "station",
          highPercent: 20,
          lowPercent: 25,
          persistenceS: 60,
          highResponse: "findAndIsolate",
          lowResponse: "findAndIsolate",
        },
      } satisfies SiteFile;
    });
}

/** The same sites with inputs whose simulated readings start and pause programs; some stations ignore them, one input may be bypassed. */
export function randomSiteWithInputs(shape: SiteShape): fc.Arbitrary<SiteFile> {
  const reading = fc.record({
    at: fc.constantFrom(
      "2026-07-14T19:04",
      "2026-07-14T20:33",
      "2026-07-14T22:03",
      "2026-07-14T22:33",
      "2026-07-14T22:47",
      "2026-07-14T23:53",
      "2026-07-15T00:10",
    ),
    value: fc.integer({ min: 0, max: 40 }),
  });
  const readings = fc.uniqueArray(reading, { selector: (r) => r.at, minLength: 4, maxLength: 7 });
  const rule = fc.record({
    input: fc.nat(1),
    does: fc.constantFrom("start" as const, "pause" as const, "pause" as const),
    when: fc.constantFrom("above" as const, "below" as const),
    limit: fc.integer({ min: 5, max: 35 }),
  });
  return fc
    .tuple(
      randomSite(shape),
      fc.tuple(readings, readings),
      fc.array(fc.array(rule, { minLength: 1, maxLength: 2 }), { minLength: 3, maxLength: 3 }),
      fc.boolean(),
    )
    .map(([site, traces, rules, bypassed]) => ({
      ...site,
      weatherInputs: [
        { id: "moist", name: "Moisture", kind: "moisture" as const, readings: traces[0] },
        {
          id: "warm",
          name: "Warm",
          kind: "temperature" as const,
          readings: traces[1],
          ...(bypassed ? { bypassed } : {}),
        },
      ],
      stations: site.stations.map((s, i) => (i % 4 === 1 ? { ...s, ignoresInputs: ["moist"] } : s)),
      programs: site.programs.map((p, i) => ({
        ...p,
        onInputs: (rules[i] ?? []).map(({ input, ...r }) => ({ inputId: input === 0 ? "moist" : "warm", ...r })),
      })),
    }));
}

/** Sets of the optional keys too, for the round trip of the file format. */
export function randomFile(): fc.Arbitrary<SiteFile> {
  return fc
    .tuple(
      randomSite({ stations: { min: 0, max: 6 }, windows: true }),
      fc.record({
        notes: fc.string(),
        latitude: fc.double({ min: -90, max: 90, noNaN: true }),
        share: fc.double({ min: 0, max: 1, noNaN: true }),
        learned: fc.double({ min: 0, max: 900, noNaN: true }),
        names: fc.array(fc.string({ maxLength: 40 }), { minLength: 8, maxLength: 8 }),
      }),
    )
    .map(([site, more]) => ({
      ...site,
      site: { ...site.site, notes: more.notes, latitudeDeg: more.latitude, holdUntil: "indefinite" as const },
      controllers: site.controllers.map((c) => ({ ...c, unlinkedShare: more.share })),
      stations: site.stations.map((s, i) => ({
        ...s,
        name: more.names[i % 8] as string,
        learned: { meanLpm: more.learned, sdLpm: more.learned / 50, at: "2026-05-06T03:10:00.000Z" },
        highPercent: 33.5,
        monitored: i % 2 === 0,
      })),
      weatherInputs: [{ id: "rain", name: more.names[0] as string, kind: "rain" as const }],
    }));
}
