import fc from "fast-check";
import { FAULT_KINDS, type FaultKind, faultSpec, needsOther } from "../core/bench/faults/kinds.ts";
import { type FaultRequest, faultSubjects } from "../core/bench/faults/resolve.ts";
import { beginBenchDay } from "../core/bench/bench-day.ts";
import { type Simulation, simulate } from "../core/bench/simulate.ts";
import { plan } from "../core/dispatch/plan.ts";
import { setLimits } from "../core/judge/set-limits.ts";
import { type Waterworks, waterworks } from "../core/network/waterworks.ts";
import { expectedFlow } from "../core/site-file/expected-flow.ts";
import type { SiteFile, Station } from "../core/site-file/schema.ts";
import { randomSite } from "./random-site.ts";

/** Faults of the supply, the sensors or the mains: whatever they do, no station is to blame. They last: one that is over when the next station runs cannot be told from a station's. */
const isBlameless = (kind: FaultKind): boolean => !faultSpec(kind).subjects.includes("station");

export const FAULT_NIGHT_DATE = "2026-07-14";
export type FaultNight = { site: SiteFile; fault: FaultRequest };

/** A random site, some with a pump, and one random fault on it. */
export function faultNight(stations: { min: number; max: number }): fc.Arbitrary<FaultNight> {
  return fc
    .tuple(
      randomSite({ stations, windows: false }),
      fc.constantFrom(...FAULT_KINDS),
      fc.nat(1000),
      fc.nat(1000),
      fc.integer({ min: 0, max: 5000 }),
      fc.option(fc.integer({ min: 100, max: 4000 }), { nil: undefined }),
      fc.boolean(),
      fc.constantFrom("findAndIsolate" as const, "findAndIsolate" as const, "stopStation" as const),
    )
    .map(([plain, kind, at, other, begins, lasts, pumped, response]) => {
      const pump: SiteFile["pocs"][number]["devices"][number] = {
        id: "pump",
        kind: "pump",
        curve: [
          { flowLpm: 0, headM: 55 },
          { flowLpm: 900, headM: 30 },
        ],
      };
      const site: SiteFile = {
        ...plain,
        policy: { ...plain.policy, highResponse: response },
        pocs: plain.pocs.map((p, i) => (pumped && i === 0 ? { ...p, devices: [...p.devices, pump] } : p)),
      };
      const usable =
        faultSubjects(site, kind).length > 0 && (!needsOther(kind) || site.stations.length > 1)
          ? kind
          : "brokenLateral";
      const subjects = faultSubjects(site, usable);
      const subjectId = subjects[at % subjects.length]?.id as string;
      const others = site.stations.filter((s) => s.id !== subjectId);
      return {
        site,
        fault: {
          at: `+${begins}`,
          kind: usable,
          subjectId,
          ...(lasts === undefined || isBlameless(usable) ? {} : { until: `+${begins + lasts}` }),
          ...(needsOther(usable) ? { otherId: others[other % others.length]?.id as string } : {}),
        },
      };
    });
}

/** Faults that only the whole main shows, or that look like the supply's: which lock is right depends on what ran beside. */
const isOfMain = (kind: FaultKind): boolean => faultSpec(kind).blame === "main";

/** What must never be on the exact bench with one fault (handbook#8-limits, handbook#9-bench); each broken rule in words, empty when all hold. */
export function brokenRules({ site, fault }: FaultNight): string[] {
  const outcome = simulate(site, { date: FAULT_NIGHT_DATE, faults: [fault], exact: true });
  if (!outcome.ok) return [`refused: ${"problem" in outcome ? outcome.problem.message : "cancelled"}`];
  const { result } = outcome;
  const calm = simulate(site, { date: FAULT_NIGHT_DATE, exact: true });
  const anyway = new Set(calm.ok ? calm.result.lockouts : []);
  return [
    ...wrongLockouts(site, fault, { ...result, lockouts: result.lockouts.filter((id) => !anyway.has(id)) }),
    ...unfoundLateral(site, fault, result),
    ...dryPump(site, fault),
    ...unwateredHealthy(site, fault, result),
  ];
}

function wrongLockouts(site: SiteFile, fault: FaultRequest, { lockouts, runs, alarms }: Simulation): string[] {
  const w = waterworks(site);
  const subject = w.stationIndex.get(fault.subjectId);
  const blamed = subject === undefined ? [] : [fault.subjectId, ...(fault.otherId ? [fault.otherId] : [])];
  const main = subject === undefined ? w.mainlineIndex.get(fault.subjectId) : (w.stationMainline[subject] as number);
  const system = main === undefined ? null : w.systemOfMainline[main];
  // With "stop station" everything that ran is closed and locked; only isolating can be right to the station.
  if (site.policy.highResponse === "stopStation") return [];
  return lockouts.flatMap((id) => {
    if (w.stationIndex.has(id)) {
      if (blamed.includes(id)) return [];
      // One at a time, whether it is the station or the supply or the constant only the next one of the same feed tells: with none to follow, or before it, the first is locked (site-file#isolating).
      const high = alarms.find((a) => a.kind === "stationHigh" && a.subjectId === id);
      if (high && fault.kind === "wrongK") return [];
      const told = alarms.find((a) => a.kind === "stationLow" && a.subjectId === id);
      const mine = runs.filter((r) => r.stationId === id);
      const lowAt = Math.max(...mine.map((r) => Date.parse(r.end)));
      const same = runs.filter((r) => systemOfStation(w, r.stationId) === systemOfStation(w, id));
      const moments = [...new Set(same.flatMap((r) => [Date.parse(r.start), Date.parse(r.end)]))]
        .filter((t) => t >= lowAt)
        .sort((x, y) => x - y);
      const followed = moments.some(
        (from, i) =>
          (moments[i + 1] ?? from) - from > 121_000 &&
          same.some(
            (r) =>
              r.stationId !== id &&
              feedOfStation(w, r.stationId) === feedOfStation(w, id) &&
              Date.parse(r.start) <= from &&
              Date.parse(r.end) >= (moments[i + 1] ?? 0),
          ),
      );
      if (told && !followed) return [];
      // A main that leaks or a supply that fails must not be laid on a station; a valve that will not close is the main's.
      return isBlameless(fault.kind) || blamed.length > 0
        ? [`${fault.kind} on ${fault.subjectId}: station ${id} was locked out`]
        : [];
    }
    // A pump against no flow is stopped above everything, whatever the reason of it.
    if (
      alarms.some(
        (a) =>
          a.kind === "pumpNoFlow" && site.pocs[w.pocIndex.get(id) ?? -1]?.devices.some((d) => d.id === a.subjectId),
      )
    )
      return [];
    const locked = w.mainlineIndex.get(id);
    const poc = w.pocIndex.get(id);
    const ofPoc = poc === undefined ? undefined : w.systemOfPoc[poc];
    const of = locked === undefined ? ofPoc : w.systemOfMainline[locked];
    // Crossed wires may open a valve of another system, whose main then leaks as far as its own controller can see.
    if (fault.otherId !== undefined && of === systemOfStation(w, fault.otherId)) return [];
    if (subject !== undefined && !isOfMain(fault.kind))
      return [`${fault.kind} on station ${fault.subjectId}: ${id} was locked out`];
    return system !== null && of !== system
      ? [`${fault.kind} on ${fault.subjectId}: ${id} of another system was locked out`]
      : [];
  });
}

const systemOfStation = (w: Waterworks, id: string): number =>
  w.systemOfMainline[w.stationMainline[w.stationIndex.get(id) as number] as number] as number;

const feedOfStation = (w: Waterworks, id: string): string =>
  (w.pocsAbove[w.stationMainline[w.stationIndex.get(id) as number] as number] ?? []).join(",");

/** A lateral over the high limit of what runs, through a whole hold-off and persistence, is found; as many times as its station was judged. */
function unfoundLateral(site: SiteFile, fault: FaultRequest, { runs, lockouts, events }: Simulation): string[] {
  if (fault.kind !== "brokenLateral" || fault.until !== undefined) return [];
  const station = site.stations.find((s) => s.id === fault.subjectId) as Station;
  const w = waterworks(site);
  const excess = 0.6 * (expectedFlow(station)?.lpm ?? 0);
  const begins = Date.parse(events.find((e) => e.type === "open")?.at ?? "") + 1000 * Number(fault.at.slice(1));
  const systemOf = (id: string): number => systemOfStation(w, id);
  const moments = [
    ...new Set(
      runs
        .filter((r) => systemOf(r.stationId) === systemOf(station.id))
        .flatMap((r) => [Date.parse(r.start), Date.parse(r.end)]),
    ),
  ].sort((a, b) => a - b);
  const seen = moments.some((from, i) => {
    const to = moments[i + 1];
    if (to === undefined || to - Math.max(from + 60_000, begins) < 61_000) return false;
    const set = runs
      .filter(
        (r) => systemOf(r.stationId) === systemOf(station.id) && Date.parse(r.start) <= from && Date.parse(r.end) >= to,
      )
      .map((r) => site.stations.find((s) => s.id === r.stationId) as Station);
    if (!set.includes(station)) return false;
    const limits = setLimits(site.policy, set);
    return limits.judged && limits.expectedLpm + excess > limits.highLpm + 1e-6;
  });
  return seen && !lockouts.includes(station.id)
    ? [`the broken lateral of ${station.id} was judged over its limit and not isolated`]
    : [];
}

/** No pump over 60 s without flow (handbook#8-limits), followed second by second; the one that stops it is the 61st. */
function dryPump(site: SiteFile, fault: FaultRequest): string[] {
  const pumped = site.pocs.flatMap((p, i) =>
    p.devices.some((d) => d.kind === "pump") && p.devices.some((d) => d.kind === "flowSensor") ? [i] : [],
  );
  if (pumped.length === 0) return [];
  const begun = beginBenchDay(site, { date: FAULT_NIGHT_DATE, faults: [fault], exact: true });
  if (!begun.ok) return ["refused"];
  const { night, plant, controller, begin, midnight } = begun.day;
  const dryS = site.pocs.map(() => 0);
  controller.begin(begin);
  for (let t = begin; t < midnight || !night.finished || controller.busy; t++) {
    const commands = controller.now;
    if (!controller.busy && plant.atRest(t, commands)) {
      const wake = Math.min(controller.nextChange(t), plant.nextFaultEdge(t), Math.max(midnight, t + 2));
      if (wake > t + 1) t = wake - 2;
    }
    const seen = plant.second(t, commands);
    for (const p of pumped) {
      const runs = commands.pump[p] === true && (seen.pocLpm[p] as number) < 1e-6 && (seen.pocReading[p] ?? 0) < 1e-6;
      dryS[p] = runs ? (dryS[p] as number) + 1 : 0;
      if ((dryS[p] as number) > 61)
        return [`${fault.kind} on ${fault.subjectId}: the pump of ${site.pocs[p]?.id} ran ${dryS[p]} s without flow`];
    }
    controller.second(t + 1, seen);
  }
  return [];
}

/** Healthy stations get their minutes when there is time (no deadline came before the search's minutes were made up): without any lock but the fault's own, nothing else is short. */
function unwateredHealthy(
  site: SiteFile,
  fault: FaultRequest,
  { unwatered, lockouts, stopped, events }: Simulation,
): string[] {
  if (events.some((e) => e.type === "close" && (e.reason === "deadline" || e.reason === "cut"))) return [];
  const w = waterworks(site);
  const subject = w.stationIndex.get(fault.subjectId);
  const own = new Set([fault.subjectId, fault.otherId]);
  if (
    subject === undefined ||
    stopped.length > 0 ||
    lockouts.some((id) => !own.has(id)) ||
    fault.kind === "wrongValve" ||
    fault.kind === "alsoOpens"
  )
    return [];
  const calm = plan(site, FAULT_NIGHT_DATE);
  if (calm.shortfalls.length > 0) return [];
  return unwatered
    .filter((u) => !own.has(u.stationId) && u.minutes > 0.1)
    .map((u) => `${fault.kind} on ${fault.subjectId}: healthy ${u.stationId} is ${u.minutes.toFixed(1)} min short`);
}
