import { readdirSync, readFileSync } from "node:fs";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { randomFile } from "../../testing/random-site.ts";
import { smallSite } from "../../testing/small-site.ts";
import { pressureStudy } from "../hydraulics/pressures.ts";
import { parseSite } from "../site-file/parse-site.ts";
import type { Device, Program, SiteFile } from "../site-file/schema.ts";
import { check } from "./check.ts";
import type { Severity } from "./finding.ts";
import { pressureFindings } from "./pressure.ts";

type Row = [code: string, severity: Severity, subjectId: string, path: string, words: RegExp, (s: SiteFile) => void];

const poc = (s: SiteFile) => s.pocs[0] as SiteFile["pocs"][number];
const main = (s: SiteFile) => s.mainlines[0] as SiteFile["mainlines"][number];
const program = (s: SiteFile) => s.programs[0] as Program;
const station = (s: SiteFile, i: number) => s.stations[i] as SiteFile["stations"][number];
const sensor = (s: SiteFile, values: object): void => {
  poc(s).devices = [
    poc(s).devices[0] as Device,
    { id: "fs", kind: "flowSensor", output: { type: "pulse", litresPerPulse: 1 }, ...values } as Device,
  ];
};
const pipe = (s: SiteFile, values: object): void => {
  main(s).pipes = [
    { id: "run", kind: "pipe", material: "PVC", series: "SCH40", nominal: "3 in", lengthM: 40, ...values } as never,
  ];
};
const pump = (s: SiteFile, values: object): void => {
  const curve = [
    { flowLpm: 0, headM: 60 },
    { flowLpm: 300, headM: 20 },
  ];
  poc(s).devices.unshift({ id: "pump", kind: "pump", name: "Booster", minFlowLpm: 20, curve, ...values } as Device);
};

/**
 * Each finding by the smallest change that brings it: how bad it is, whom it names, where it points, what it says.
 *
 * Long: one row a finding, in one table, so that a finding without a row is seen.
 */
const ROWS: Row[] = [
  [
    "lockedOut",
    "error",
    "poc",
    "pocs[0].lockedOut",
    /Poc is locked out/,
    (s) => Object.assign(poc(s), { lockedOut: true }),
  ],
  [
    "lockedOut",
    "error",
    "main",
    "mainlines[0].lockedOut",
    /Main is locked out/,
    (s) => Object.assign(main(s), { lockedOut: true }),
  ],
  [
    "lockedOut",
    "error",
    "s2",
    "stations[1].lockedOut",
    /Station 2 S2 is locked out/,
    (s) => Object.assign(station(s, 1), { lockedOut: true }),
  ],
  [
    "sourceUnused",
    "note",
    "pond",
    "sources[1]",
    /Pond feeds no point of connection/,
    (s) => s.sources.push({ id: "pond", name: "Pond", kind: "pond" } as never),
  ],
  [
    "sensorCheckFailed",
    "warning",
    "fs",
    "pocs[0].devices[1].checks",
    /fs: "cable shield" was found not in order by Ana \(bare\)/,
    (s) =>
      sensor(s, {
        checks: [
          { check: "cableShield", ok: true, by: "Ana", at: "2026-05-01T08:00:00Z" },
          { check: "cableShield", ok: false, by: "Ana", at: "2026-05-02T08:00:00Z", note: "bare" },
        ],
      }),
  ],
  [
    "deviceCheckFailed",
    "warning",
    "mv",
    "pocs[0].devices[0].checks",
    /mv: "on the spot" was found not in order by Ana/,
    (s) =>
      Object.assign(poc(s).devices[0] as object, {
        checks: [{ check: "onTheSpot", ok: false, by: "Ana", at: "2026-05-02T08:00:00Z" }],
      }),
  ],
  [
    "notInUse",
    "note",
    "main",
    "mainlines[0].enabled",
    /Main is not in use. Its 3 stations get no water from it/,
    (s) => Object.assign(main(s), { enabled: false }),
  ],
  [
    "noSupply",
    "error",
    "s1",
    "stations[0]",
    /no open way from an enabled source/,
    (s) => Object.assign(s.sources[0] as object, { enabled: false }),
  ],
  [
    "stationAboveCeiling",
    "error",
    "s1",
    "stations[0]",
    /alone uses 100.*more than can reach it/,
    (s) => Object.assign(main(s), { ceilingLpm: 60 }),
  ],
  [
    "noFlow",
    "error",
    "s3",
    "stations[2]",
    /has no flow figure/,
    (s) => delete (station(s, 2) as { designFlowLpm?: number }).designFlowLpm,
  ],
  [
    "duplicateStationNumber",
    "error",
    "s2",
    "stations[1].number",
    /already used by S1/,
    (s) => Object.assign(station(s, 1), { number: 1 }),
  ],
  ["noPipes", "note", "main", "mainlines[0].pipes", /no pipe entered/, () => {}],
  [
    "unknownPipe",
    "warning",
    "run",
    "mainlines[0].pipes[0]",
    /not in the pipe table/,
    (s) => pipe(s, { nominal: "3.1 in" }),
  ],
  [
    "unknownMaterial",
    "warning",
    "run",
    "mainlines[0].pipes[0].material",
    /how rough clay is, is not known; C 150/,
    (s) => pipe(s, { material: "clay", insideDiameterMm: 50 }),
  ],
  [
    "velocityTooHigh",
    "error",
    "run",
    "mainlines[0].pipes[0].maxVelocityMs",
    /above 3 m\/s|above 2\.\d+ m\/s/,
    (s) => pipe(s, { maxVelocityMs: 4 }),
  ],
  [
    "velocityWithoutReason",
    "warning",
    "run",
    "mainlines[0].pipes[0].maxVelocityMs",
    /without a reason/,
    (s) => pipe(s, { maxVelocityMs: 1.8 }),
  ],
  [
    "pumpMinimumAboveCurve",
    "error",
    "pump",
    "pocs[0].devices[0].minFlowLpm",
    /beyond the end of its curve/,
    (s) => pump(s, { minFlowLpm: 900 }),
  ],
  [
    "pumpCurveOrder",
    "error",
    "pump",
    "pocs[0].devices[0].curve",
    /must rise/,
    (s) =>
      pump(s, {
        curve: [
          { flowLpm: 200, headM: 20 },
          { flowLpm: 100, headM: 40 },
        ],
        minFlowLpm: 5,
      }),
  ],
  [
    "pumpMinimumUnknown",
    "note",
    "pump",
    "pocs[0].devices[0].minFlowLpm",
    /minimum flow is not entered/,
    (s) => pump(s, { minFlowLpm: undefined }),
  ],
  [
    "pumpMinimum",
    "warning",
    "s3",
    "stations[2]",
    /can never keep its pump over the minimum/,
    (s) => {
      pump(s, { minFlowLpm: 90 });
      program(s).maxStationsAtOnce = 1;
    },
  ],
  ["noSensor", "warning", "poc", "pocs[0].devices", /has no flow sensor/, (s) => poc(s).devices.pop()],
  ["sensorRangeUnknown", "warning", "fs", "pocs[0].devices[1]", /enter its inside diameter/, (s) => sensor(s, {})],
  [
    "stationUnderSensorMinimum",
    "warning",
    "fs",
    "pocs[0].devices[1]",
    /cannot watch 3 S3/,
    (s) => sensor(s, { minLpm: 60, maxLpm: 900 }),
  ],
  [
    "burstAboveSensor",
    "warning",
    "poc",
    "pocs[0].burstLimitLpm",
    /above what fs can read/,
    (s) => Object.assign(poc(s), { burstLimitLpm: 1600 }),
  ],
  [
    "offScheduleUnderSensor",
    "warning",
    "poc",
    "pocs[0].offScheduleLimitLpm",
    /is under what fs can see/,
    (s) => Object.assign(poc(s), { offScheduleLimitLpm: 5 }),
  ],
  [
    "burstUnderCeiling",
    "warning",
    "poc",
    "pocs[0].burstLimitLpm",
    /ordinary watering could trip it/,
    (s) => Object.assign(poc(s), { ceilingLpm: 300, burstLimitLpm: 200 }),
  ],
  ["noBurstLimit", "note", "poc", "pocs[0].burstLimitLpm", /has no burst limit/, () => {}],
  [
    "noDays",
    "error",
    "p",
    "programs[0].days",
    /it never runs/,
    (s) => Object.assign(program(s), { days: { type: "weekdays", days: [] } }),
  ],
  [
    "noStarts",
    "warning",
    "p",
    "programs[0].starts",
    /has no start time/,
    (s) => Object.assign(program(s), { starts: [] }),
  ],
  [
    "secondStart",
    "note",
    "p",
    "programs[0].starts",
    /starts 2 times a day \(03:00, 22:00\)|\(22:00, 03:00\)/,
    (s) => program(s).starts.push("03:00"),
  ],
  ["noRuns", "note", "p", "programs[0].runs", /has no stations/, (s) => Object.assign(program(s), { runs: [] })],
  [
    "datesReversed",
    "error",
    "p",
    "programs[0].until",
    /ends before it begins/,
    (s) => Object.assign(program(s), { from: "2026-08-01", until: "2026-06-01" }),
  ],
  [
    "zeroMinutes",
    "note",
    "p",
    "programs[0].runs[1].minutes",
    /S2 has 0 minutes/,
    (s) => Object.assign(program(s).runs[1] as object, { minutes: 0 }),
  ],
  ["notInProgram", "note", "s3", "stations[2]", /Station 3 S3 is in no program/, (s) => program(s).runs.pop()],
  [
    "controllerOff",
    "warning",
    "ctl",
    "controllers[0].off",
    /Controller Controller is off/,
    (s) => Object.assign(s.controllers[0] as object, { off: true }),
  ],
  [
    "holdWithoutEnd",
    "warning",
    "small",
    "site.holdUntil",
    /site is off with no end/,
    (s) => Object.assign(s.site, { holdUntil: "indefinite" }),
  ],
  [
    "holdWithoutEnd",
    "warning",
    "p",
    "programs[0].holdUntil",
    /P is held with no end/,
    (s) => Object.assign(program(s), { holdUntil: "indefinite" }),
  ],
  [
    "noSource",
    "error",
    "poc",
    "pocs[0].sourceIds",
    /draws on no source/,
    (s) => Object.assign(poc(s), { sourceIds: [] }),
  ],
  [
    "noFeed",
    "error",
    "main",
    "mainlines[0].feedIds",
    /is fed by nothing/,
    (s) => Object.assign(main(s), { feedIds: [] }),
  ],
  [
    "inputBypassed",
    "warning",
    "rain",
    "weatherInputs[0].bypassed",
    /Roof is bypassed/,
    (s) => Object.assign(s, { weatherInputs: [{ id: "rain", name: "Roof", kind: "rain", bypassed: true }] }),
  ],
  [
    "inputBypassed",
    "warning",
    "small",
    "site.weatherPercentBypassed",
    /as if there were none/,
    (s) =>
      Object.assign(s.site, { weatherPercentBypassed: true, weatherPercents: [{ date: "2026-07-14", percent: 40 }] }),
  ],
  [
    "taperUnfinished",
    "warning",
    "p",
    "programs[0].until",
    /no program waters 3 of its stations after it/,
    (s) => Object.assign(program(s), { name: "Establishment, step 3", until: "2026-07-20" }),
  ],
  [
    "noBands",
    "warning",
    "small",
    "policy.bands",
    /graded, but no band/,
    (s) => Object.assign(s.policy, { basis: "graded" }),
  ],
  [
    "persistenceShort",
    "note",
    "small",
    "policy.persistenceS",
    /persistence of 5 s/,
    (s) => Object.assign(s.policy, { persistenceS: 5 }),
  ],
];

/** What a path like `pocs[0].devices[1].minLpm` points to, up to its last step, which may be a field that is missing. */
function holder(site: SiteFile, path: string): unknown {
  const steps = path.split(/\.|(?=\[)/).map((step) => step.replace(/^\[(\d+)\]$/, "$1"));
  return steps.slice(0, -1).reduce<unknown>((at, step) => (at as Record<string, unknown> | undefined)?.[step], site);
}
const idsOf = (site: SiteFile): Set<string> => {
  const ids = new Set<string>([site.site.id]);
  JSON.stringify(site, (key, value: unknown) => {
    if (key === "id" && typeof value === "string") ids.add(value);
    return value;
  });
  return ids;
};

describe("every finding", () => {
  it.each(ROWS)("%s (%s) names %s at %s", (code, severity, subjectId, path, words, change) => {
    const site = smallSite(change);
    const found = check(site).find((f) => f.code === code && f.subjectId === subjectId);
    expect(
      found,
      check(site)
        .map((f) => `${f.code} ${f.subjectId}`)
        .join(", "),
    ).toMatchObject({ severity, path });
    expect(found?.message).toMatch(words);
    expect(holder(site, path)).toBeDefined();
  });
  it("has a test, here or beside", () => {
    const folder = new URL("./", import.meta.url);
    const text = (keep: (name: string) => boolean): string =>
      readdirSync(folder)
        .filter(keep)
        .map((name) => readFileSync(new URL(name, folder), "utf8"))
        .join("\n");
    const tests = text((name) => name.endsWith(".test.ts"));
    const codes = text((name) => !name.endsWith(".test.ts")).matchAll(
      /finding\(\s*"(?:error|warning|note)",\s*"(\w+)"/g,
    );
    const untested = [...new Set([...codes].map((m) => m[1] as string))].filter((code) => !tests.includes(`"${code}"`));
    expect(untested).toEqual([]);
  });
  it("a network without balance says that its pressures mean nothing", async () => {
    const site = smallSite((s) => Object.assign(s.sources[0] as object, { staticPressureKpa: 400 }));
    const study = await pressureStudy(site, null);
    expect(await pressureFindings(site, study)).toEqual([]);
    const design = { ...(study.design as NonNullable<typeof study.design>), unbalanced: true };
    expect(await pressureFindings(site, { ...study, design })).toMatchObject([
      { severity: "warning", code: "networkUnbalanced", subjectId: "small", path: "mainlines" },
    ]);
  });
  it("of any site names something of it, points into it, and comes out the same again", () => {
    fc.assert(
      fc.property(randomFile(), (site) => {
        const found = check(site);
        const ids = idsOf(site);
        for (const f of found) {
          expect(ids.has(f.subjectId), `${f.code}: ${f.subjectId}`).toBe(true);
          expect(holder(site, f.path), `${f.code}: ${f.path}`).toBeDefined();
          expect(f.message).not.toMatch(/undefined|NaN|Infinity|null/);
        }
        expect(check(structuredClone(site))).toEqual(found);
        expect(parseSite(JSON.parse(JSON.stringify(site))).ok).toBe(true);
      }),
      { numRuns: 60, seed: 4 },
    );
  });
});
