import type { SiteFile } from "../site-file/schema.ts";
import { showQuantity } from "../units/units.ts";
import type { AlarmKind, AlarmNote } from "./alarm.ts";

export function subjectName(site: SiteFile, id: string): string {
  const station = site.stations.find((s) => s.id === id);
  if (station) return `station ${station.number} ${station.name}`;
  const element = [...site.sources, ...site.pocs, ...site.mainlines, ...site.controllers, ...site.programs].find(
    (x) => x.id === id,
  );
  if (element) return element.name;
  const device = [
    ...site.pocs.flatMap((p) => p.devices),
    ...site.mainlines.flatMap((m) => [...m.pipes, ...(m.devices ?? [])]),
  ].find((d) => d.id === id);
  return device?.name ?? id;
}

/** An alarm in words: what was read against what was expected, what it means, what to look for. */
const TAILS: Partial<Record<AlarmNote, string>> = {
  searchedBefore: " The same set was searched already tonight, so this only notifies.",
  stopStation: " All that ran were closed and locked out.",
  controllerSilent: " The controller said nothing of it: its own limits are off or wider than these; nothing was shut.",
  onlyTold: " Read live: Presa only tells, nothing was shut.",
};

export function alarmWords(
  site: SiteFile,
  alarm: {
    kind: AlarmKind;
    subjectId: string;
    measuredLpm: number;
    expectedLpm: number;
    note?: AlarmNote | undefined;
    kPa?: { measured: number; limit: number } | undefined;
  },
): string {
  const who = subjectName(site, alarm.subjectId);
  const flow = (lpm: number): string => showQuantity(lpm, "flow", site.site.units, 1);
  const flows = `${flow(alarm.measuredLpm)} read, ${flow(alarm.expectedLpm)} expected`;
  const tail = (alarm.note && TAILS[alarm.note]) ?? "";
  const pressure = (kPa: number): string => showQuantity(kPa, "pressure", site.site.units);
  switch (alarm.kind) {
    case "pressureLow":
      return `Pressure at ${who} is under its limit: ${pressure(alarm.kPa?.measured ?? 0)}, limit ${pressure(alarm.kPa?.limit ?? 0)}, while ${flow(alarm.measuredLpm)} flows. The supply, the pump, or too much open at once; no station is to blame.${tail}`;
    case "pressureHigh":
      return `Pressure at ${who} is over its limit: ${pressure(alarm.kPa?.measured ?? 0)}, limit ${pressure(alarm.kPa?.limit ?? 0)}. A regulator that passes, or a pump that runs too fast; relieve pressure before opening a fitting.${tail}`;
    case "stationHigh":
      return `High flow at ${who}: ${flows}. Look for a broken lateral, a broken or missing nozzle.${tail}`;
    case "stationLow":
      return `Low flow at ${who}: ${flows}. Look for a clogged filter, a valve half open, a throttled flow control.${tail}`;
    case "mainline":
      return `${who} leaks, or a valve on it is stuck open: ${flow(alarm.measuredLpm)} with every station closed. It is shut and locked out.`;
    case "supply":
      return `Everything on ${who} is low: ${flows}. The supply is closed or empty or its pump failed; or the flow sensor is dead. No station is to blame.`;
    case "burst":
      return `Burst limit passed at ${who}: ${flows}. A main or lateral has opened wide; find it before the water is turned on again.${tail}`;
    case "offSchedule":
      return `Flow at ${who} while nothing is scheduled: ${flow(alarm.measuredLpm)}. A leak, a stuck valve, or someone watering by hand.${tail}`;
    case "notFoundAgain":
      return `The high or low flow on ${who} was not found again with each station alone. Watering went on.`;
    case "pumpNoFlow":
      if (alarm.note === "onlyTold" || alarm.note === "controllerSilent")
        return `Pump ${who} has run 60 s against no flow. Water in it can reach scalding heat; have it stopped, and let it cool before opening.${tail}`;
      return `Pump ${who} ran 60 s against no flow and was stopped. Water in it can reach scalding heat; let it cool before opening.`;
    case "sensor":
      if (alarm.note === "highInARow")
        return `The second station high in a row while the mainline is tight: suspect flow sensor ${who}, its constant, or raised pressure, before the first one too. It is not locked out; watering goes on unjudged.`;
      return alarm.note === "sensorBySupply"
        ? `Flow sensor ${who} reads nothing while there is pressure: a broken wire, reversed polarity or a seized wheel. Watering goes on unjudged.`
        : `Every station tested is high and the mainline is tight: suspect flow sensor ${who}, its constant or inside diameter, or raised pressure. Nothing is locked; watering goes on unjudged.`;
  }
}
