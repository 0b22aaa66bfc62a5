import { nth } from "../checked.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { CapacityCalendar } from "./capacity.ts";
import type { Entry, ProgramStart } from "./queue.ts";

/** Any water at all, L/min. */
const ANY_LPM = 1e-3;

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
): "lockedOut" | "noSupply" | "aboveCeiling" | "pumpMinimum" | null {
  const mainline = nth(w.stationMainline, entry.station);
  if (lockedStations.has(entry.station) || capacity.lockedMainlines.has(mainline)) return "lockedOut";
  const group = nth(capacity.groupOfController, nth(w.stationController, entry.station));
  if (!capacity.everGives(group, mainline, ANY_LPM)) {
    const locked =
      (w.pocsAbove[mainline] ?? []).some((p) => capacity.lockedPocs.has(p)) ||
      (w.mainsAbove[mainline] ?? []).some((m) => capacity.lockedMainlines.has(m));
    return locked ? "lockedOut" : "noSupply";
  }
  if (entry.flowLpm !== null && !capacity.everGives(group, mainline, entry.flowLpm)) return "aboveCeiling";
  return pumpNeverReached(w, capacity, starts, entry) ? "pumpMinimum" : null;
}

/** The most that can flow beside this station, by numbers at once and ceilings, stays under its pump's minimum. */
function pumpNeverReached(w: Waterworks, capacity: CapacityCalendar, starts: ProgramStart[], entry: Entry): boolean {
  const { site } = w;
  if (entry.flowLpm === null || site.stations[entry.station]?.usesPump === false) return false;
  const pocs = (w.pocsAbove[nth(w.stationMainline, entry.station)] ?? []).filter((p) => !capacity.lockedPocs.has(p));
  const minimum = (p: number): number =>
    Math.max(0, ...(site.pocs[p]?.devices ?? []).map((d) => (d.kind === "pump" ? (d.minFlowLpm ?? 0) : 0)));
  return (
    pocs.length > 0 &&
    pocs.every(
      (p) => minimum(p) > 0 && minimum(p) > Math.min(mostBeside(w, starts, entry, p), nth(w.pocCeiling, p)) + 1e-6,
    )
  );
}

function mostBeside(w: Waterworks, starts: ProgramStart[], entry: Entry, poc: number): number {
  const { site } = w;
  const flowOf = new Map<number, { lpm: number; program: number; controller: number }>();
  for (const start of starts)
    for (const e of start.entries) {
      const reaches = (w.pocsAbove[nth(w.stationMainline, e.station)] ?? []).includes(poc);
      if (e.station !== entry.station && reaches && e.flowLpm !== null)
        flowOf.set(e.station, {
          lpm: e.flowLpm,
          program: e.program,
          controller: nth(w.stationController, e.station),
        });
    }
  const inProgram = new Map([[entry.program, 1]]);
  const onController = new Map([[nth(w.stationController, entry.station), 1]]);
  let onSite = 1;
  let total = entry.flowLpm ?? 0;
  for (const other of [...flowOf.values()].sort((a, b) => b.lpm - a.lpm)) {
    const p = inProgram.get(other.program) ?? 0;
    const c = onController.get(other.controller) ?? 0;
    if (p >= (site.programs[other.program]?.maxStationsAtOnce ?? 1)) continue;
    if (c >= (site.controllers[other.controller]?.maxStationsAtOnce ?? Number.POSITIVE_INFINITY)) continue;
    if (onSite >= (site.site.maxStationsAtOnce ?? Number.POSITIVE_INFINITY)) break;
    inProgram.set(other.program, p + 1);
    onController.set(other.controller, c + 1);
    onSite++;
    total += other.lpm;
  }
  return total;
}
