import type { EpochS } from "../calendar/wall-time.ts";
import type { Entry } from "../dispatch/queue.ts";
import type { SearchState } from "../isolate/search.ts";
import { CALM, type Persistence } from "../limits/persistence.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../sensors/sensing.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import type { DeviceOf, FlowSensor } from "../site-file/schema.ts";

/** Where flow is judged: the POC sensors of a connected system as a sum, or one mainline's own sensor. */
export type JudgePoint = {
  kind: "system" | "mainline";
  pocs: number[];
  mainline: number | null;
  /** Mainlines whose stations are seen here. */
  covers: Set<number>;
  sensors: FlowSensor[];
  high: Persistence;
  low: Persistence;
  setKey: string;
  /** The set that runs behind it, worked out anew only when a valve has changed. */
  set: Entry[];
  setAsOf: number;
};

export type Suspect = { entry: Entry; measuredLpm: number; expectedLpm: number };

/** What the controller keeps for one connected system through a night. */
export type SystemState = {
  index: number;
  pocs: number[];
  mainlines: number[];
  pumps: { poc: number; device: DeviceOf<"pump">; dryS: number }[];
  /** Pressure sensors with a limit, and how long each has been beyond. */
  pressures: {
    poc: number;
    device: DeviceOf<"pressureSensor">;
    low: { now: Persistence };
    high: { now: Persistence };
  }[];
  points: JudgePoint[];
  /** Readings of seconds before this instant are ignored. */
  holdUntil: EpochS;
  offSchedule: Persistence;
  burst: Map<number, Persistence>;
  search: {
    state: SearchState;
    entries: Map<string, Entry>;
    testing: { entry: Entry; since: EpochS } | null;
    valves: "shut" | "open";
    pump: boolean;
    key: string;
  } | null;
  retestUntil: EpochS | null;
  /** Stations that tripped low alone, by what feeds them: the next of the same feed tells. */
  suspects: Map<string, Suspect>;
  searched: Set<string>;
  retested: Set<string>;
  unjudged: boolean;
  stopped: boolean;
  highInARow: number;
};

export function systemStates(w: Waterworks): SystemState[] {
  const { site } = w;
  return Array.from({ length: w.systemCount }, (_, index) => {
    const pocs = site.pocs.flatMap((_, p) => (w.systemOfPoc[p] === index ? [p] : []));
    const mainlines = site.mainlines.flatMap((_, m) => (w.systemOfMainline[m] === index ? [m] : []));
    const sensing = pocs.map((p) => pocSensing(w, p));
    const pocSensors = sensing.flatMap((s) => s.sensors);
    const point = (
      kind: JudgePoint["kind"],
      mainline: number | null,
      covers: number[],
      sensors: FlowSensor[],
    ): JudgePoint => ({
      kind,
      pocs,
      mainline,
      covers: new Set(covers),
      sensors,
      high: CALM,
      low: CALM,
      setKey: "",
      set: [],
      setAsOf: -1,
    });
    const points: JudgePoint[] = [];
    if (pocs.length > 0 && sensing.every((s) => s.by === "own" || s.by === "mainlines"))
      points.push(point("system", null, mainlines, pocSensors));
    for (const m of mainlines) {
      const own = (site.mainlines[m]?.devices ?? []).find((d): d is FlowSensor => d.kind === "flowSensor");
      if (own)
        points.push(
          point(
            "mainline",
            m,
            mainlines.filter((x) => (w.mainsAbove[x] ?? []).includes(m)),
            [own],
          ),
        );
    }
    return {
      index,
      pocs,
      mainlines,
      points,
      pumps: pocs.flatMap((poc) =>
        (site.pocs[poc]?.devices ?? [])
          .filter((d): d is DeviceOf<"pump"> => d.kind === "pump")
          .map((device) => ({ poc, device, dryS: 0 })),
      ),
      pressures: pocs.flatMap((poc) =>
        (site.pocs[poc]?.devices ?? []).flatMap((d) =>
          d.kind === "pressureSensor" && (d.lowKpa !== undefined || d.highKpa !== undefined)
            ? [{ poc, device: d, low: { now: CALM }, high: { now: CALM } }]
            : [],
        ),
      ),
      holdUntil: Number.NEGATIVE_INFINITY,
      offSchedule: CALM,
      burst: new Map(),
      search: null,
      retestUntil: null,
      suspects: new Map(),
      searched: new Set<string>(),
      retested: new Set<string>(),
      unjudged: false,
      stopped: false,
      highInARow: 0,
    };
  });
}

/** Off-schedule limit of a system: the sum over its POCs of the stated limit, else of the sensor's minimum, L/min. */
export function restLimitLpm(w: Waterworks, pocs: number[]): number {
  return pocs.reduce((sum, p) => {
    const minima = pocSensing(w, p).sensors.reduce((total, sensor) => total + (sensorRange(sensor).minLpm ?? 0), 0);
    return sum + (w.site.pocs[p]?.offScheduleLimitLpm ?? minima);
  }, 0);
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
  const mains = stations.map((s) => w.stationMainline[s] as number);
  return w.site.mainlines[lowestCommonMainline(w, mains) ?? (mains[0] as number)]?.id as string;
}

/** What an alarm of a set is about: the station; or, for several together, the mainline that all of them hang on. */
export function subjectOfSet(w: Waterworks, stations: readonly number[]): string {
  return stations.length === 1 ? (w.site.stations[stations[0] as number]?.id as string) : mainlineOfSet(w, stations);
}
