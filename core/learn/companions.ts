import { nth } from "../checked.ts";
import { FlowAssignment } from "../network/flow-assignment.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";

/** Over the minimum by so much, so that a companion that reads a little low still keeps the pump in its range. */
const MARGIN = 1.05;

/** The largest minimum flow of the pumps that can feed a station, L/min. */
export function pumpMinimumLpm(w: Waterworks, station: number): number {
  const pocs = w.pocsAbove[nth(w.stationMainline, station)] ?? [];
  return Math.max(
    0,
    ...pocs.flatMap((p) => (w.site.pocs[p]?.devices ?? []).map((d) => (d.kind === "pump" ? (d.minFlowLpm ?? 0) : 0))),
  );
}

/**
 * Stations to run beside one that is under its pump's minimum: as few as keep the pump over it, largest first, behind the same sensors and within the
 * ceilings together with it. Their own flow is read first, then both; the difference is the station's (handbook#7-learning).
 *
 * @returns places in the file; null where no company does
 */
export function companionsFor(w: Waterworks, station: number): number[] | null {
  const { site } = w;
  const main = nth(w.stationMainline, station);
  const minimum = pumpMinimumLpm(w, station) * MARGIN;
  const pocs = (w.pocsAbove[main] ?? []).join();
  const flow = expectedFlow(nth(site.stations, station))?.lpm ?? 0;
  const able = site.stations
    .flatMap((s, i) => {
      const lpm = expectedFlow(s)?.lpm ?? 0;
      const same = (w.pocsAbove[nth(w.stationMainline, i)] ?? []).join() === pocs;
      return i !== station && same && lpm > 0 && !s.lockedOut && s.monitored !== false && s.usesPump !== false
        ? [{ i, lpm }]
        : [];
    })
    .sort((a, b) => b.lpm - a.lpm || a.i - b.i);
  const limits = new FlowAssignment(w, {
    source: [...w.sourceCeiling],
    poc: [...w.pocCeiling],
    mainline: [...w.mainlineCeiling],
  });
  const fits = (chosen: { i: number; lpm: number }[]): boolean => {
    const demand = site.mainlines.map(() => 0);
    for (const c of [...chosen, { i: station, lpm: flow }])
      demand[nth(w.stationMainline, c.i)] = nth(demand, nth(w.stationMainline, c.i)) + c.lpm;
    return limits.assign(demand);
  };
  const chosen: { i: number; lpm: number }[] = [];
  // The smallest single one that suffices disturbs the least; else the largest are put together.
  const single = [...able].reverse().find((c) => c.lpm >= minimum && fits([c]));
  if (single) return [single.i];
  for (const c of able) {
    if (!fits([...chosen, c])) continue;
    chosen.push(c);
    if (chosen.reduce((sum, x) => sum + x.lpm, 0) >= minimum) return chosen.map((x) => x.i);
  }
  return null;
}
