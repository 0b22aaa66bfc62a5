import { nth } from "../checked.ts";
import { systemOf } from "../network/system-of.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";

export type AlarmFact = {
  id: string;
  at: string;
  kind: string;
  subjectId: string;
  measuredLpm: number;
  expectedLpm: number;
  state: "open" | "acknowledged" | "cleared";
};
export type DiagnosisCode =
  | "constant"
  | "mainLeak"
  | "supply"
  | "pump"
  | "halfClosedValve"
  | "sensorDead"
  | "stuckValve"
  | "leak"
  | "handWatering"
  | "masterValvePasses"
  | "branchBeforeSensor"
  | "backFeed"
  | "noise"
  | "wear"
  | "relearn"
  | "lateral"
  | "filter";
/** A likely cause, with how much speaks for it (0 to 1) and the station it may be, where a figure points at one. */
export type Likely = { code: DiagnosisCode; weight: number; stationId?: string };
/** Several alarms of one connected system read together. */
export type Reading = {
  pattern: "allHigh" | "allLow" | "flowAtRest" | "flowBehindShutValve" | "drift" | "afterRepair" | "oneHigh" | "oneLow";
  alarmIds: string[];
  likely: Likely[];
};

const TOGETHER_MS = 3 * 86_400_000;
const DRIFT_MS = 14 * 86_400_000;

/** Reads the alarms of a site together (handbook#8-limits): what pattern they make, and what it likely is, likeliest first. Cleared ones only speak for drift. */
export function diagnose(site: SiteFile, alarms: readonly AlarmFact[]): Reading[] {
  const w = waterworks(site);
  const open = alarms.filter((a) => a.state !== "cleared");
  return Array.from({ length: w.systemCount }, (_, system) => {
    const mine = open.filter((a) => systemOf(w, a.subjectId) === system);
    const newest = Math.max(...mine.map((a) => Date.parse(a.at)));
    const now = mine.filter((a) => newest - Date.parse(a.at) <= TOGETHER_MS);
    const together = readTogether(w, system, now);
    const used = new Set(together.flatMap((r) => r.alarmIds));
    const alone = now.filter((a) => !used.has(a.id)).flatMap((a) => readAlone(site, a, alarms) ?? []);
    return [...together, ...alone];
  }).flat();
}

const reading = (pattern: Reading["pattern"], list: readonly AlarmFact[], likely: Likely[]): Reading => ({
  pattern,
  alarmIds: list.map((a) => a.id),
  likely: likely.sort((a, b) => b.weight - a.weight),
});

/** What several alarms of one system say together: all high, all low, flow at rest. */
function readTogether(w: Waterworks, system: number, now: readonly AlarmFact[]): Reading[] {
  const of = (...kinds: string[]): AlarmFact[] => now.filter((a) => kinds.includes(a.kind));
  const subjects = (list: AlarmFact[]): number => new Set(list.map((a) => a.subjectId)).size;
  const high = of("stationHigh", "sensor", "burst", "mainline");
  const low = of("stationLow", "supply", "pumpNoFlow", "pressureLow");
  const rest = of("offSchedule");
  const found: Reading[] = [];
  if (subjects(high) > 1 || of("sensor", "mainline").length > 0) found.push(reading("allHigh", high, allHigh(high)));
  if (subjects(low) > 1 || of("supply", "pumpNoFlow", "pressureLow").length > 0)
    found.push(reading("allLow", low, allLow(w, system, low)));
  if (rest.length > 0) {
    const pattern = shutBehind(w, system) ? "flowBehindShutValve" : "flowAtRest";
    found.push(reading(pattern, rest, atRest(w, system, rest)));
  }
  return found;
}

/** One station's alarm by itself: after a repair, come back over weeks, or for the first time. Null for anything else. */
function readAlone(site: SiteFile, a: AlarmFact, alarms: readonly AlarmFact[]): Reading | null {
  const station = site.stations.find((s) => s.id === a.subjectId);
  if (!station || (a.kind !== "stationHigh" && a.kind !== "stationLow")) return null;
  const high = a.kind === "stationHigh";
  const broken = high ? "lateral" : "filter";
  if (isRepaired(station, a))
    return reading(
      "afterRepair",
      [a],
      [
        { code: "relearn", weight: 0.8 },
        { code: broken, weight: 0.4 },
      ],
    );
  const before = alarms.filter(
    (x) => x.subjectId === a.subjectId && x.kind === a.kind && Date.parse(a.at) >= Date.parse(x.at),
  );
  const span = Date.parse(a.at) - Math.min(...before.map((x) => Date.parse(x.at)));
  if (before.length >= 3 && span >= DRIFT_MS)
    return reading("drift", before, [
      { code: "wear", weight: 0.8 },
      { code: broken, weight: 0.3 },
    ]);
  return high
    ? reading(
        "oneHigh",
        [a],
        [
          { code: "lateral", weight: 0.9 },
          { code: "relearn", weight: 0.2 },
        ],
      )
    : reading(
        "oneLow",
        [a],
        [
          { code: "filter", weight: 0.7 },
          { code: "halfClosedValve", weight: 0.5 },
          { code: "relearn", weight: 0.15 },
        ],
      );
}

/** Repaired before the alarm, and not learned since. */
function isRepaired({ repairedAt, learned }: Station, a: AlarmFact): boolean {
  return (
    repairedAt !== undefined &&
    Date.parse(repairedAt) < Date.parse(a.at) &&
    (!learned || Date.parse(learned.at) < Date.parse(repairedAt))
  );
}

/** High by one factor speaks for the constant, high by one flow for a leak of the main. */
function allHigh(alarms: AlarmFact[]): Likely[] {
  const judged = alarms.filter((a) => a.expectedLpm > 0);
  const spread = (values: number[]): number => {
    const mean = values.reduce((a, b) => a + b, 0) / values.length;
    return values.length < 2 || mean <= 0
      ? 1
      : Math.sqrt(values.reduce((a, v) => a + (v - mean) ** 2, 0) / values.length) / mean;
  };
  const byFactor = spread(judged.map((a) => a.measuredLpm / a.expectedLpm - 1));
  const byFlow = spread(judged.map((a) => a.measuredLpm - a.expectedLpm));
  const tight = alarms.some((a) => a.kind === "sensor");
  const leaks = alarms.some((a) => a.kind === "mainline" || a.kind === "burst");
  const [factorFits, flowFits] = [byFactor < byFlow ? 0.7 : 0.4, byFlow <= byFactor ? 0.7 : 0.4];
  const notLeaking = tight ? 0.15 : flowFits;
  return [
    { code: "constant", weight: (tight ? 0.9 : factorFits) - (leaks ? 0.5 : 0) },
    { code: "mainLeak", weight: leaks ? 0.95 : notLeaking },
  ];
}

function allLow(w: Waterworks, system: number, alarms: AlarmFact[]): Likely[] {
  const pumped = w.site.pocs.some((p, i) => w.systemOfPoc[i] === system && p.devices.some((d) => d.kind === "pump"));
  const nothing = alarms.every((a) => a.measuredLpm < 0.05 * Math.max(1, a.expectedLpm));
  const pumpTold = alarms.some((a) => a.kind === "pumpNoFlow");
  const untold = nothing ? 0.7 : 0.55;
  return [
    { code: "supply", weight: nothing ? 0.8 : 0.5 },
    ...(pumped ? [{ code: "pump" as const, weight: pumpTold ? 0.9 : untold }] : []),
    { code: "halfClosedValve", weight: nothing ? 0.2 : 0.75 },
    { code: "sensorDead", weight: nothing ? 0.5 : 0.05 },
  ];
}

/** A POC whose valve is shut whenever nothing runs: flow there is behind a shut valve. */
function shutBehind(w: Waterworks, system: number): boolean {
  const pocs = w.site.pocs.filter((_, p) => w.systemOfPoc[p] === system);
  return (
    pocs.length > 0 && pocs.every((p) => p.devices.some((d) => d.kind === "masterValve" && d.normally === "closed"))
  );
}

function atRest(w: Waterworks, system: number, alarms: AlarmFact[]): Likely[] {
  const flow = alarms[0]?.measuredLpm ?? 0;
  const stuck = w.site.stations.filter(
    (s, i) =>
      w.systemOfMainline[nth(w.stationMainline, i)] === system &&
      Math.abs((expectedFlow(s)?.lpm ?? 0) / Math.max(flow, 1e-9) - 1) < 0.1,
  );
  const hours = w.site.pocs.some((p, i) => w.systemOfPoc[i] === system && (p.handWatering ?? []).length > 0);
  const several = w.site.pocs.filter((_, p) => w.systemOfPoc[p] === system).length > 1;
  if (shutBehind(w, system))
    return [
      { code: "masterValvePasses", weight: 0.7 },
      { code: "branchBeforeSensor", weight: 0.5 },
      { code: "backFeed", weight: several ? 0.6 : 0.1 },
      { code: "noise", weight: 0.3 },
    ];
  return [
    { code: "stuckValve", weight: stuck.length > 0 ? 0.85 : 0.5, ...(stuck[0] ? { stationId: stuck[0].id } : {}) },
    { code: "leak", weight: 0.6 },
    { code: "handWatering", weight: hours ? 0.3 : 0.55 },
  ];
}
