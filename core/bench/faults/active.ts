import type { EpochS } from "../../dates/wall-time.ts";
import { faultSpec } from "./kinds.ts";
import type { Fault } from "./resolve.ts";
import type { FaultEffect } from "./spec.ts";

/** Faults of a bench day, asked for by what they do. */
export class ActiveFaults {
  readonly all: readonly Fault[];
  private readonly byEffect = new Map<keyof FaultEffect, Fault[]>();

  constructor(faults: readonly Fault[]) {
    this.all = faults;
    for (const fault of faults)
      for (const effect of Object.keys(faultSpec(fault.kind).effect) as (keyof FaultEffect)[])
        this.byEffect.set(effect, [...(this.byEffect.get(effect) ?? []), fault]);
  }

  /** Those that do this to anything now. */
  doing(effect: keyof FaultEffect, t: EpochS): Fault[] {
    return (this.byEffect.get(effect) ?? []).filter((f) => f.from <= t && t < f.to);
  }

  /** The first that does this to the subject now. */
  on(effect: keyof FaultEffect, subjectId: string | undefined, t: EpochS): Fault | undefined {
    const faults = this.byEffect.get(effect);
    return faults?.find((f) => f.subjectId === subjectId && f.from <= t && t < f.to);
  }

  /** Sizes of all that do this to the subject now, added up. */
  sum(effect: keyof FaultEffect, subjectId: string | undefined, t: EpochS): number {
    const faults = this.byEffect.get(effect);
    if (!faults) return 0;
    let sum = 0;
    for (const f of faults) if (f.subjectId === subjectId && f.from <= t && t < f.to) sum += f.size;
    return sum;
  }

  /** Share of a station's own flow that throttling leaves. */
  kept(stationId: string | undefined, t: EpochS): number {
    return Math.max(0, 1 - this.sum("throttles", stationId, t));
  }

  /** Next instant after `t` at which one begins or ends; Infinity when none does. */
  nextEdge(t: EpochS): EpochS {
    let next = Number.POSITIVE_INFINITY;
    for (const f of this.all) for (const at of [f.from, f.to]) if (at > t && at < next) next = at;
    return next;
  }
}
