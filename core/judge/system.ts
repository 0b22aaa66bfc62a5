import { mainHoldOffS } from "../site-file/hold-off.ts";
import { nth } from "../checked.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import type { DeviceOf, FlowSensor } from "../site-file/schema.ts";

/** Where flow is judged: the POC sensors of a connected system as a sum, or one mainline's own sensor. */
export type JudgePoint = {
  kind: "system" | "mainline";
  pocs: number[];
  mainline: number | null;
  /** Mainlines whose stations are seen here. */
  covers: ReadonlySet<number>;
  sensors: FlowSensor[];
};
/** A pump, and the flow under which its connection's sensor sees nothing, L/min; null where there is no sensor. */
export type PumpWatch = { poc: number; device: DeviceOf<"pump">; noFlowLpm: number | null };
export type PressureWatch = { poc: number; device: DeviceOf<"pressureSensor"> };

/** What of one connected system is judged, and where: worked out once for a configuration. */
export type JudgedSystem = {
  index: number;
  pocs: number[];
  mainlines: number[];
  points: JudgePoint[];
  pumps: PumpWatch[];
  /** Pressure sensors with a limit. */
  pressures: PressureWatch[];
  /** POCs on which something is read. */
  sensed: number[];
  /** Flow over which something runs that should not, without hand watering, L/min. */
  restLimitLpm: number;
};

/** The connected systems of a site as they are judged, in the order of their numbers. */
export function judgedSystems(w: Waterworks): JudgedSystem[] {
  return Array.from({ length: w.systemCount }, (_, index) => judgedSystem(w, index));
}

function judgedSystem(w: Waterworks, index: number): JudgedSystem {
  const { site } = w;
  const pocs = site.pocs.flatMap((_, p) => (w.systemOfPoc[p] === index ? [p] : []));
  const mainlines = site.mainlines.flatMap((_, m) => (w.systemOfMainline[m] === index ? [m] : []));
  const devices = pocs.flatMap((poc) => (site.pocs[poc]?.devices ?? []).map((device) => ({ poc, device })));
  const sensed = pocs.filter((p) => pocSensing(w, p).sensors.length > 0);
  return {
    index,
    pocs,
    mainlines,
    points: judgePoints(w, pocs, mainlines),
    pumps: devices.flatMap(({ poc, device }) =>
      device.kind === "pump" ? [{ poc, device, noFlowLpm: noFlowLpm(w, poc) }] : [],
    ),
    pressures: devices.flatMap(({ poc, device }) =>
      device.kind === "pressureSensor" && (device.lowKpa !== undefined || device.highKpa !== undefined)
        ? [{ poc, device }]
        : [],
    ),
    sensed,
    restLimitLpm: restLimitLpm(w, sensed),
  };
}

/** The system as a sum, where each of its POCs is seen whole; and every main with a sensor of its own. */
function judgePoints(w: Waterworks, pocs: number[], mainlines: number[]): JudgePoint[] {
  const sensing = pocs.map((p) => pocSensing(w, p));
  const asSum = pocs.length > 0 && sensing.every((s) => s.by === "own" || s.by === "mainlines");
  const ofMains = mainlines.flatMap((m): JudgePoint[] => {
    const own = (w.site.mainlines[m]?.devices ?? []).find((d): d is FlowSensor => d.kind === "flowSensor");
    if (!own) return [];
    const covers = new Set(mainlines.filter((x) => (w.mainsAbove[x] ?? []).includes(m)));
    return [{ kind: "mainline", pocs, mainline: m, covers, sensors: [own] }];
  });
  const sum: JudgePoint = {
    kind: "system",
    pocs,
    mainline: null,
    covers: new Set(mainlines),
    sensors: sensing.flatMap((s) => s.sensors),
  };
  return asSum ? [sum, ...ofMains] : ofMains;
}

function noFlowLpm(w: Waterworks, poc: number): number | null {
  const sensor = pocSensing(w, poc).sensors[0];
  return sensor ? Math.max(1e-6, sensorRange(sensor).minLpm ?? 0) : null;
}

/** Off-schedule limit of these POCs together: the sum of the stated limits, else of the sensors' minima, L/min (site-file#judging). */
export function restLimitLpm(w: Waterworks, pocs: number[]): number {
  return pocs.reduce((sum, p) => {
    const minima = pocSensing(w, p).sensors.reduce((total, sensor) => total + (sensorRange(sensor).minLpm ?? 0), 0);
    return sum + (w.site.pocs[p]?.offScheduleLimitLpm ?? minima);
  }, 0);
}

/** Seconds after a change of valves in which nothing is judged: the longest of the system's mains and of the stations that run (site-file#judging). */
export function holdOffS(w: Waterworks, system: Pick<JudgedSystem, "mainlines">, stations: Iterable<number>): number {
  let longest = 0;
  for (const m of system.mainlines) longest = Math.max(longest, mainHoldOffS(w.site.mainlines[m] ?? {}));
  for (const s of stations) longest = Math.max(longest, w.site.stations[s]?.holdOffS ?? 0);
  return longest;
}

/** A main shut for so long has run empty, and fills when it opens again, s. */
export const EMPTY_AFTER_S = 1800;

/** Seconds for which an empty system reads its own filling: the longest of its mains. */
export function fillS(w: Waterworks, system: Pick<JudgedSystem, "mainlines">): number {
  return Math.max(0, ...system.mainlines.map((m) => w.site.mainlines[m]?.fillS ?? 120));
}

/** The lowest mainline that is above (or is) every one of `mains`; null when they share none. */
export function lowestCommonMainline(w: Waterworks, mains: number[]): number | null {
  const [first, ...rest] = [...new Set(mains)];
  if (first === undefined) return null;
  const shared = (w.mainsAbove[first] ?? []).filter((m) =>
    rest.every((other) => (w.mainsAbove[other] ?? []).includes(m)),
  );
  return shared[0] ?? null;
}

/** The mainline that all of these stations hang on; where they share none, that of the first. */
export function mainlineOfSet(w: Waterworks, stations: readonly number[]): string {
  const mains = stations.map((s) => nth(w.stationMainline, s));
  return nth(w.site.mainlines, lowestCommonMainline(w, mains) ?? nth(mains, 0)).id;
}

/** What an alarm of a set is about: the station; or, for several together, the mainline that all of them hang on. */
export function subjectOfSet(w: Waterworks, stations: readonly number[]): string {
  return stations.length === 1 ? nth(w.site.stations, nth(stations, 0)).id : mainlineOfSet(w, stations);
}
