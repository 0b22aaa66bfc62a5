import { nth } from "../checked.ts";
import { faultSpec } from "./faults/kinds.ts";
import { ActiveFaults } from "./faults/active.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { CapacityCalendar } from "../dispatch/capacity.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Device, DeviceOf, FlowSensor } from "../site-file/schema.ts";
import { BenchNetwork, type OpenSolution, type OpenState } from "./bench-network.ts";
import { type LiveFeeds, liveFeeds } from "./carry.ts";
import { Filling } from "./filling.ts";
import type { Fault } from "./faults/resolve.ts";
import { type Break, type OpenFlows, openFlows, type OpenStation } from "./open-flows.ts";
import type { Random } from "./random.ts";
import { SensorReadings } from "./sensor-readings.ts";
import { SupplyPressure, type Varying } from "./supply-pressure.ts";
import { Valves } from "./valves.ts";

type Standing = {
  commands: Commands;
  openings: number;
  until: EpochS;
  pocLive: boolean[];
  feeds: LiveFeeds;
  breaks: Break[];
  solved: OpenSolution | null;
  varying: Varying[];
};
/** What flows, and how it varies. */
type Flowing = { pocLive: boolean[]; flows: OpenFlows; varying: Varying[] };
export type Commands = { stations: Set<number>; pocValve: boolean[]; mainlineValve: boolean[]; pump: boolean[] };
export type PlantSecond = {
  stationLpm: Map<number, number>;
  pocLpm: number[];
  mainlineLpm: number[];
  /** What the sensor on a POC or mainline reads, L/min; null without one. */
  pocReading: (number | null)[];
  mainlineReading: (number | null)[];
  /** Seconds at which each pulse sensor sent a pulse in this second, exact, by the sensor's id. */
  pulses: Map<string, number[]>;
  pressureKpa: number[];
  lostLpm: number;
  deliveredLpm: number;
};

/**
 * The simulated site, one second at a time: supply with slow variation, valves that take seconds, mains that fill, station
 * flow with the square root of pressure, sensors with noise and pulses. `exact`: none of these; every station flows
 * exactly its expected flow.
 */
export class Plant {
  private readonly valves: Valves;
  private readonly expected: (number | null)[];
  private readonly pocSensor: (FlowSensor | null)[];
  private readonly mainSensor: (FlowSensor | null)[];
  /** Mainlines whose sensors are read as a sum where a POC has none of its own. */
  private readonly summedMains: number[][];
  private readonly pump: (DeviceOf<"pump"> | null)[];
  private readonly hasValve: boolean[];
  private lastPoc: number[];
  private readonly pressure: SupplyPressure;
  /** Null where mains are full. */
  private readonly filling: Filling | null;
  private readonly sensors: SensorReadings;
  /** Null on the exact bench, where pressure only matters when it fails. */
  private readonly network: BenchNetwork | null;
  private standing: Standing | null = null;
  /** As long as no valve moves. */
  private settled: (Flowing & { commands: Commands; until: EpochS }) | null = null;
  /** POCs with a pressure sensor. */
  private readonly pressed: boolean[];
  /** Any of them, and any main with a sensor; what is read where there is none is the same every second. */
  private readonly gauged: boolean;
  private readonly noGauge: number[];
  private readonly sensedMains: boolean;
  private readonly w: Waterworks;
  private readonly faults: ActiveFaults;
  private readonly exact: boolean;
  private readonly calendar: CapacityCalendar;

  /**
   * @param random null: sensors read without noise, and pulses are not counted
   * @param still pressure that does not vary with time and mains that are full, all else as on a real site
   */
  constructor(
    w: Waterworks,
    calendar: CapacityCalendar,
    faults: Fault[],
    random: Random | null,
    exact: boolean,
    still = false,
  ) {
    this.w = w;
    this.calendar = calendar;
    this.faults = new ActiveFaults(faults);
    this.exact = exact;
    this.valves = new Valves(w, this.faults, exact);
    this.sensors = new SensorReadings(random, exact, this.faults);
    this.network = exact ? null : BenchNetwork.of(w);
    const { site } = w;
    const find = <K extends Device["kind"]>(devices: Device[], kind: K): DeviceOf<K> | null =>
      (devices.find((d) => d.kind === kind) as DeviceOf<K> | undefined) ?? null;
    this.expected = site.stations.map((s) => expectedFlow(s)?.lpm ?? null);
    this.pocSensor = site.pocs.map((p) => find(p.devices, "flowSensor"));
    this.mainSensor = site.mainlines.map((m) => find(m.devices ?? [], "flowSensor"));
    this.summedMains = site.pocs.map((_, p) => {
      const sensing = pocSensing(w, p);
      return sensing.by === "mainlines" ? sensing.mainlines : [];
    });
    this.pump = site.pocs.map((p) => find(p.devices, "pump"));
    this.pressed = site.pocs.map((p) => find(p.devices, "pressureSensor") !== null);
    this.gauged = this.pressed.includes(true);
    this.noGauge = site.pocs.map(() => 0);
    this.sensedMains = this.mainSensor.some((s) => s !== null);
    this.hasValve = site.pocs.map((p) => find(p.devices, "masterValve") !== null);
    const phase = site.pocs.map(() => (random ? random() * 2 * Math.PI : 0));
    this.pressure = new SupplyPressure(w, this.faults, phase, exact, still);
    this.filling = exact || still ? null : new Filling(w, this.hasValve);
    this.lastPoc = site.pocs.map(() => 0);
  }

  /** Nothing stands open or under pressure, and no fault could make it so before `nextFaultEdge`. */
  atRest(t: EpochS, commands: Commands): boolean {
    const shut = this.hasValve.every((has, p) => has && !commands.pocValve[p]);
    return (
      shut &&
      this.valves.opening.size === 0 &&
      commands.stations.size === 0 &&
      !(this.faults.doing("holdsMasterValve", t).length > 0 || this.faults.doing("jitters", t).length > 0)
    );
  }

  /** Every valve called stands fully open and no other, and no fault that goes on now does anything: on the exact bench the next second is like this one. */
  steady(t: EpochS, commands: Commands): boolean {
    if (!this.exact || this.valves.opening.size !== commands.stations.size) return false;
    for (const s of commands.stations) if (this.valves.opening.get(s) !== 1) return false;
    return this.faults.all.every((f) => {
      if (t < f.from || t >= f.to) return true;
      const station = this.w.stationIndex.get(f.subjectId);
      // A station's fault does nothing while the station is shut and not called.
      return (
        station !== undefined &&
        f.otherId === undefined &&
        !this.valves.opening.has(station) &&
        !commands.stations.has(station)
      );
    });
  }

  /** Next instant after `t` at which a fault begins or ends; Infinity when none does. */
  nextFaultEdge(t: EpochS): EpochS {
    return this.faults.nextEdge(t);
  }

  /** Physics of the second [t, t+1) under the controller's commands. */
  second(t: EpochS, commands: Commands): PlantSecond {
    const { pocLive, flows, varying } = this.flowing(t, commands);
    const vary = this.pressure.variation(t, varying);
    const pressureKpa = this.gauged
      ? this.pressed.map((has, p) =>
          has && pocLive[p] ? this.pressure.kpa(p, t, commands.pump, this.lastPoc[p] ?? 0) : 0,
        )
      : this.noGauge;
    this.sensors.nextSecond();
    const stationLpm = new Map<number, number>();
    for (const [s, system, lpm] of flows.stationLpm) stationLpm.set(s, lpm * nth(vary, system));
    let lostLpm = 0;
    let deliveredLpm = 0;
    for (let system = 0; system < vary.length; system++) {
      const by = nth(vary, system);
      lostLpm += by * nth(flows.lostLpm, system);
      deliveredLpm += by * nth(flows.deliveredLpm, system);
      const taken = by * nth(flows.byHandLpm, system);
      if (taken === 0) continue;
      const allowed = Math.min(taken, this.allowanceLpm(system, t));
      deliveredLpm += allowed;
      lostLpm += taken - allowed;
    }
    const { systemOfPoc, systemOfMainline } = this.w;
    const mainlineLpm = flows.mainlineLpm.map((lpm, m) => lpm * nth(vary, nth(systemOfMainline, m)));
    const pocLpm = flows.pocLpm.map((lpm, p) => {
      const filling = this.filling?.lpm(p, t, pocLive[p] === true, commands.pocValve[p] === true) ?? 0;
      return lpm * nth(vary, nth(systemOfPoc, p)) + filling;
    });
    this.lastPoc = pocLpm.map((q, p) => (q + (this.lastPoc[p] as number)) / 2);
    const mainlineReading = this.sensedMains
      ? this.mainSensor.map((sensor, m) => (sensor ? this.sensors.read(sensor, mainlineLpm[m] as number, t) : null))
      : (this.mainSensor as null[]);
    return {
      stationLpm,
      pocLpm,
      mainlineLpm,
      lostLpm,
      deliveredLpm,
      pressureKpa,
      mainlineReading,
      pulses: this.sensors.pulses,
      pocReading: this.pocSensor.map((sensor, p) =>
        sensor
          ? this.sensors.read(sensor, pocLpm[p] as number, t)
          : summed(this.summedMains[p] as number[], mainlineReading),
      ),
    };
  }

  /** Hand watering allowed now in a system: that of its connections together, L/min. */
  private allowanceLpm(system: number, t: EpochS): number {
    return this.w.site.pocs.reduce(
      (sum, _, p) => (this.w.systemOfPoc[p] === system ? sum + this.calendar.reserveLpm(p, t) : sum),
      0,
    );
  }

  /** What flows at the usual pressure; the same as the second before where no valve moves and nothing else begins or ends. */
  private flowing(t: EpochS, commands: Commands): Flowing {
    const known = this.settled;
    if (known && known.commands === commands && t < known.until) return known;
    const moved = this.valves.move(t, commands.stations);
    const { pocLive, feeds, breaks, solved, varying, until } = this.stand(t, commands);
    const flows = openFlows(this.w, this.openNow(t, commands, feeds, pocLive, solved), breaks, pocLive, feeds, solved);
    // On the exact bench the pressure behind a pump follows the flow of the second before.
    this.settled = !moved && solved ? { commands, until, pocLive, flows, varying } : null;
    return { pocLive, flows, varying };
  }

  /** Stations with an open valve under pressure, and what they give. */
  private openNow(
    t: EpochS,
    commands: Commands,
    feeds: LiveFeeds,
    pocLive: boolean[],
    solved: OpenSolution | null,
  ): OpenStation[] {
    return [...this.valves.opening].flatMap(([station, share]): OpenStation[] => {
      const m = this.w.stationMainline[station] as number;
      if (!feeds.of[m]?.live || share <= 0) return [];
      const id = this.w.site.stations[station]?.id;
      const now = solved ? share : share * this.pressure.exactFactor(m, pocLive, t, commands.pump, this.lastPoc);
      const full = (this.expected[station] ?? 0) * this.faults.kept(id, t);
      const broken = solved ? (solved.brokenLpm.get(station) ?? 0) : this.faults.sum("leaks", id, t);
      const stuck = this.faults.on("staysOpen", id, t) ? "lost" : null;
      return [
        {
          station,
          ownLpm: now * (solved ? (solved.ownLpm.get(station) ?? 0) : full),
          brokenLpm: now * broken,
          use: commands.stations.has(station) ? "watered" : stuck,
        },
      ];
    });
  }

  /** What holds as long as commands, open valves, faults and source hours are the same: worked out once for all those seconds. */
  private stand(t: EpochS, commands: Commands): Standing {
    const known = this.standing;
    if (known && known.commands === commands && known.openings === this.valves.turned && t < known.until) return known;
    const pocLive = this.w.site.pocs.map((_, p) => this.pocLive(p, t, commands));
    const breaks = this.breaks(t);
    const solved = this.network ? this.solve(this.network, t, commands, pocLive, breaks) : null;
    const standing: Standing = {
      commands,
      openings: this.valves.turned,
      until: Math.min(this.nextFaultEdge(t), this.calendar.nextChange(t) ?? Number.POSITIVE_INFINITY),
      pocLive,
      breaks,
      feeds: liveFeeds(this.w, pocLive, (m) => this.mainOpen(m, t, commands)),
      solved,
      varying: solved ? this.pressure.varying(commands.pump, solved.pocLpm) : [],
    };
    this.standing = standing;
    return standing;
  }

  /** Pressure behind a POC as a gauge there shows it, kPa; 0 where nothing stands behind it. */
  gaugeKpa(p: number, t: EpochS, commands: Commands): number {
    return this.standing?.pocLive[p] ? this.pressure.kpa(p, t, commands.pump, this.lastPoc[p] ?? 0) : 0;
  }

  private pocLive(p: number, t: EpochS, commands: Commands): boolean {
    const poc = this.w.site.pocs[p];
    const valve = poc?.devices.find((d) => d.kind === "masterValve");
    const open =
      !this.hasValve[p] || commands.pocValve[p] || this.faults.on("holdsMasterValve", valve?.id, t) !== undefined;
    if (!open || this.faults.on("closesSupply", poc?.id, t)) return false;
    const supplied = (this.w.pocSources[p] ?? []).some(
      (s) => this.calendar.sourceOpen(s, t) && !this.faults.on("closesSupply", this.w.site.sources[s]?.id, t),
    );
    if (!supplied) return false;
    const pump = this.pump[p];
    if (!pump || this.pressure.staticKpa[p] !== null) return true;
    if (this.exact) return !(commands.pump[p] && this.faults.on("stopsPump", pump.id, t));
    return commands.pump[p] === true && !this.faults.on("stopsPump", pump.id, t);
  }

  private mainOpen(m: number, t: EpochS, commands: Commands): boolean {
    const valve = this.w.site.mainlines[m]?.devices?.find((d) => d.kind === "masterValve");
    return (
      !valve || commands.mainlineValve[m] === true || this.faults.on("holdsMasterValve", valve.id, t) !== undefined
    );
  }

  /** Breaks and hoses on mains and at POCs that let water out now. */
  private breaks(t: EpochS): Break[] {
    return this.faults.doing("draws", t).flatMap((f): Break[] => {
      const main = this.w.mainlineIndex.get(f.subjectId);
      const poc = this.w.pocIndex.get(f.subjectId);
      const lost = faultSpec(f.kind).effect.draws === "lost";
      if (main !== undefined) return [{ kind: "mainline", place: main, lpm: f.size, lost }];
      return poc === undefined ? [] : [{ kind: "poc", place: poc, lpm: f.size, lost }];
    });
  }

  /** Flows of what stands open, through the network; worked out once for everything that stands the same. */
  private solve(
    network: BenchNetwork,
    t: EpochS,
    commands: Commands,
    pocLive: boolean[],
    breaks: Break[],
  ): OpenSolution {
    const { site } = this.w;
    const wrong =
      this.faults.all.length === 0
        ? ""
        : this.faults.all
            .flatMap((f) => (f.from <= t && t < f.to ? [`${f.kind}:${f.subjectId}:${f.size}`] : []))
            .join();
    const bits = (list: boolean[]): string => list.map(Number).join("");
    const sourceShut = site.sources.map(
      (s, i) =>
        s.enabled === false || !this.calendar.sourceOpen(i, t) || this.faults.on("closesSupply", s.id, t) !== undefined,
    );
    const key = `${[...this.valves.opening.keys()].sort((a, b) => a - b).join()}|${bits(pocLive)}|${bits(commands.pump)}|${bits(commands.mainlineValve)}|${bits(sourceShut)}|${wrong}`;
    const drop = (id: string | undefined): number => this.faults.sum("dropsPressure", id, t);
    return network.solve(
      key,
      (): OpenState => ({
        stations: [...this.valves.opening.keys()]
          .filter((s) => !this.faults.on("staysShut", site.stations[s]?.id, t))
          .map((station) => {
            const id = site.stations[station]?.id;
            return { station, share: this.faults.kept(id, t), brokenLpm: this.faults.sum("leaks", id, t) };
          }),
        breaks,
        pocLive,
        sourceShut,
        mainShut: site.mainlines.map((_, m) => !this.mainOpen(m, t, commands)),
        pumpOn: site.pocs.map((_, p) => commands.pump[p] === true && !this.faults.on("stopsPump", this.pump[p]?.id, t)),
        pocDropKpa: site.pocs.map((p) => drop(p.id)),
        sourceDropKpa: site.sources.map((s) => drop(s.id)),
      }),
    );
  }
}

/** The sum of mainlines' own sensors; null where there are none. */
function summed(mains: number[], mainlineReading: (number | null)[]): number | null {
  if (mains.length === 0) return null;
  let sum = 0;
  for (const m of mains) sum += mainlineReading[m] ?? 0;
  return sum;
}
