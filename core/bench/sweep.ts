import { plan } from "../dispatch/plan.ts";
import { waterworks } from "../network/waterworks.ts";
import type { Policy, SiteFile } from "../site-file/schema.ts";
import type { FaultKind } from "./faults.ts";
import { type Simulation, simulate } from "./simulate.ts";

/** Faults that a sweep drops on stations, one at a time, from the moment the station first opens. */
export const SWEPT = ["brokenLateral", "brokenOutlet", "stuckClosed", "clogged", "stuckOpen"] as const satisfies readonly FaultKind[];
export type SweptKind = (typeof SWEPT)[number];
/** What came of it: shut off in good time, late, told but not shut off, nothing said, or something healthy shut off. */
export type SweepOutcome = "found" | "late" | "told" | "missed" | "wrong";
export type SweepCell = {
  stationId: string; kind: SweptKind; policy: string; outcome: SweepOutcome;
  /** From its opening to its lockout; null where it was not locked out. */
  seconds: number | null;
  lostL: number;
  /** Minutes that other stations lost by it. */
  othersMin: number;
  /** What healthy was shut off. */
  wrongly: string[];
};
export type SweptPolicy = { name: string; policy: Policy };
export type SweepOptions = {
  date: string; kinds: readonly SweptKind[]; policies: readonly SweptPolicy[]; stationIds?: readonly string[];
  /** Hears each station as it is done, with how many are; false cancels. */
  onStation?: (cells: SweepCell[], done: number, of: number) => boolean;
};

/** Every station × every fault × every policy on the exact bench (handbook 9). Null when cancelled. */
export function sweepFaults(site: SiteFile, options: SweepOptions): SweepCell[] | null {
  const wanted = options.stationIds && new Set(options.stationIds);
  const { runs } = plan(site, options.date);
  const first = runs[0] ? Date.parse(runs[0].start) / 1000 : 0;
  const stations = site.stations.filter((s) => (!wanted || wanted.has(s.id)) && runs.some((r) => r.stationId === s.id));
  const calmBy = options.policies.map(({ policy }) => simulate({ ...site, policy }, { date: options.date, exact: true, passCalm: true }));
  const cells: SweepCell[] = [];
  for (const [n, station] of stations.entries()) {
    const opens = Date.parse(runs.find((r) => r.stationId === station.id)?.start as string) / 1000;
    const mine: SweepCell[] = [];
    for (const [k, { name, policy }] of options.policies.entries())
      for (const kind of options.kinds) {
        const judged = { ...site, policy };
        const night = simulate(judged, { date: options.date, exact: true, passCalm: true, faults: [{ kind, subjectId: station.id, at: `+${opens - first}` }] });
        const calm = calmBy[k];
        if (night.ok && calm?.ok) mine.push(judge(judged, station.id, kind, name, opens, night.result, calm.result));
      }
    cells.push(...mine);
    if (options.onStation?.(mine, n + 1, stations.length) === false) return null;
  }
  return cells;
}

function judge(site: SiteFile, stationId: string, kind: SweptKind, policy: string, opens: number, night: Simulation, calm: Simulation): SweepCell {
  const w = waterworks(site);
  const main = w.stationMainline[w.stationIndex.get(stationId) as number] as number;
  // A valve that will not close is the main's: its lockout and that of what feeds it is right.
  const holders = new Set([stationId, ...(kind === "stuckOpen" ? [...(w.mainsAbove[main] ?? []).map((m) => site.mainlines[m]?.id as string), ...(w.pocsAbove[main] ?? []).map((p) => site.pocs[p]?.id as string)] : [])]);
  const locked = night.lockouts.filter((id) => holders.has(id));
  const wrongly = night.lockouts.filter((id) => !holders.has(id) && !calm.lockouts.includes(id));
  const at = night.events.find((e) => e.type === "lockedOut" && holders.has(e.subjectId))?.at;
  const seconds = at === undefined ? null : Date.parse(at) / 1000 - opens;
  const told = night.alarms.length > calm.alarms.length;
  const sum = (of: Simulation): number => of.unwatered.filter((u) => u.stationId !== stationId).reduce((total, u) => total + u.minutes, 0);
  return {
    stationId, kind, policy, seconds, wrongly, lostL: Math.max(0, Math.round(night.totals.lostL - calm.totals.lostL)), othersMin: Math.max(0, Math.round(10 * (sum(night) - sum(calm))) / 10),
    outcome: wrongly.length > 0 ? "wrong" : locked.length > 0 ? (seconds !== null && seconds <= inGoodTimeS(site, main) ? "found" : "late") : told ? "told" : "missed",
  };
}

/** Tripped in its first set and found by the first search: hold-off and persistence three times over (the trip, the main, the station), the waits, the fill and a minute. */
function inGoodTimeS(site: SiteFile, main: number): number {
  const holdOffS = Math.max(...site.mainlines.map((m) => m.holdOffS ?? 60));
  const { policy } = site;
  return 3 * (holdOffS + policy.persistenceS) + (policy.closeWaitS ?? 30) + (policy.retest ? (policy.retestWaitS ?? 60) + holdOffS + policy.persistenceS : 0) + 60 + (site.mainlines[main]?.fillS ?? 0);
}

/** The cells that cost most for want of being found: missed, told or late by litres lost, wrong ones first. */
export function worstGaps(cells: readonly SweepCell[], count = 10): SweepCell[] {
  const weight = (c: SweepCell): number => (c.outcome === "wrong" ? 1e9 : 0) + c.lostL + 5 * c.othersMin;
  return cells.filter((c) => c.outcome !== "found").sort((a, b) => weight(b) - weight(a)).slice(0, count);
}
