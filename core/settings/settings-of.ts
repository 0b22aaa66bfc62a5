import { waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Controller, Device, SiteFile } from "../site-file/schema.ts";

/**
 * What one controller has to know, in the site file's terms: a site file with that controller alone, its stations and programs, and of the waterworks what it judges and
 * opens. Each element carries the ceiling and each station the expected flow as the one figure a controller takes. What is locked out is no setting: it is said and
 * cleared apart, so that sending never frees a station.
 */
export type ControllerSettings = SiteFile;

type Described = { description?: unknown; notes?: unknown; files?: unknown; lockedOut?: unknown };
/** Without what people only read, and without lockouts. */
function bare<T extends Described>(of: T): Omit<T, keyof Described> {
  const { description: _, notes: __, files: ___, lockedOut: ____, ...rest } = of;
  return rest;
}

/** The settings of a controller of this site. The site is as its profile takes it (core/profiles/round-site.ts). */
export function settingsOf(site: SiteFile, controllerId: string): ControllerSettings {
  const w = waterworks(site);
  const stations = site.stations.filter((s) => s.controllerId === controllerId);
  const programs = site.programs.filter((p) => p.controllerId === controllerId);
  const mains = new Set<number>();
  for (const s of stations) for (const m of w.mainsAbove[w.mainlineIndex.get(s.mainlineId) ?? -1] ?? []) mains.add(m);
  const pocs = new Set([...mains].flatMap((m) => w.pocsAbove[m] ?? []));
  const mainIds = new Set([...mains].map((m) => site.mainlines[m]?.id));
  const pocIds = new Set([...pocs].map((p) => site.pocs[p]?.id));
  const sources = site.sources.filter((s) => site.pocs.some((p, i) => pocs.has(i) && p.sourceIds.includes(s.id)));
  const stationIds = new Set(stations.map((s) => s.id));
  const inputs = new Set([
    ...programs.flatMap((p) => (p.onInputs ?? []).map((i) => i.inputId)),
    ...stations.flatMap((s) => s.ignoresInputs ?? []),
  ]);
  return {
    format: site.format,
    version: site.version,
    site: siteSettings(site),
    sources: sources.map((s) => ({
      id: s.id,
      name: s.name,
      kind: s.kind,
      ...(s.priority === undefined ? {} : { priority: s.priority }),
      ...(s.enabled === undefined ? {} : { enabled: s.enabled }),
      ...(s.yieldLpm === undefined ? {} : { yieldLpm: s.yieldLpm }),
      ...(s.hours === undefined ? {} : { hours: s.hours }),
    })),
    pocs: site.pocs.flatMap((p, i) => {
      if (!pocs.has(i)) return [];
      const { ceilingReason: _, approvedSeparation: __, elevationM: ___, ...kept } = bare(p);
      return [{ ...kept, ...ceiling(w.pocCeiling[i]), devices: p.devices.flatMap(deviceSettings) }];
    }),
    mainlines: site.mainlines.flatMap((m, i) => {
      if (!mains.has(i)) return [];
      const { ceilingReason: _, elevationM: __, feedAtM: ___, devices, ...kept } = bare(m);
      return [
        {
          ...kept,
          ...ceiling(w.mainlineCeiling[i]),
          feedIds: m.feedIds.filter((id) => mainIds.has(id) || pocIds.has(id)),
          pipes: [],
          ...(devices ? { devices: devices.flatMap(deviceSettings) } : {}),
        },
      ];
    }),
    controllers: site.controllers.filter((c) => c.id === controllerId).map(controllerSettings),
    stations: stations.map((s) => {
      const flow = expectedFlow(s);
      return {
        id: s.id,
        number: s.number,
        name: s.name,
        controllerId,
        mainlineId: s.mainlineId,
        ...(flow === null ? {} : { enteredFlowLpm: flow.lpm }),
        ...picked(s, STATION_KEYS),
      };
    }),
    programs: programs.map(bare),
    policy: site.policy,
    ...setRatiosOf(site, stationIds),
    ...(inputs.size > 0 ? { weatherInputs: (site.weatherInputs ?? []).filter((i) => inputs.has(i.id)) } : {}),
  };
}

const STATION_KEYS = [
  "holdOffS",
  "address",
  "cycle",
  "soakMin",
  "monitored",
  "usesMasterValve",
  "usesPump",
  "ignoresInputs",
  "highPercent",
  "lowPercent",
] as const;
const SITE_KEYS = [
  "maxStationsAtOnce",
  "seasonalPercent",
  "weatherPercents",
  "weatherPercentBypassed",
  "holdUntil",
] as const;

function picked<T extends object, K extends keyof T>(of: T, keys: readonly K[]): Pick<T, K> {
  return Object.fromEntries(keys.flatMap((k) => (of[k] === undefined ? [] : [[k, of[k]]]))) as Pick<T, K>;
}

function siteSettings({ site }: SiteFile): SiteFile["site"] {
  return { id: site.id, name: site.name, timeZone: site.timeZone, units: site.units, ...picked(site, SITE_KEYS) };
}

function controllerSettings(c: Controller): Controller {
  const {
    budgetMa: _,
    wirePaths: __,
    maxStations: ___,
    maxPrograms: ____,
    maxStartsPerProgram: _____,
    ...kept
  } = bare(c);
  return kept;
}

/** Flow sensors, master valves, pumps and pressure sensors are the controller's; what else stands in the pipe is in the ceiling. */
function deviceSettings(d: Device): Device[] {
  if (d.kind !== "flowSensor" && d.kind !== "masterValve" && d.kind !== "pump" && d.kind !== "pressureSensor")
    return [];
  const { serial: _, checks: __, wirePathId: ___, controllerId: ____, ...kept } = d;
  if (kept.kind !== "flowSensor") return [kept];
  const { provings: _____, ...sensor } = kept;
  return [sensor];
}

/** Closer than a controller's screen shows. */
const ceiling = (lpm: number | undefined): { ceilingLpm?: number } =>
  lpm === undefined || !Number.isFinite(lpm) ? {} : { ceilingLpm: Number(lpm.toFixed(3)) };

function setRatiosOf(site: SiteFile, stationIds: ReadonlySet<string>): Pick<SiteFile, "setRatios"> {
  const mine = (site.setRatios ?? []).filter((r) => r.stationIds.every((id) => stationIds.has(id)));
  return mine.length > 0 ? { setRatios: mine } : {};
}
