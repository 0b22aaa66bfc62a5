import type { CapacityCalendar } from "../dispatch/capacity.ts";
import { FlowAssignment } from "../network/flow-assignment.ts";
import type { Waterworks } from "../network/waterworks.ts";

/** Groups of mainlines, a bit for each, and what can reach each of them together from one instant on, L/min. */
export type Cuts = { masks: number[]; periods: { from: number; cap: Float64Array }[] };

/** Asked of a group of mainlines, to see what it can be given; over the other it is given whatever it asks. */
const ASKED_LPM = 1e7;
const UNLIMITED_LPM = 9e6;

/** Of one dispatch group, at each of these instants: the groups of mainlines that ask something at one of them which smaller ones do not imply. */
export function bindingCuts(
  w: Waterworks,
  capacity: CapacityCalendar,
  group: number,
  instants: readonly number[],
): Cuts {
  const caps = instants.map((at) => capsOf(w, capacity, group, at));
  const masks = [...new Set(caps.flatMap(bindingOf))].sort((a, b) => a - b);
  return {
    masks,
    periods: caps.map((cap, i) => ({
      from: instants[i] as number,
      cap: Float64Array.from(masks, (mask) => cap[mask] as number),
    })),
  };
}

/** What can reach every group of mainlines together at an instant. */
function capsOf(w: Waterworks, capacity: CapacityCalendar, group: number, at: number): Float64Array {
  const mains = w.site.mainlines.length;
  const full = capacity.capacities(group, at);
  const cap = new Float64Array(1 << mains);
  for (let mask = 1; mask < 1 << mains; mask++) {
    const flow = new FlowAssignment(w, full);
    flow.assign(w.site.mainlines.map((_, m) => ((mask >> m) & 1 ? ASKED_LPM : 0)));
    cap[mask] = flow.flows().source.reduce((a, b) => a + b, 0);
  }
  return cap;
}

/** Those that no others imply: neither its parts together, nor a larger one that can be given no more. Parts first, so that no two imply each other where one can be given nothing. */
function bindingOf(cap: Float64Array): number[] {
  const at = (mask: number): number => cap[mask] as number;
  const whole: number[] = [];
  for (let mask = 1; mask < cap.length; mask++) {
    let implied = at(mask) >= UNLIMITED_LPM;
    for (let part = (mask - 1) & mask; part > 0 && !implied; part = (part - 1) & mask)
      if (at(part) + at(mask ^ part) <= at(mask) + 1e-9) implied = true;
    if (!implied) whole.push(mask);
  }
  return whole.filter(
    (mask) => !whole.some((larger) => larger !== mask && (larger & mask) === mask && at(larger) <= at(mask) + 1e-9),
  );
}
