import { nth } from "../checked.ts";
import { ruleOf } from "../dates/day-rules.ts";
import { startsOn } from "../site-file/starts.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";

/** What a learned figure rests on; each as a short mark that changes when it does. */
export type Basis = { sensor: string; mainline: string; pressure: string; station: string };
export type StaleReason = keyof Basis | "repair" | "nights" | "year";
/** What the newest morning says of the stations' figures: whose are contradicted, and whose confirmed (handbook#12-last-night). */
export type NightMarks = { night: string; workedAt: string; contradicted: string[]; confirmed: string[] };

const YEAR_MS = 365 * 86_400_000;
/** So long a figure that nights confirmed stays fresh. */
const CONFIRMED_MS = 62 * 86_400_000;

/** Marks of everything that a station's learned flow rests on, as the site stands. */
export function basisOf(w: Waterworks, stationId: string): Basis | null {
  const at = w.stationIndex.get(stationId);
  return at === undefined ? null : basisAt(w, at);
}

function basisAt(w: Waterworks, at: number): Basis {
  const { site } = w;
  const s = nth(site.stations, at);
  const main = nth(w.stationMainline, at);
  const pocs = w.pocsAbove[main] ?? [];
  const above = (w.mainsAbove[main] ?? []).map((m) => nth(site.mainlines, m));
  const sensors = [
    ...pocs.flatMap((p) => pocSensing(w, p).sensors),
    ...above.flatMap((m) => (m.devices ?? []).filter((d) => d.kind === "flowSensor")),
  ];
  const sources = [...new Set(pocs.flatMap((p) => w.pocSources[p] ?? []))].map((i) => nth(site.sources, i));
  return {
    sensor: mark(sensors.map((d) => (d.kind === "flowSensor" ? d.output : null))),
    mainline: mark(
      above.map((m) => [
        m.feedIds,
        m.pipes.map((p) => [p.material, p.series, p.nominal, p.lengthM, p.insideDiameterMm ?? null]),
        (m.devices ?? []).filter((d) => d.kind !== "flowSensor").map(acting),
      ]),
    ),
    pressure: mark([
      sources.map((x) => [x.staticPressureKpa ?? null, x.pressureDropKpaAt ?? null]),
      pocs.map((p) =>
        (site.pocs[p]?.devices ?? [])
          .filter((d) => d.kind === "pump" || d.kind === "regulator" || d.kind === "backflow" || d.kind === "fixedLoss")
          .map(acting),
      ),
    ]),
    station: mark([
      s.mainlineId,
      s.emitter ?? null,
      s.emitters ?? null,
      s.elevationM ?? null,
      s.requiredKpa ?? null,
      s.usesPump ?? true,
    ]),
  };
}

/** What of a device acts on the flow: not who checked it, nor its name or wires. */
function acting(d: SiteFile["pocs"][number]["devices"][number]): unknown {
  const {
    name: _n,
    serial: _s,
    address: _a,
    checks: _c,
    controllerId: _k,
    wirePathId: _w,
    ...rest
  } = d as Record<string, unknown>;
  return rest;
}

/** FNV-1a, 32 bits, of the JSON text: a mark to compare, not a secret. */
function mark(value: unknown): string {
  let hash = 0x811c9dc5;
  for (const c of JSON.stringify(value)) hash = Math.imul(hash ^ (c.codePointAt(0) as number), 0x01000193) >>> 0;
  return hash.toString(16).padStart(8, "0");
}

/** What to learn again and why, the greatest risk first. */
export type StaleStation = { stationId: string; reasons: (StaleReason | "never")[]; risk: number };

const WEIGHT: Record<StaleReason | "never", number> = {
  never: 3,
  repair: 3,
  nights: 3,
  sensor: 3,
  pressure: 2,
  mainline: 1.5,
  station: 2,
  year: 1,
};

/**
 * Why a station's learned figure no longer stands on what it stood on; empty where it does, or there is none.
 *
 * @param nights what its nights say of it; one learned since is not contradicted by them
 */
export function staleReasons(
  w: Waterworks,
  station: Station,
  now: string,
  nights: NightMarks | null = null,
): StaleReason[] {
  const { learned } = station;
  if (!learned) return [];
  const reasons: StaleReason[] = [];
  const basis = learned.basis && basisOf(w, station.id);
  if (basis && learned.basis)
    for (const key of ["sensor", "mainline", "pressure", "station"] as const)
      if (basis[key] !== learned.basis[key]) reasons.push(key);
  if (station.repairedAt !== undefined && Date.parse(station.repairedAt) > Date.parse(learned.at))
    reasons.push("repair");
  if (nights?.contradicted.includes(station.id) && Date.parse(learned.at) < Date.parse(nights.workedAt))
    reasons.push("nights");
  if (Date.parse(now) - Date.parse(learned.at) > YEAR_MS && !isConfirmed(station, now, nights)) reasons.push("year");
  return reasons;
}

function isConfirmed({ id }: Station, now: string, nights: NightMarks | null): boolean {
  if (!nights?.confirmed.includes(id)) return false;
  return Date.parse(now) - Date.parse(nights.night) < CONFIRMED_MS;
}

/**
 * Stations whose figure is stale or was never learned, by risk: litres a week that are watched by that figure, times how much the reason shakes it.
 *
 * @param now ISO instant
 */
export function staleQueue(w: Waterworks, now: string, nights: NightMarks | null = null): StaleStation[] {
  const { site } = w;
  const minutes = new Map<string, number>();
  for (const p of site.programs)
    if (p.enabled !== false)
      for (const r of p.runs)
        minutes.set(
          r.stationId,
          (minutes.get(r.stationId) ?? 0) +
            r.minutes * Math.max(1, startsOn(p).length) * ruleOf(p.days).perWeek(p.days),
        );
  return site.stations
    .flatMap((s): StaleStation[] => {
      if (s.monitored === false) return [];
      const never: StaleStation["reasons"] = s.repairedAt ? ["never", "repair"] : ["never"];
      const reasons = s.learned ? staleReasons(w, s, now, nights) : never;
      if (reasons.length === 0) return [];
      const litres = (expectedFlow(s)?.lpm ?? 0) * (minutes.get(s.id) ?? 0);
      return [{ stationId: s.id, reasons, risk: litres * Math.max(...reasons.map((r) => WEIGHT[r])) }];
    })
    .sort((a, b) => b.risk - a.risk);
}
