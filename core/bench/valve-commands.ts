import { nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { BenchNight } from "./bench-night.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { ControllerRecord } from "./controller-record.ts";
import type { Commands } from "./plant.ts";
import type { SystemState } from "./system.ts";

/**
 * What stands open and runs from `t` on: a master valve for what calls it, hand-watering hours or a normally open one; a pump for what calls it; while a search goes on, what
 * the search says; nothing that is locked out.
 */
export function commandsFor(w: Waterworks, night: BenchNight, systems: readonly SystemState[], t: EpochS): Commands {
  const { site } = w;
  const stations = new Set(night.running.map((e) => e.station));
  for (const s of systems) if (s.search?.testing) stations.add(s.search.testing.entry.station);
  const calls = (above: (m: number) => boolean, uses: "usesMasterValve" | "usesPump"): boolean =>
    [...stations].some((s) => above(nth(w.stationMainline, s)) && site.stations[s]?.[uses] !== false);
  const pocValve = site.pocs.map((p, i) => {
    const search = systems[nth(w.systemOfPoc, i)]?.search;
    if (night.capacity.lockedPocs.has(i)) return false;
    if (search) return search.valves === "open";
    if (p.devices.some((d) => d.kind === "masterValve" && d.normally === "open")) return true;
    return calls((m) => (w.pocsAbove[m] ?? []).includes(i), "usesMasterValve") || night.capacity.reserveLpm(i, t) > 0;
  });
  const mainlineValve = site.mainlines.map((main, i) => {
    const search = systems[nth(w.systemOfMainline, i)]?.search;
    if (night.capacity.lockedMainlines.has(i)) return false;
    if (search) return search.valves === "open";
    if (main.devices?.some((d) => d.kind === "masterValve" && d.normally === "open")) return true;
    return calls((m) => (w.mainsAbove[m] ?? []).includes(i), "usesMasterValve");
  });
  const pump = site.pocs.map((_, i) => {
    const search = systems[nth(w.systemOfPoc, i)]?.search;
    if (night.capacity.lockedPocs.has(i)) return false;
    return (search?.pump ?? false) || calls((m) => (w.pocsAbove[m] ?? []).includes(i), "usesPump");
  });
  return { stations, pocValve, mainlineValve, pump };
}

/**
 * Tells which master valves and pumps turned, and why.
 * @param opensBefore by POC: its valve has opened before on this night; kept up here
 * @returns systems in which anything turned, stations too, and those in which a connection opens for the first time
 */
export function tellValves(
  record: ControllerRecord,
  before: Commands,
  after: Commands,
  opensBefore: boolean[],
  now: EpochS,
): { changed: Set<number>; firstOpening: Set<number> } {
  const { w, night, systems } = record;
  const changed = new Set<number>();
  const firstOpening = new Set<number>();
  for (const s of new Set([...before.stations, ...after.stations]))
    if (before.stations.has(s) !== after.stations.has(s)) changed.add(night.systemOf(s));
  const tellValve = (id: string, system: number, opens: boolean, why: Parameters<typeof valveReason>[2]): void => {
    changed.add(system);
    record.log(now, opens ? "masterValveOpen" : "masterValveShut", id, valveReason(systems[system], opens, why));
  };
  for (const [i, poc] of w.site.pocs.entries()) {
    const system = nth(w.systemOfPoc, i);
    const locked = night.capacity.lockedPocs.has(i);
    const opens = after.pocValve[i] === true;
    const valve = poc.devices.find((d) => d.kind === "masterValve");
    if (valve && before.pocValve[i] !== opens) {
      tellValve(valve.id, system, opens, {
        locked,
        byHand: night.capacity.reserveLpm(i, now) > 0,
        called: record.calls(i, after),
      });
      if (opens && !opensBefore[i]) firstOpening.add(system);
      if (opens) opensBefore[i] = true;
    }
    const pump = poc.devices.find((d) => d.kind === "pump");
    const starts = after.pump[i] === true;
    if (pump && before.pump[i] !== starts)
      record.log(now, starts ? "pumpOn" : "pumpOff", pump.id, pumpReason(systems[system], starts, locked));
  }
  for (const [i, main] of w.site.mainlines.entries()) {
    const valve = main.devices?.find((d) => d.kind === "masterValve");
    if (valve && before.mainlineValve[i] !== after.mainlineValve[i])
      tellValve(valve.id, nth(w.systemOfMainline, i), after.mainlineValve[i] === true, {
        locked: night.capacity.lockedMainlines.has(i),
        byHand: false,
        called: true,
      });
  }
  return { changed, firstOpening };
}

/** Why a master valve turned, in words. */
function valveReason(
  system: SystemState | undefined,
  opens: boolean,
  why: { locked: boolean; byHand: boolean; called: boolean },
): string {
  if (opens && system?.search)
    return system.search.testing ? "a station is tested alone" : "the mainline is tested with every station closed";
  if (opens) return !why.called && why.byHand ? "hand-watering hours begin" : "a station behind it opens";
  if (why.locked) return "locked out";
  if (system?.search) return "everything shut before the search";
  return system?.retest != null ? "shut before the retest" : "nothing behind it calls any more";
}

/** Why a pump turned, in words. */
function pumpReason(system: SystemState | undefined, starts: boolean, locked: boolean): string {
  if (starts)
    return system?.search && !system.search.testing
      ? "the mainline makes no pressure without it: at most 30 s against closed stations"
      : "a station that uses it runs";
  if (locked) return "locked out";
  return system?.search ? "off for the search, before the last valve closes" : "off before the last valve closes";
}
