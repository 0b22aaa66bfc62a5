import type { CapacityCalendar } from "../dispatch/capacity.ts";
import { neverRuns } from "../dispatch/never-runs.ts";
import type { ProgramStart } from "../dispatch/queue.ts";
import type { FlowAssignment } from "../network/flow-assignment.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Minimums, Tuning, Work } from "./fast-facts.ts";

/** Pumps with a minimum flow, in the order of the file: their POCs and minimums. */
function pumpsOf(w: Waterworks): { poc: number; minLpm: number }[] {
  return w.site.pocs.flatMap((p, poc) =>
    p.devices.flatMap((d) => (d.kind === "pump" && d.minFlowLpm !== undefined ? [{ poc, minLpm: d.minFlowLpm }] : [])),
  );
}

/** Which of them a station starts, by place. */
export function minimumsCalled(w: Waterworks, station: number): number[] {
  if (w.site.stations[station]?.usesPump === false) return [];
  const above = w.pocsAbove[w.stationMainline[station] as number] ?? [];
  return pumpsOf(w).flatMap(({ poc }, n) => (above.includes(poc) ? [n] : []));
}

/** What pumps must carry and do; null where none has a minimum. */
export function minimumsOf(w: Waterworks, capacity: CapacityCalendar, instants: readonly number[]): Minimums | null {
  const pumps = pumpsOf(w);
  if (pumps.length === 0) return null;
  const lpm = pumps.map((p) => p.minLpm);
  const behind = pumps.map(({ poc }) => w.site.mainlines.map((_, m) => (w.pocsAbove[m] ?? []).includes(poc)));
  const fedByOne = w.pocsAbove.every((above) => above.length < 2 || !above.some((p) => pumps.some((x) => x.poc === p)));
  if (fedByOne)
    return {
      lpm,
      carried: (_, running) => behind.map((mains) => running.reduce((sum, r) => sum + (mains[r.main] ? r.flow : 0), 0)),
    };
  // Where several feed a main, what each gives is told by the sources' priorities.
  const known = new Map<string, FlowAssignment>();
  const assignment = (group: number, period: number): FlowAssignment => {
    const key = `${group} ${period}`;
    const made = known.get(key) ?? capacity.assignment(group, instants[period] as number);
    known.set(key, made);
    return made;
  };
  return {
    lpm,
    carried: (period, running) => {
      const carried = pumps.map(() => 0);
      for (let group = 0; group < capacity.groupCount; group++) {
        const demand = w.site.mainlines.map(() => 0);
        for (const r of running) if (r.group === group) demand[r.main] = (demand[r.main] as number) + r.flow;
        const at = assignment(group, period);
        at.assign(demand);
        const { poc } = at.flows();
        for (const [n, p] of pumps.entries()) carried[n] = (carried[n] as number) + (poc[p.poc] as number);
      }
      return carried;
    },
  };
}

/** What can never run for the minimum of its pump: it hangs on the numbers at once, and on nothing else that is tuned. */
export class NeverReached {
  private readonly w: Waterworks;
  private readonly capacity: CapacityCalendar;
  private readonly starts: ProgramStart[];
  private readonly work: Work[];
  private readonly known = new Map<string, ReadonlySet<Work>>();

  constructor(w: Waterworks, capacity: CapacityCalendar, starts: ProgramStart[], work: Work[][]) {
    this.w = w;
    this.capacity = capacity;
    this.starts = starts;
    this.work = work.flat();
  }

  under(tuning: Tuning): ReadonlySet<Work> {
    const key = tuning.map((t) => t.atOnce).join();
    const known = this.known.get(key);
    if (known) return known;
    const { site } = this.w;
    const programs = site.programs.map((p, i) => ({ ...p, maxStationsAtOnce: tuning[i]?.atOnce ?? 1 }));
    const w = { ...this.w, site: { ...site, programs } };
    const locked = new Set(site.stations.flatMap((s, i) => (s.lockedOut ? [i] : [])));
    const made = new Set(
      this.work.filter(
        (x) => x.minimums.length > 0 && neverRuns(w, this.capacity, this.starts, x.entry, locked) !== null,
      ),
    );
    this.known.set(key, made);
    return made;
  }
}
