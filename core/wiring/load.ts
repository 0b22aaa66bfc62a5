import type { Controller, Device, SiteFile } from "../site-file/schema.ts";

/** Typical holding currents, mA, where the sheet's figure is not entered: marked so wherever they count. */
export const TYPICAL_MA = { solenoid: 250, masterValve: 250, pumpRelay: 300 } as const;

export type Load = {
  controllerId: string;
  /** Stations that can be open at once. */
  stationsAtOnce: number;
  solenoidsMa: number;
  masterValvesMa: number;
  pumpRelaysMa: number;
  totalMa: number;
  budgetMa: number | null;
  /** Some of it rests on a typical figure. */
  typical: boolean;
};

/** Devices that a controller switches: those wired to it; a site with one controller wires all to it. */
export function wiredTo(site: SiteFile, controller: Controller): Device[] {
  const all = [...site.pocs.flatMap((p) => p.devices), ...site.mainlines.flatMap((m) => m.devices ?? [])];
  return all.filter(
    (d) => (d.controllerId ?? (site.controllers.length === 1 ? site.controllers[0]?.id : undefined)) === controller.id,
  );
}

/**
 * The most that a controller has to hold at once: its largest solenoids, as many as its numbers let run, with every master valve and pump
 * relay on it. Against its milliampere budget (handbook#2-terms).
 */
export function controllerLoad(site: SiteFile, controller: Controller): Load {
  const mine = site.stations.filter((s) => s.controllerId === controller.id);
  const programs = site.programs.filter((p) => p.controllerId === controller.id && p.enabled !== false);
  const byPrograms = programs.reduce((sum, p) => sum + Math.min(p.maxStationsAtOnce ?? 1, p.runs.length), 0);
  const stationsAtOnce = Math.min(
    mine.length,
    controller.maxStationsAtOnce ?? Number.POSITIVE_INFINITY,
    site.site.maxStationsAtOnce ?? Number.POSITIVE_INFINITY,
    byPrograms,
  );
  const currents = mine
    .map((s) => s.solenoidMa ?? TYPICAL_MA.solenoid)
    .sort((a, b) => b - a)
    .slice(0, stationsAtOnce);
  const devices = wiredTo(site, controller);
  const sum = (values: number[]): number => values.reduce((a, b) => a + b, 0);
  const solenoidsMa = sum(currents);
  const valves = devices.flatMap((d) => (d.kind === "masterValve" ? [d.solenoidMa] : []));
  const relays = devices.flatMap((d) => (d.kind === "pump" ? [d.relayMa] : []));
  const masterValvesMa = sum(valves.map((ma) => ma ?? TYPICAL_MA.masterValve));
  const pumpRelaysMa = sum(relays.map((ma) => ma ?? TYPICAL_MA.pumpRelay));
  return {
    controllerId: controller.id,
    stationsAtOnce,
    solenoidsMa,
    masterValvesMa,
    pumpRelaysMa,
    totalMa: solenoidsMa + masterValvesMa + pumpRelaysMa,
    budgetMa: controller.budgetMa ?? null,
    typical: mine.some((s) => s.solenoidMa === undefined) || valves.includes(undefined) || relays.includes(undefined),
  };
}
