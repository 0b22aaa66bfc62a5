import { got, nth } from "../checked.ts";
import type { SubjectKind } from "../bench/faults/spec.ts";
import { type Fault, resolveFaults } from "../bench/faults/resolve.ts";
import { type FaultKind, FAULT_KINDS, faultSpec } from "../bench/faults/kinds.ts";
import { type Commands, Plant, type PlantSecond } from "../bench/plant.ts";
import { READING_NOISE } from "../bench/sensor-readings.ts";
import type { EpochS } from "../dates/wall-time.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Device, SiteFile, Station } from "../site-file/schema.ts";

/** What a person has standing open: stations called, master valves open, pumps running, by id. */
export type Standing = { open: readonly string[]; valves: readonly string[]; pumps: readonly string[] };
export type Check =
  | { type: "read" }
  | { type: "meter"; pocId: string }
  | { type: "gauge"; pocId: string }
  | { type: "look"; subjectId: string };
export type Cause = { kind: FaultKind; subjectId: string };
/** What one sees on the spot. */
export type Look =
  | "asItShould"
  | "nothingComes"
  | "jet"
  | "wellsUp"
  | "weak"
  | "runsUncalled"
  | "shutAndDry"
  | "wetGround"
  | "dryGround"
  | "hose"
  | "supplyShut"
  | "pumpStill"
  | "nothingToSee";
/** What a check says: by flow sensor the mean and how far it swings, by pressure sensor the pressure; L/min and kPa. */
export type Result =
  | { type: "read"; flow: { id: string; lpm: number; swingLpm: number }[]; pressure: { id: string; kPa: number }[] }
  | { type: "meter"; lpm: number }
  | { type: "gauge"; kPa: number }
  | { type: "look"; look: Look };

/** How long things take, s: turning valves and letting it settle, reading a minute, going there. */
export const TAKES_S = { turn: 20, read: 60, meter: 420, gauge: 360, look: 420 } as const;
const SETTLE_S = 22;

export type Settled = { seen: PlantSecond; gaugeKpa: number[] };

/** One connected system of a site on the bench, with at most one thing wrong with it, at rest after each change: no noise, no variation, mains full. */
export class DrillBench {
  readonly site: SiteFile;
  readonly w: Waterworks;
  readonly system: number;
  readonly stations: Station[];
  readonly pocs: string[];
  readonly mainlines: string[];
  readonly masterValves: string[];
  readonly pumps: string[];
  private readonly calendar: CapacityCalendar;
  private readonly at: EpochS;
  private readonly date: string;
  private readonly known = new Map<string, Settled>();

  /** @param at the instant at which it is tried: source hours hold */
  constructor(site: SiteFile, date: string, at: EpochS, system: number) {
    this.site = site;
    this.date = date;
    this.at = at;
    this.w = waterworks(site);
    this.system = system;
    this.calendar = new CapacityCalendar(this.w, date);
    const { w } = this;
    this.stations = site.stations.filter(
      (s, i) => w.systemOfMainline[nth(w.stationMainline, i)] === system && (expectedFlow(s)?.lpm ?? 0) > 0,
    );
    this.pocs = site.pocs.flatMap((p, i) => (w.systemOfPoc[i] === system ? [p.id] : []));
    this.mainlines = site.mainlines.flatMap((m, i) => (w.systemOfMainline[i] === system ? [m.id] : []));
    this.masterValves = this.devices().flatMap((d) => (d.kind === "masterValve" ? [d.id] : []));
    this.pumps = this.devices().flatMap((d) => (d.kind === "pump" ? [d.id] : []));
  }

  devices(): Device[] {
    return [
      ...this.site.pocs.filter((p) => this.pocs.includes(p.id)).flatMap((p) => p.devices),
      ...this.site.mainlines.filter((m) => this.mainlines.includes(m.id)).flatMap((m) => m.devices ?? []),
    ];
  }

  /** Everything that may be wrong, one at a time. */
  causes(): Cause[] {
    const devices = this.devices();
    const here: Record<SubjectKind, readonly string[]> = {
      station: this.stations.map((s) => s.id),
      mainline: this.mainlines,
      poc: this.pocs,
      source: [],
      pump: this.pumps,
      masterValve: this.masterValves,
      flowSensor: devices.flatMap((d) => (d.kind === "flowSensor" ? [d.id] : [])),
    };
    return FAULT_KINDS.flatMap((kind) => {
      const { drilled } = faultSpec(kind);
      return drilled === null ? [] : here[drilled].map((subjectId) => ({ kind, subjectId }));
    });
  }

  /** How it stands a while after this was set, with this wrong. */
  settled(cause: Cause | null, standing: Standing): Settled {
    const matters =
      cause !== null && !(faultSpec(cause.kind).onlyWhenCalled && !standing.open.includes(cause.subjectId))
        ? cause
        : null;
    const key = `${matters ? `${matters.kind} ${matters.subjectId}` : ""}|${[...standing.open].sort().join()}|${[...standing.valves].sort().join()}|${[...standing.pumps].sort().join()}`;
    const known = this.known.get(key);
    if (known) return known;
    const plant = new Plant(this.w, this.calendar, this.faults(matters), null, false, true);
    const commands = this.commands(standing);
    // A valve that sticks open has been open before.
    if (matters?.kind === "stuckOpen") {
      const before = { ...commands, stations: new Set([got(this.w.stationIndex, matters.subjectId)]) };
      for (let t = 0; t < 10; t++) plant.second(this.at + t, before);
    }
    let seen = plant.second(this.at + 10, commands);
    for (let t = 1; t < SETTLE_S; t++) seen = plant.second(this.at + 10 + t, commands);
    const made = { seen, gaugeKpa: this.site.pocs.map((_, p) => plant.gaugeKpa(p, this.at + 10 + SETTLE_S, commands)) };
    this.known.set(key, made);
    return made;
  }

  /** What a check says with this wrong, without noise. */
  result(cause: Cause | null, standing: Standing, check: Check): Result {
    const { seen, gaugeKpa } = this.settled(cause, standing);
    const poc = (id: string): number => got(this.w.pocIndex, id);
    switch (check.type) {
      case "read": {
        const flow = this.site.pocs.flatMap((p, i) =>
          this.pocs.includes(p.id)
            ? p.devices.flatMap((d) => (d.kind === "flowSensor" ? [{ id: d.id, lpm: seen.pocReading[i] ?? 0 }] : []))
            : [],
        );
        const onMains = this.site.mainlines.flatMap((m, i) =>
          this.mainlines.includes(m.id)
            ? (m.devices ?? []).flatMap((d) =>
                d.kind === "flowSensor" ? [{ id: d.id, lpm: seen.mainlineReading[i] ?? 0 }] : [],
              )
            : [],
        );
        const swings = (id: string, lpm: number): number =>
          2 * READING_NOISE * lpm +
          (cause?.kind === "sensorNoise" && cause.subjectId === id ? (this.faults(cause)[0]?.size ?? 0) : 0);
        const pressure = this.site.pocs.flatMap((p, i) =>
          this.pocs.includes(p.id)
            ? p.devices.flatMap((d) => (d.kind === "pressureSensor" ? [{ id: d.id, kPa: nth(gaugeKpa, i) }] : []))
            : [],
        );
        return {
          type: "read",
          flow: [...flow, ...onMains].map((f) => ({ ...f, swingLpm: swings(f.id, f.lpm) })),
          pressure,
        };
      }
      case "meter":
        return { type: "meter", lpm: nth(seen.pocLpm, poc(check.pocId)) };
      case "gauge":
        return { type: "gauge", kPa: nth(gaugeKpa, poc(check.pocId)) };
      case "look":
        return { type: "look", look: this.look(cause, standing, check.subjectId, seen) };
    }
  }

  private look(cause: Cause | null, standing: Standing, subjectId: string, seen: PlantSecond): Look {
    const here = cause?.subjectId === subjectId ? cause.kind : null;
    const s = this.w.stationIndex.get(subjectId);
    if (s !== undefined) return this.lookAtStation(here, standing, s, subjectId, seen);
    if (this.w.mainlineIndex.has(subjectId))
      return here === "mainlineBreak" && seen.lostLpm > 0 ? "wetGround" : "dryGround";
    const p = this.w.pocIndex.get(subjectId);
    if (p === undefined) return "nothingToSee";
    if (here === "handWatering" && (seen.pocLpm[p] ?? 0) > 0) return "hose";
    if (here === "supplyClosed") return "supplyShut";
    const pump = this.site.pocs[p]?.devices.find((d) => d.kind === "pump");
    const stands = cause?.kind === "pumpFailed" && cause.subjectId === pump?.id && standing.pumps.includes(pump.id);
    return stands ? "pumpStill" : "nothingToSee";
  }

  private lookAtStation(
    here: Cause["kind"] | null,
    standing: Standing,
    station: number,
    id: string,
    seen: PlantSecond,
  ): Look {
    const flow = seen.stationLpm.get(station) ?? 0;
    const called = this.settled(null, { ...standing, open: [...new Set([...standing.open, id])] });
    const usual = called.seen.stationLpm.get(station) ?? 0;
    const comes = flow > 0.05 * Math.max(usual, 1e-9) && flow > 0.1;
    if (!standing.open.includes(id)) return comes ? "runsUncalled" : "shutAndDry";
    if (!comes) return "nothingComes";
    if (here === "brokenLateral") return "wellsUp";
    if (here === "brokenOutlet") return "jet";
    return flow < 0.85 * usual ? "weak" : "asItShould";
  }

  private faults(cause: Cause | null): Fault[] {
    if (!cause) return [];
    const resolved = resolveFaults(
      this.site,
      [{ at: "+0", kind: cause.kind, subjectId: cause.subjectId }],
      this.date,
      0,
    );
    return resolved.ok ? resolved.faults : [];
  }

  private commands(standing: Standing): Commands {
    const { site, w } = this;
    const called = (
      devices: readonly Device[] | undefined,
      kind: "masterValve" | "pump",
      ids: readonly string[],
    ): boolean => (devices ?? []).some((d) => d.kind === kind && ids.includes(d.id));
    return {
      stations: new Set(standing.open.flatMap((id) => w.stationIndex.get(id) ?? [])),
      pocValve: site.pocs.map((p) => called(p.devices, "masterValve", standing.valves)),
      mainlineValve: site.mainlines.map((m) => called(m.devices, "masterValve", standing.valves)),
      pump: site.pocs.map((p) => called(p.devices, "pump", standing.pumps)),
    };
  }
}

/**
 * Two results that a person with these instruments cannot tell apart.
 *
 * @param wide how many times as far apart they may lie. @default 1
 */
export function sameResult(a: Result, b: Result, wide = 1): boolean {
  if (a.type === "read" && b.type === "read")
    return (
      a.flow.every(
        (f, i) =>
          closeFlow(f.lpm, b.flow[i]?.lpm ?? 0, wide) &&
          Math.abs(f.swingLpm - (b.flow[i]?.swingLpm ?? 0)) <= wide * (3 + 0.02 * f.lpm),
      ) && a.pressure.every((p, i) => closeKpa(p.kPa, b.pressure[i]?.kPa ?? 0, wide))
    );
  if (a.type === "meter" && b.type === "meter") return closeFlow(a.lpm, b.lpm, wide);
  if (a.type === "gauge" && b.type === "gauge") return closeKpa(a.kPa, b.kPa, wide);
  return a.type === "look" && b.type === "look" && a.look === b.look;
}

const closeFlow = (a: number, b: number, wide: number): boolean =>
  Math.abs(a - b) <= wide * Math.max(2, 0.025 * Math.max(a, b));
const closeKpa = (a: number, b: number, wide: number): boolean =>
  Math.abs(a - b) <= wide * Math.max(6, 0.03 * Math.max(a, b));
