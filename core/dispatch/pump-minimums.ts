import { nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { FlowsNow } from "./flows-now.ts";
import type { Entry } from "./queue.ts";

/** So long a pump may run under its minimum flow, s. */
const PUMP_UNDER_MINIMUM_S = 60;
const NEGLIGIBLE_LPM = 1e-6;

/** `alone`: all that is behind its POC is fed by that POC alone, so that it carries just what is asked there. */
type PumpMinimum = { poc: number; minLpm: number; alone: boolean; deadline: EpochS | null };

/** Pumps with a minimum flow: which run under it with the stations now open, and since when (site-file#pump-minimum). */
export class PumpMinimums {
  private readonly pumps: PumpMinimum[];
  private readonly w: Waterworks;
  private readonly flows: FlowsNow;
  private readonly running: () => Entry[];

  constructor(w: Waterworks, flows: FlowsNow, running: () => Entry[]) {
    this.w = w;
    this.flows = flows;
    this.running = running;
    this.pumps = w.site.pocs.flatMap((p, poc) => {
      const alone = w.pocsAbove.every((above) => !above.includes(poc) || above.length === 1);
      return p.devices.flatMap((d) =>
        d.kind === "pump" && d.minFlowLpm !== undefined ? [{ poc, minLpm: d.minFlowLpm, alone, deadline: null }] : [],
      );
    });
  }

  /** Does the entry's station start the pump of this POC? */
  calls(e: Entry, poc: number): boolean {
    return (
      this.w.site.stations[e.station]?.usesPump !== false &&
      (this.w.pocsAbove[nth(this.w.stationMainline, e.station)] ?? []).includes(poc)
    );
  }

  /** Pumps that run under their minimum flow with the stations now open. */
  under(t: EpochS): PumpMinimum[] {
    if (this.pumps.length === 0 || this.running().length === 0) return [];
    let all: number[] | null = null;
    return this.pumps.filter((pump) => {
      if (!pump.alone) all ??= this.flows.pocLpm(t);
      const flow = pump.alone ? this.demandOf(pump.poc) : (all?.[pump.poc] ?? 0);
      return (
        flow > NEGLIGIBLE_LPM &&
        flow < pump.minLpm - NEGLIGIBLE_LPM &&
        this.running().some((e) => e.flowLpm !== null && this.calls(e, pump.poc))
      );
    });
  }

  /** What the open stations behind a POC ask for, L/min. */
  private demandOf(poc: number): number {
    let lpm = 0;
    for (const e of this.running())
      if (this.w.pocsAbove[nth(this.w.stationMainline, e.station)]?.includes(poc)) lpm += e.flowLpm ?? 0;
    return lpm;
  }

  /** Starts the clock of pumps that fell under their minimum and stops that of those which came back. */
  watch(t: EpochS): void {
    const under = this.under(t);
    for (const pump of this.pumps)
      pump.deadline = under.includes(pump) ? (pump.deadline ?? t + PUMP_UNDER_MINIMUM_S) : null;
  }

  /** Pumps that have been under their minimum for as long as they may. */
  due(t: EpochS): PumpMinimum[] {
    if (!this.pumps.some((pump) => pump.deadline !== null && t >= pump.deadline)) return [];
    return this.under(t).filter((pump) => pump.deadline !== null && t >= pump.deadline);
  }

  deadlines(): (EpochS | null)[] {
    return this.pumps.map((p) => p.deadline);
  }
}
