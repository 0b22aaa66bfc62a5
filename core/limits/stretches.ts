import { got, nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { PlanRun } from "../dispatch/plan.ts";
import { holdOffS } from "../judge/system.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";

/** An unbroken stretch of one set of stations behind one connected system, between two valve changes. */
export type Stretch = {
  system: number;
  from: EpochS;
  to: EpochS;
  /** Places in the file. */
  stations: number[];
  /** Judged from this instant on: hold-off over (handbook#8-limits). At `to` or later where it never is. */
  judgedFrom: EpochS;
};

/** What runs together, stretch by stretch, in each connected system; `judged` only where every POC of it has a flow sensor and one of the set is monitored. */
export function stretchesOf(w: Waterworks, runs: readonly PlanRun[]): Stretch[] {
  return stretchesBetween(
    w,
    runs.map((r) => ({
      s: got(w.stationIndex, r.stationId),
      from: Date.parse(r.start) / 1000,
      to: Date.parse(r.end) / 1000,
    })),
  );
}

/** The same of runs as the dispatcher keeps them; `s` is a station's place in the file. */
export function stretchesBetween(w: Waterworks, all: readonly { s: number; from: EpochS; to: EpochS }[]): Stretch[] {
  const { site } = w;
  const found: Stretch[] = [];
  for (let system = 0; system < w.systemCount; system++) {
    const mine = all
      .filter((r) => w.systemOfMainline[nth(w.stationMainline, r.s)] === system)
      .sort((a, b) => a.from - b.from);
    if (mine.length === 0) continue;
    const mainlines = site.mainlines.flatMap((_, i) => (w.systemOfMainline[i] === system ? [i] : []));
    const seen = systemIsSensed(w, system);
    const changes = [...new Set(mine.flatMap((r) => [r.from, r.to]))].sort((a, b) => a - b);
    let first = 0;
    for (let i = 0; i + 1 < changes.length; i++) {
      const [from, to] = [nth(changes, i), nth(changes, i + 1)];
      while ((mine[first]?.to ?? Number.POSITIVE_INFINITY) <= from) first++;
      const stations = [...new Set(mine.slice(first).flatMap((r) => (r.from <= from && r.to >= to ? [r.s] : [])))];
      if (stations.length === 0) continue;
      found.push({
        system,
        from,
        to,
        stations,
        judgedFrom:
          seen && stations.some((s) => site.stations[s]?.monitored !== false)
            ? Math.min(to, from + holdOffS(w, { mainlines }, stations))
            : to,
      });
    }
  }
  return found;
}

/** Every point of connection of the system is seen by a sensor, so its sum can be judged. */
export function systemIsSensed(w: Waterworks, system: number): boolean {
  const pocs = w.site.pocs.flatMap((_, p) => (w.systemOfPoc[p] === system ? [p] : []));
  return pocs.length > 0 && pocs.every((p) => ["own", "mainlines"].includes(pocSensing(w, p).by));
}
