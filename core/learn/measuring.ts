import { got, nth } from "../checked.ts";
import type { Commands, Plant, PlantSecond } from "../bench/plant.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";
import type { Device, FlowSensor } from "../site-file/schema.ts";
import type { LearnEvent } from "./events.ts";
import { ownSensor } from "./refusals.ts";
import { Settling } from "./settling.ts";
import {
  isSteady,
  isSteadyPulses,
  pulsesExcess,
  pulseStatistics,
  roughFlow,
  SETTLED_WITHIN,
  USUAL_STEADY,
  windowStatistics,
} from "./steady.ts";

/** One flow as it was read. `steadyAt`: seconds after opening at which it was steady; null when it never was. */
export type Measured = { meanLpm: number; sdLpm: number; samples: number; steadyAt: number | null };
/** A sensor that sees the flow, and how to read it; `litresPerPulse` for a pulse sensor. */
export type Tap = { sensor: FlowSensor; litresPerPulse: number | null; read: (seen: PlantSecond) => number };
type Reading = {
  pocs: number[];
  main: number | null;
  pump: boolean;
  settleS: number;
  limitS: number;
  stationId: string;
};

const sensorIn = (devices: Device[] | undefined): FlowSensor | undefined =>
  devices?.find((d): d is FlowSensor => d.kind === "flowSensor");

/** The sensors that together see a system's flow; where a POC has none, the nearest one above the main does. */
export function tapsOf(w: Waterworks, pocs: number[], main: number | null): Tap[] {
  const tap = (sensor: FlowSensor, read: Tap["read"]): Tap => ({
    sensor,
    litresPerPulse: sensor.output.type === "pulse" ? sensor.output.litresPerPulse : null,
    read,
  });
  const onMain = (m: number): Tap[] => {
    const sensor = sensorIn(w.site.mainlines[m]?.devices);
    return sensor ? [tap(sensor, (seen) => seen.mainlineReading[m] ?? 0)] : [];
  };
  const sensing = pocs.map((p) => pocSensing(w, p));
  const own = main === null ? null : ownSensor(w, main);
  if (sensing.flatMap((s) => s.sensors).length < pocs.length && own !== null) return onMain(own);
  return pocs.flatMap((p, n) => {
    const { by, sensors, mainlines } = nth(sensing, n);
    return by === "own"
      ? sensors.map((sensor) => tap(sensor, (seen) => seen.pocReading[p] ?? 0))
      : mainlines.flatMap(onMain);
  });
}

const NONE: number[] = [];

/** Opens valves on the plant, second by second, and reads what flows. */
export class Measuring {
  now: EpochS;
  litres = 0;
  private readonly w: Waterworks;
  private readonly plant: Plant;

  constructor(w: Waterworks, plant: Plant, begin: EpochS) {
    this.w = w;
    this.plant = plant;
    this.now = begin;
  }

  /** The second that was lived last: what was open, and what was seen. */
  lived: { commands: Commands; seen: PlantSecond } | null = null;

  private second(stations: number[], pocs: number[], pump: boolean): PlantSecond {
    const commands = this.commandsFor(stations, pocs, pump);
    const seen = this.plant.second(this.now, commands);
    this.lived = { commands, seen };
    this.now++;
    this.litres += seen.pocLpm.reduce((a, b) => a + b, 0) / 60;
    return seen;
  }

  /** The same commands as the second before where nothing was turned, so that the plant need not look again. */
  private commandsFor(stations: number[], pocs: number[], pump: boolean): Commands {
    const last = this.last;
    if (last && last.stations === stations && last.pocs === pocs && last.pump === pump) return last.commands;
    const { site } = this.w;
    const commands: Commands = {
      stations: new Set(stations),
      pocValve: site.pocs.map((_, p) => pocs.includes(p)),
      mainlineValve: site.mainlines.map(() => true),
      pump: site.pocs.map((_, p) => pump && pocs.includes(p)),
    };
    this.last = { stations, pocs, pump, commands };
    return commands;
  }

  private last: { stations: number[]; pocs: number[]; pump: boolean; commands: Commands } | null = null;

  /** Everything closed, pump off, master valve open: the mean flow of the last `readS` seconds at each POC, L/min. */
  *rest(pocs: number[], settleS: number, readS: number): Generator<LearnEvent, number[]> {
    const sums = pocs.map(() => 0);
    for (let i = 0; i < settleS + readS; i++) {
      const { pocReading } = this.second(NONE, pocs, false);
      const reading = pocReading.reduce((total: number, r) => total + (r ?? 0), 0);
      const settling = i < settleS;
      if (!settling) for (const [n, p] of pocs.entries()) sums[n] = nth(sums, n) + (pocReading[p] ?? 0);
      yield { type: "sample", at: this.now, stationId: null, readingLpm: reading, settling };
    }
    return sums.map((sum) => sum / readS);
  }

  /** Runs stations until their flow is steady (handbook#7-learning) or the limit has passed. */
  *flow(stations: number[], r: Reading): Generator<LearnEvent, Measured> {
    const taps = tapsOf(this.w, r.pocs, r.main);
    const steadyTaps = taps.filter((t) => t.litresPerPulse === null);
    const pulseTaps = taps.filter((t) => t.litresPerPulse !== null);
    const samples: number[] = [];
    const times = new Map<string, number[]>(pulseTaps.map((t) => [t.sensor.id, []]));
    const settling = new Settling();
    let steadyAt: number | null = null;
    for (let s = 0; s < r.settleS + r.limitS && steadyAt === null; s++) {
      const seen = this.second(stations, r.pocs, r.pump);
      const held = s < r.settleS;
      yield {
        type: "sample",
        at: this.now,
        stationId: r.stationId,
        readingLpm: taps.reduce((sum, t) => sum + t.read(seen), 0),
        settling: held,
      };
      if (held) continue;
      const reading = steadyTaps.reduce((sum, t) => sum + t.read(seen), 0);
      samples.push(reading);
      if (steadyTaps.length > 0) settling.add(s, reading);
      if (samples.length > USUAL_STEADY.windowS) samples.shift();
      for (const t of pulseTaps) times.get(t.sensor.id)?.push(...(seen.pulses.get(t.sensor.id) ?? []));
      const flat =
        steadyTaps.length === 0 ||
        (samples.length === USUAL_STEADY.windowS &&
          isSteady(windowStatistics(samples)) &&
          Math.abs(settling.excess(s - USUAL_STEADY.windowS + 1, s)) <= SETTLED_WITHIN);
      if (flat && pulsesSteady(pulseTaps, times, steadyTaps.length > 0)) steadyAt = s + 1;
    }
    const flat = windowStatistics(samples.length > 0 ? samples : [0]);
    const pulsed = pulseTaps.flatMap((t) => {
      const list = times.get(t.sensor.id) ?? [];
      return (
        pulseStatistics(list, t.litresPerPulse as number) ??
        roughFlow(list.length, t.litresPerPulse as number, r.limitS)
      );
    });
    return {
      meanLpm: flat.meanLpm + pulsed.reduce((sum, p) => sum + p.meanLpm, 0),
      sdLpm: Math.hypot(flat.sdLpm, ...pulsed.map((p) => p.sdLpm)),
      samples: pulseTaps.length > 0 ? pulsed.reduce((sum, p) => sum + p.samples, 0) : flat.samples,
      steadyAt,
    };
  }
}

/** Every pulse sensor that has sent pulses is steady, and one has, unless another kind of sensor sees the flow. */
function pulsesSteady(taps: Tap[], times: Map<string, number[]>, seenOtherwise: boolean): boolean {
  if (taps.length === 0) return true;
  const sending = taps.filter((t) => (times.get(t.sensor.id) ?? []).length > 0);
  if (sending.length === 0) return seenOtherwise;
  return sending.every((t) => {
    const s = pulseStatistics(got(times, t.sensor.id), t.litresPerPulse as number);
    return s !== null && isSteadyPulses(s) && Math.abs(pulsesExcess(got(times, t.sensor.id))) <= SETTLED_WITHIN;
  });
}
