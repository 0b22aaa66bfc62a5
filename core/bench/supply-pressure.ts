import { nth } from "../checked.ts";
import { staticPressureKpa } from "../ceilings/ceilings.ts";
import type { EpochS } from "../dates/wall-time.ts";
import { afterDevice, pumpHeadM } from "../hydraulics/device-loss.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { DeviceOf } from "../site-file/schema.ts";
import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";
import { ASSUMED_STATIC_KPA } from "./bench-network.ts";
import type { ActiveFaults } from "./faults/active.ts";

/** Pressure of a supply as a share of its usual one: ± 2 % over 90 min and ± 1 % over 12 min, from a phase. */
export const supplyVariation = (t: EpochS, phase: number): number =>
  1 + 0.02 * Math.sin((2 * Math.PI * t) / 5400 + phase) + 0.01 * Math.sin((2 * Math.PI * t) / 700 + 2 * phase);

/** A POC that gives water to a system: its flow, L/min, and the share of its pressure that varies with the supply. */
export type Varying = { poc: number; system: number; flow: number; share: number };

/** Pressure behind each POC of the simulated site, and what it does to flows. */
export class SupplyPressure {
  private readonly w: Waterworks;
  private readonly faults: ActiveFaults;
  private readonly phase: number[];
  private readonly exact: boolean;
  /** Neither on the exact nor on the still bench does the supply vary. */
  private readonly varies: boolean;
  readonly staticKpa: (number | null)[];
  private readonly pump: (DeviceOf<"pump"> | null)[];

  constructor(w: Waterworks, faults: ActiveFaults, phase: number[], exact: boolean, still: boolean) {
    this.w = w;
    this.faults = faults;
    this.phase = phase;
    this.exact = exact;
    this.varies = !exact && !still;
    this.staticKpa = w.site.pocs.map((p) => staticPressureKpa(w.site, p));
    this.pump = w.site.pocs.map((p) => p.devices.find((d): d is DeviceOf<"pump"> => d.kind === "pump") ?? null);
  }

  /** Pressure behind a POC at a flow, kPa: static with slow variation + pump head − what supply and devices lose. */
  kpa(p: number, t: EpochS, pumpsOn: readonly boolean[], flowLpm: number): number {
    const poc = this.w.site.pocs[p];
    const pump = this.pump[p];
    let kPa = this.usualKpa(p);
    if (this.varies) kPa *= supplyVariation(t, this.phase[p] ?? 0);
    kPa -= this.droppedKpa(p, t);
    if (pump && pumpsOn[p] && !this.faults.on("stopsPump", pump.id, t))
      kPa += pumpHeadM(pump, flowLpm) * KPA_PER_METRE_OF_WATER;
    if (this.exact) return Math.max(0, kPa);
    for (const s of this.w.pocSources[p] ?? []) {
      const drop = this.w.site.sources[s]?.pressureDropKpaAt;
      if (drop) kPa -= drop.dropKpa * (flowLpm / drop.flowLpm) ** 1.852;
    }
    for (const d of poc?.devices ?? []) kPa = afterDevice(d, kPa, flowLpm);
    return Math.max(0, kPa);
  }

  /** What of the supply's variation reaches the systems, by what each POC gives. */
  varying(pumpsOn: readonly boolean[], pocLpm: readonly number[]): Varying[] {
    if (!this.varies) return [];
    return pocLpm.flatMap((flow, poc): Varying[] => {
      const system = this.w.systemOfPoc[poc];
      if (flow <= 0 || system === undefined) return [];
      const stated = this.usualKpa(poc);
      const head = this.headKpa(poc, pumpsOn, flow);
      return [{ poc, system, flow, share: stated + head > 0 ? stated / (stated + head) : 0 }];
    });
  }

  /** By connected system: √(pressure with the supply as it is now ÷ as it usually is), by what each POC gives. */
  variation(t: EpochS, varying: readonly Varying[]): number[] {
    const { systemCount } = this.w;
    const sum = new Array<number>(systemCount).fill(0);
    const all = new Array<number>(systemCount).fill(0);
    for (const { poc, system, flow, share } of varying) {
      const usual = 1 + (supplyVariation(t, this.phase[poc] ?? 0) - 1) * share;
      sum[system] = nth(sum, system) + flow * usual;
      all[system] = nth(all, system) + flow;
    }
    for (let s = 0; s < systemCount; s++) sum[s] = nth(all, s) > 0 ? Math.sqrt(nth(sum, s) / nth(all, s)) : 1;
    return sum;
  }

  /** On the exact bench: √(pressure now ÷ pressure as it should be), by the best of what feeds the main. */
  exactFactor(
    m: number,
    pocLive: readonly boolean[],
    t: EpochS,
    pumpsOn: readonly boolean[],
    pocLpm: readonly number[],
  ): number {
    const feeding = (this.w.pocsAbove[m] ?? []).filter((p) => pocLive[p]);
    return Math.sqrt(Math.max(0, ...feeding.map((p) => this.exactShare(p, t, pumpsOn, pocLpm[p] ?? 0))));
  }

  /** On the exact bench only a pressure drop or a failed booster changes flow: what is left ÷ what there should be. */
  private exactShare(p: number, t: EpochS, pumpsOn: readonly boolean[], flowLpm: number): number {
    const head = this.headKpa(p, pumpsOn, flowLpm);
    const normal = this.usualKpa(p) + head;
    if (normal <= 0) return 1;
    const lost = this.droppedKpa(p, t) + (this.faults.on("stopsPump", this.pump[p]?.id, t) ? head : 0);
    return Math.max(0, normal - lost) / normal;
  }

  /** What the supply gives by itself, kPa. */
  private usualKpa(p: number): number {
    return this.staticKpa[p] ?? (this.pump[p] ? 0 : ASSUMED_STATIC_KPA);
  }

  private headKpa(p: number, pumpsOn: readonly boolean[], flowLpm: number): number {
    const pump = this.pump[p];
    return pump && pumpsOn[p] ? pumpHeadM(pump, flowLpm) * KPA_PER_METRE_OF_WATER : 0;
  }

  /** What faults take from the supply of a POC now, kPa. */
  private droppedKpa(p: number, t: EpochS): number {
    const { pocs, sources } = this.w.site;
    const ids = [pocs[p]?.id, ...(this.w.pocSources[p] ?? []).map((s) => sources[s]?.id)];
    return ids.reduce((sum, id) => sum + this.faults.sum("dropsPressure", id, t), 0);
  }
}
