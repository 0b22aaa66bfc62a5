import { mainHoldOffS } from "../site-file/hold-off.ts";
import { got, nth } from "../checked.ts";
import { type PlanRun, plan } from "../dispatch/plan.ts";
import { waterworks } from "../network/waterworks.ts";
import type { Policy, SiteFile } from "../site-file/schema.ts";
import { type FaultKind, FAULT_KINDS, faultSpec } from "./faults/kinds.ts";
import { faultSubjects } from "./faults/resolve.ts";
import { type Simulation, simulate } from "./simulate.ts";

/** Faults that a sweep drops: on stations from the moment they first open, on all else a minute after the first station of their system opens. */
export const SWEPT: readonly FaultKind[] = FAULT_KINDS.filter((kind) => faultSpec(kind).swept !== null);
export const SWEPT_ON_STATIONS = SWEPT.filter((kind) => faultSpec(kind).swept === "station");
export const SWEPT_ON_MAINS = SWEPT.filter((kind) => faultSpec(kind).swept !== "station");
/** What came of it: shut off in good time, late, told but not shut off, nothing said, or something healthy shut off. */
export type SweepOutcome = "found" | "late" | "told" | "missed" | "wrong";
export type SweepCell = {
  /** A station; or a main, connection, pump or sensor. */
  subjectId: string;
  kind: FaultKind;
  policy: string;
  outcome: SweepOutcome;
  /** From when it began to act to the lockout or stop; null where there was none. */
  seconds: number | null;
  lostL: number;
  /** Minutes that other stations lost by it. */
  othersMin: number;
  /** What healthy was shut off. */
  wrongly: string[];
};
export type SweptPolicy = { name: string; policy: Policy };
export type SweepOptions = {
  date: string;
  kinds: readonly FaultKind[];
  policies: readonly SweptPolicy[] /** @default everything that a kind belongs on */;
  subjectIds?: readonly string[];
  /** Hears each subject as it is done, with how many are; false cancels. */
  onSubject?: (cells: SweepCell[], done: number, of: number) => boolean;
};

/** What a sweep would drop faults on: stations that run, and the mains, connections, pumps and sensors over them. */
export function sweepSubjects(site: SiteFile, date: string, kinds: readonly FaultKind[]): string[] {
  const { runs } = plan(site, date);
  return [...new Set(kinds.flatMap((kind) => subjectsOf(site, kind)))].filter(
    (id) => firstRun(site, runs, id) !== null,
  );
}

/** Every station × every fault × every policy on the exact bench (handbook#9-bench), and every main, supply, pump and sensor. Null when cancelled. */
export function sweepFaults(site: SiteFile, options: SweepOptions): SweepCell[] | null {
  const wanted = options.subjectIds && new Set(options.subjectIds);
  const { runs } = plan(site, options.date);
  const first = runs[0] ? Date.parse(runs[0].start) / 1000 : 0;
  const subjects = sweepSubjects(site, options.date, options.kinds).filter((id) => !wanted || wanted.has(id));
  const calmBy = options.policies.map(({ policy }) =>
    simulate({ ...site, policy }, { date: options.date, exact: true, passCalm: true }),
  );
  const cells: SweepCell[] = [];
  for (const [n, subjectId] of subjects.entries()) {
    const opens = firstRun(site, runs, subjectId) as number;
    const mine: SweepCell[] = [];
    for (const [k, { name, policy }] of options.policies.entries())
      for (const kind of options.kinds.filter((x) => subjectsOf(site, x).includes(subjectId))) {
        const judged = { ...site, policy };
        const ofStation = faultSpec(kind).swept === "station";
        const begins = ofStation ? opens : opens + 60;
        const night = simulate(judged, {
          date: options.date,
          exact: true,
          passCalm: true,
          faults: [{ kind, subjectId, at: `+${begins - first}` }],
        });
        const calm = calmBy[k];
        if (!night.ok || !calm?.ok) continue;
        mine.push(
          ofStation
            ? judge(judged, subjectId, kind, name, begins, night.result, calm.result)
            : judgeMain(judged, subjectId, kind, name, begins, night.result, calm.result),
        );
      }
    cells.push(...mine);
    if (options.onSubject?.(mine, n + 1, subjects.length) === false) return null;
  }
  return cells;
}

function subjectsOf(site: SiteFile, kind: FaultKind): string[] {
  const { swept } = faultSpec(kind);
  return swept === null ? [] : faultSubjects(site, kind, [swept]).map((s) => s.id);
}

/** When the station first opens; of anything else, the first station that draws through it. Epoch seconds; null where none runs. */
function firstRun(site: SiteFile, runs: readonly PlanRun[], subjectId: string): number | null {
  const w = waterworks(site);
  const through = (stationId: string): boolean => {
    if (stationId === subjectId) return true;
    const main = nth(w.stationMainline, got(w.stationIndex, stationId));
    const over = [
      ...(w.mainsAbove[main] ?? []).map((m) => site.mainlines[m]),
      ...(w.pocsAbove[main] ?? []).map((p) => site.pocs[p]),
    ];
    return over.some((x) => x?.id === subjectId || (x?.devices ?? []).some((d) => d.id === subjectId));
  };
  const times = runs.filter((r) => through(r.stationId)).map((r) => Date.parse(r.start) / 1000);
  return times.length > 0 ? Math.min(...times) : null;
}

function judge(
  site: SiteFile,
  stationId: string,
  kind: FaultKind,
  policy: string,
  opens: number,
  night: Simulation,
  calm: Simulation,
): SweepCell {
  const w = waterworks(site);
  const main = nth(w.stationMainline, got(w.stationIndex, stationId));
  // A valve that will not close is the main's: its lockout and that of what feeds it is right.
  const holders = new Set([
    stationId,
    ...(faultSpec(kind).blame === "main"
      ? [
          ...(w.mainsAbove[main] ?? []).map((m) => nth(site.mainlines, m).id),
          ...(w.pocsAbove[main] ?? []).map((p) => nth(site.pocs, p).id),
        ]
      : []),
  ]);
  const locked = night.lockouts.filter((id) => holders.has(id));
  const wrongly = night.lockouts.filter((id) => !holders.has(id) && !calm.lockouts.includes(id));
  const at = night.events.find((e) => e.type === "lockedOut" && holders.has(e.subjectId))?.at;
  const seconds = at === undefined ? null : Date.parse(at) / 1000 - opens;
  const told = night.alarms.length > calm.alarms.length;
  const sum = (of: Simulation): number =>
    of.unwatered.filter((u) => u.stationId !== stationId).reduce((total, u) => total + u.minutes, 0);
  return {
    subjectId: stationId,
    kind,
    policy,
    seconds,
    wrongly,
    lostL: Math.max(0, Math.round(night.totals.lostL - calm.totals.lostL)),
    othersMin: Math.max(0, Math.round(10 * (sum(night) - sum(calm))) / 10),
    outcome: outcomeOf(
      wrongly,
      locked.length > 0 ? (seconds ?? Number.POSITIVE_INFINITY) : null,
      inGoodTimeS(site, main),
      told,
    ),
  };
}

/** Of a main, a supply, a pump or a sensor: no station is ever to blame. Breaks and supplies are found when the main or what feeds it is shut off; a sensor when it is named. */
function judgeMain(
  site: SiteFile,
  subjectId: string,
  kind: FaultKind,
  policy: string,
  begins: number,
  night: Simulation,
  calm: Simulation,
): SweepCell {
  const stations = new Set(site.stations.map((s) => s.id));
  const wrongly = night.lockouts.filter((id) => stations.has(id) && !calm.lockouts.includes(id));
  const fresh = night.alarms.filter(
    (a) => !calm.alarms.some((c) => c.at === a.at && c.kind === a.kind && c.subjectId === a.subjectId),
  );
  const ofSensor = faultSpec(kind).blame === "sensor";
  const at = ofSensor
    ? fresh.find((a) => a.kind === "sensor")?.at
    : night.events.find(
        (e) =>
          (e.type === "lockedOut" || e.type === "stopped") &&
          !stations.has(e.subjectId) &&
          Date.parse(e.at) / 1000 >= begins,
      )?.at;
  const seconds = at === undefined ? null : Date.parse(at) / 1000 - begins;
  const sum = (of: Simulation): number => of.unwatered.reduce((total, u) => total + u.minutes, 0);
  return {
    subjectId,
    kind,
    policy,
    seconds,
    wrongly,
    lostL: Math.max(0, Math.round(night.totals.lostL - calm.totals.lostL)),
    othersMin: Math.max(0, Math.round(10 * (sum(night) - sum(calm))) / 10),
    outcome: outcomeOf(wrongly, seconds, inGoodTimeS(site, null), fresh.length > 0),
  };
}

/** @param seconds until it was shut off or named; null where it never was */
function outcomeOf(wrongly: string[], seconds: number | null, goodS: number, told: boolean): SweepOutcome {
  if (wrongly.length > 0) return "wrong";
  if (seconds !== null) return seconds <= goodS ? "found" : "late";
  return told ? "told" : "missed";
}

/** Tripped in its first set and found by the first search: hold-off and persistence three times over (the trip, the main, the station), the waits, the fill and a minute. */
function inGoodTimeS(site: SiteFile, main: number | null): number {
  const holdOffS = Math.max(...site.mainlines.map(mainHoldOffS));
  const { policy } = site;
  return (
    3 * (holdOffS + policy.persistenceS) +
    (policy.closeWaitS ?? 30) +
    (policy.retest ? (policy.retestWaitS ?? 60) + holdOffS + policy.persistenceS : 0) +
    60 +
    (main === null ? 0 : (site.mainlines[main]?.fillS ?? 0))
  );
}

/** The cells that cost most for want of being found: missed, told or late by litres lost, wrong ones first. */
export function worstGaps(cells: readonly SweepCell[], count = 10): SweepCell[] {
  const weight = (c: SweepCell): number => (c.outcome === "wrong" ? 1e9 : 0) + c.lostL + 5 * c.othersMin;
  return cells
    .filter((c) => c.outcome !== "found")
    .sort((a, b) => weight(b) - weight(a))
    .slice(0, count);
}
