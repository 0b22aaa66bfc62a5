import { nth } from "../checked.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { CapacityCalendar } from "./capacity.ts";
import type { Entry, ProgramStart } from "./queue.ts";

/** Any water at all, L/min. */
const ANY_LPM = 1e-3;

/** Sets that are tried before a station is let wait for company. */
const MOST_TRIED = 120;
type Never = "lockedOut" | "noSupply" | "aboveCeiling" | "pumpMinimum";

/**
 * Why an entry can never run tonight, whatever runs beside it: locked out, no supply, alone above a ceiling, or a pump minimum that no
 * companions reach. Such an entry is a shortfall from the start of its program and holds nothing else back. Null: it can.
 */
export function neverRuns(
  w: Waterworks,
  capacity: CapacityCalendar,
  starts: ProgramStart[],
  entry: Entry,
  lockedStations: ReadonlySet<number>,
): Never | null {
  const alone = neverRunsAlone(w, capacity, entry, lockedStations);
  if (alone) return alone;
  return pumpNeverReached(w, capacity, starts, entry, lockedStations) ? "pumpMinimum" : null;
}

/** The same without its pump's minimum: what no company could change. */
export function neverRunsAlone(
  w: Waterworks,
  capacity: CapacityCalendar,
  entry: Entry,
  lockedStations: ReadonlySet<number>,
): Exclude<Never, "pumpMinimum"> | null {
  const mainline = nth(w.stationMainline, entry.station);
  if (lockedStations.has(entry.station) || capacity.lockedMainlines.has(mainline)) return "lockedOut";
  const group = groupOf(w, capacity, entry);
  if (!capacity.everGives(group, mainline, ANY_LPM)) {
    const locked =
      (w.pocsAbove[mainline] ?? []).some((p) => capacity.lockedPocs.has(p)) ||
      (w.mainsAbove[mainline] ?? []).some((m) => capacity.lockedMainlines.has(m));
    return locked ? "lockedOut" : "noSupply";
  }
  if (entry.flowLpm !== null && !capacity.everGives(group, mainline, entry.flowLpm)) return "aboveCeiling";
  return null;
}

const groupOf = (w: Waterworks, capacity: CapacityCalendar, e: Entry): number =>
  nth(capacity.groupOfController, nth(w.stationController, e.station));
const callsPump = (w: Waterworks, e: Entry, poc: number): boolean =>
  w.site.stations[e.station]?.usesPump !== false &&
  (w.pocsAbove[nth(w.stationMainline, e.station)] ?? []).includes(poc);

/**
 * No set of tonight's stations with this one in it leaves every pump that it calls at its minimum: sets are tried within ceilings and numbers at once, largest flows first.
 * Where trying does not come to an end, it may.
 */
function pumpNeverReached(
  w: Waterworks,
  capacity: CapacityCalendar,
  starts: ProgramStart[],
  entry: Entry,
  lockedStations: ReadonlySet<number>,
): boolean {
  const { site } = w;
  if (entry.flowLpm === null || site.stations[entry.station]?.usesPump === false) return false;
  const minimum = site.pocs.map((p) =>
    Math.max(0, ...p.devices.map((d) => (d.kind === "pump" ? (d.minFlowLpm ?? 0) : 0))),
  );
  const above = (w.pocsAbove[nth(w.stationMainline, entry.station)] ?? []).filter((p) => !capacity.lockedPocs.has(p));
  if (!above.some((p) => nth(minimum, p) > 0)) return false;
  const group = groupOf(w, capacity, entry);
  // Controllers that do not know of each other may lift each other's pump; nobody can say.
  if (starts.some((s) => s.entries.some((e) => groupOf(w, capacity, e) !== group))) return false;
  const assignment = capacity.assignment(group, null);
  /** POCs whose pump runs under its minimum with this set; null where the ceilings do not allow it. */
  const under = (set: readonly Entry[]): number[] | null => {
    const demand = site.mainlines.map(() => 0);
    for (const e of set) {
      const m = nth(w.stationMainline, e.station);
      demand[m] = nth(demand, m) + (e.flowLpm ?? 0);
    }
    if (!assignment.assign(demand)) return null;
    const { poc } = assignment.flows();
    return minimum.flatMap((least, p) => {
      const flow = poc[p] ?? 0;
      return flow > ANY_LPM && flow < least - ANY_LPM && set.some((e) => callsPump(w, e, p)) ? [p] : [];
    });
  };
  const company = largestFirst(starts);
  let tried = 0;
  const reaches = (set: Entry[], from: number): boolean => {
    if (tried++ >= MOST_TRIED) return true;
    const short = under(set);
    if (short === null) return false;
    if (short.length === 0) return true;
    for (let i = from; i < company.length; i++) {
      const e = nth(company, i);
      if (lockedStations.has(e.station) || !short.some((p) => callsPump(w, e, p))) continue;
      if (roomFor(w, set, e) && reaches([...set, e], i + 1)) return true;
    }
    return false;
  };
  return !reaches([entry], 0);
}

const SORTED = new WeakMap<ProgramStart[], Entry[]>();

/** Tonight's entries with a flow, the largest first. */
function largestFirst(starts: ProgramStart[]): Entry[] {
  const known = SORTED.get(starts);
  if (known) return known;
  const sorted = starts
    .flatMap((s) => s.entries.filter((e) => e.flowLpm !== null))
    .sort((a, b) => (b.flowLpm ?? 0) - (a.flowLpm ?? 0));
  SORTED.set(starts, sorted);
  return sorted;
}

/** Do the numbers at once let an entry run beside these? */
function roomFor(w: Waterworks, set: readonly Entry[], e: Entry): boolean {
  const { site } = w;
  const controller = nth(w.stationController, e.station);
  let [inProgram, onController] = [0, 0];
  for (const r of set) {
    if (r.station === e.station) return false;
    if (r.program === e.program) inProgram++;
    if (w.stationController[r.station] === controller) onController++;
  }
  return (
    inProgram < (site.programs[e.program]?.maxStationsAtOnce ?? 1) &&
    onController < (site.controllers[controller]?.maxStationsAtOnce ?? Number.POSITIVE_INFINITY) &&
    set.length < (site.site.maxStationsAtOnce ?? Number.POSITIVE_INFINITY)
  );
}
