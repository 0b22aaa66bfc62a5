import { got, nth } from "../checked.ts";
import type { CapacityCalendar } from "../dispatch/capacity.ts";
import type { FlowMoment } from "../dispatch/plan.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { FlowAssignment } from "../network/flow-assignment.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { HydraulicModel } from "./network-model.ts";
import type { NetworkSet } from "./solver.ts";

/**
 * A running set as the solver takes it. Each POC stands open to the sources that the flow assignment draws on, else to its first by
 * priority; pumps run when a station behind them calls for them; what is locked out or switched off is shut.
 * @param running places of the stations in the file.
 * @param sourceLpm what the assignment takes from each source.
 */
export function networkSet(w: Waterworks, model: HydraulicModel, running: number[], sourceLpm: number[]): NetworkSet {
  const { site } = w;
  const stationLpm = site.stations.map(() => 0);
  for (const s of running) stationLpm[s] = expectedFlow(nth(site.stations, s))?.lpm ?? 0;
  const sourceOfExit = new Map(
    model.links.flatMap((l) =>
      model.nodes[l.from]?.kind === "reservoir" ? [[l.to, got(w.sourceIndex, l.subjectId)] as const] : [],
    ),
  );
  const open = site.pocs.map((_, p) => {
    const possible = w.pocSources[p] ?? [];
    const drawn = possible.filter((s) => (sourceLpm[s] ?? 0) > 0);
    if (drawn.length > 0) return new Set(drawn);
    return new Set(
      [...possible].sort((a, b) => (site.sources[a]?.priority ?? 1) - (site.sources[b]?.priority ?? 1)).slice(0, 1),
    );
  });
  const pumped = site.pocs.map((_, p) =>
    running.some(
      (s) => site.stations[s]?.usesPump !== false && (w.pocsAbove[nth(w.stationMainline, s)] ?? []).includes(p),
    ),
  );
  const closedLinks = new Set<number>();
  model.links.forEach((l, i) => {
    const p = w.pocIndex.get(l.subjectId);
    const m = w.mainlineIndex.get(l.subjectId);
    if (l.kind === "pump" && p !== undefined && !pumped[p]) closedLinks.add(i);
    if (l.kind !== "joint") return;
    const source = sourceOfExit.get(l.from);
    if (p !== undefined && source !== undefined && !open[p]?.has(source)) closedLinks.add(i);
    if (p !== undefined && site.pocs[p]?.lockedOut) closedLinks.add(i);
    if (m !== undefined && site.mainlines[m]?.lockedOut) closedLinks.add(i);
  });
  return { stationLpm, closedLinks };
}

/** Each station by itself; a station that no assignment can carry alone is left out. */
export function aloneSets(
  w: Waterworks,
  model: HydraulicModel,
  capacity: CapacityCalendar,
): { station: number; set: NetworkSet }[] {
  return w.site.stations.flatMap((s, i) => {
    const flow = expectedFlow(s);
    if (!flow) return [];
    const demand = w.site.mainlines.map((_, m) => (m === w.stationMainline[i] ? flow.lpm : 0));
    const assignment = capacity.assignment(nth(capacity.groupOfController, nth(w.stationController, i)), null);
    if (!assignment.assign(demand)) return [];
    return [{ station: i, set: networkSet(w, model, [i], assignment.flows().source) }];
  });
}

export type NightSet = { at: number; running: number[]; totalLpm: number; set: NetworkSet };

/** The different sets of a night, each at the first moment it runs. */
export function nightSets(
  w: Waterworks,
  model: HydraulicModel,
  runs: { station: number; start: number; end: number }[],
  moments: FlowMoment[],
): NightSet[] {
  const seen = new Set<string>();
  return moments.flatMap((moment) => {
    const running = [
      ...new Set(runs.filter((r) => r.start <= moment.at && moment.at < r.end).map((r) => r.station)),
    ].sort((a, b) => a - b);
    const drawn = moment.source.map((q, s) => (q > 0 ? s : -1)).join();
    const key = `${running.join()}|${drawn}`;
    if (running.length === 0 || seen.has(key)) return [];
    seen.add(key);
    return [
      {
        at: moment.at,
        running,
        totalLpm: moment.poc.reduce((a, q) => a + q, 0),
        set: networkSet(w, model, running, moment.source),
      },
    ];
  });
}

/**
 * The design set: stations in file order, farthest along their mains first, as many as the ceilings carry. It stands for
 * "everything running up to the ceiling" (handbook#5-ceilings) where no night is planned yet.
 */
export function designSet(
  w: Waterworks,
  model: HydraulicModel,
  capacity: CapacityCalendar,
): { running: number[]; set: NetworkSet } {
  const ceilings = {
    source: w.sourceCeiling.map((c, i) => (w.site.sources[i]?.enabled === false ? 0 : c)),
    poc: w.pocCeiling.map((c, i) => (capacity.lockedPocs.has(i) ? 0 : c)),
    mainline: w.mainlineCeiling.map((c, i) => (capacity.lockedMainlines.has(i) ? 0 : c)),
  };
  const assignment = new FlowAssignment(w, ceilings);
  const order = w.site.stations.map((_, i) => i).sort((a, b) => nth(model.stationNode, b) - nth(model.stationNode, a));
  const running = order.filter((i) => {
    const lpm = expectedFlow(nth(w.site.stations, i))?.lpm;
    return lpm !== undefined && lpm > 0 && assignment.tryAdd(nth(w.stationMainline, i), lpm);
  });
  return { running: running.sort((a, b) => a - b), set: networkSet(w, model, running, assignment.flows().source) };
}
