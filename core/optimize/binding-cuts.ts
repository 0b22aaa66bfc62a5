import type { CapacityCalendar } from "../dispatch/capacity.ts";
import { FlowAssignment } from "../network/flow-assignment.ts";
import type { Waterworks } from "../network/waterworks.ts";

/** A group of mainlines, a bit for each, and what can reach it together, L/min. */
export type Cut = { mask: number; cap: number };

/** For every group of mainlines what can reach it together, without those that smaller groups imply. */
export function bindingCuts(w: Waterworks, capacity: CapacityCalendar, at: number): Cut[] {
  const mains = w.site.mainlines.length;
  const full = capacity.capacities(0, at);
  const cap = new Float64Array(1 << mains);
  for (let mask = 1; mask < 1 << mains; mask++) {
    const flow = new FlowAssignment(w, full);
    flow.assign(w.site.mainlines.map((_, m) => ((mask >> m) & 1 ? 1e7 : 0)));
    cap[mask] = flow.flows().source.reduce((a, b) => a + b, 0);
  }
  const cuts: Cut[] = [];
  for (let mask = 1; mask < 1 << mains; mask++) {
    let implied = (cap[mask] as number) >= 9e6;
    // A larger group that can be given no more asks at least as much of this one.
    for (let m = 0; m < mains && !implied; m++)
      if (!((mask >> m) & 1) && (cap[mask | (1 << m)] as number) <= (cap[mask] as number) + 1e-9) implied = true;
    for (let part = (mask - 1) & mask; part > 0 && !implied; part = (part - 1) & mask)
      if ((cap[part] as number) + (cap[mask ^ part] as number) <= (cap[mask] as number) + 1e-9) implied = true;
    if (!implied) cuts.push({ mask, cap: cap[mask] as number });
  }
  return cuts;
}
