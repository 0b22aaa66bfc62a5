import type { SiteFile, Station } from "../site-file/schema.ts";
import { readingMeaning, thresholds } from "./wire-reading.ts";

export const CHECK_UNITS = ["mA", "ohm"] as const;
/** What was measured at each station of a controller in turn: the current that it draws, mA, or the resistance of coil and wire, Ω. */
export type CheckUnit = (typeof CHECK_UNITS)[number];
export type CheckReading = { stationId: string; value: number };
export type ValveMeaning = "open" | "high" | "good" | "over" | "short";

/** What a solenoid of each kind draws while it is held, mA, where its own figure is not known. */
export const USUAL_MA = { ac24: 230, dcLatching: 120 } as const;
export const expectedMa = (s: Pick<Station, "solenoidMa" | "coil">): number =>
  s.solenoidMa ?? USUAL_MA[s.coil ?? "ac24"];

/**
 * What a current is, as a share of what the coil should draw. A coil's current is by its impedance and not by its resistance alone, so that the thresholds of a resistance
 * say nothing of it; these are set where a joint, a second coil on the wire and a shorted winding are told apart.
 */
export const MA_SHARES = { openUnder: 0.1, highUnder: 0.65, overFrom: 1.4, shortFrom: 2.5 } as const;

/** What a figure means at a station (handbook#14-season). */
export function valveMeaning(site: SiteFile, station: Station, unit: CheckUnit, value: number): ValveMeaning {
  if (unit === "ohm") return readingMeaning(value, station.coil ?? "ac24", thresholds(site));
  const share = value / expectedMa(station);
  if (share < MA_SHARES.openUnder) return "open";
  if (share < MA_SHARES.highUnder) return "high";
  if (share < MA_SHARES.overFrom) return "good";
  return share < MA_SHARES.shortFrom ? "over" : "short";
}

/** @property next what to look at first; nothing where it is good */
export const VALVE_WORDS: Record<ValveMeaning, { words: string; next: string }> = {
  open: {
    words: "open circuit",
    next: "A wire is off or cut, or the coil is burnt out. Measure at the coil itself with the wires off: good there, look along the wire and at the common.",
  },
  high: {
    words: "high resistance",
    next: "A wet or loose joint, a nicked wire, or a run too long for its gauge. Open the splice in the valve box first, then measure at the coil.",
  },
  good: { words: "good", next: "" },
  over: {
    words: "overcurrent",
    next: "Two coils on one wire, or a winding that begins to fail. See what else opens with it, then measure at the coil.",
  },
  short: {
    words: "short",
    next: "The wires touch, or the coil's winding has burnt together. Take the wires off at the coil: still short at the controller, it is the wire; else it is the coil.",
  },
};

export type CheckLine = {
  station: Station;
  /** Null: nothing was measured. */
  value: number | null;
  meaning: ValveMeaning | null;
  before: number | null;
  meaningBefore: ValveMeaning | null;
  /** Another meaning than last time, or another figure by more than measuring makes. */
  changed: boolean;
};
/** Measured twice, a figure differs by less than this share of it. */
const SAME_WITHIN = 0.15;

/** A check of a controller's stations, each beside what it was last time in the same unit. */
export function checkLines(
  site: SiteFile,
  controllerId: string,
  unit: CheckUnit,
  now: readonly CheckReading[],
  before: readonly CheckReading[],
): CheckLine[] {
  return site.stations
    .filter((s) => s.controllerId === controllerId)
    .sort((a, b) => a.number - b.number)
    .map((station): CheckLine => {
      const of = (all: readonly CheckReading[]): number | null =>
        all.find((r) => r.stationId === station.id)?.value ?? null;
      const [value, was] = [of(now), of(before)];
      const meaning = value === null ? null : valveMeaning(site, station, unit, value);
      const meaningBefore = was === null ? null : valveMeaning(site, station, unit, was);
      const changed =
        value !== null &&
        was !== null &&
        (meaning !== meaningBefore || Math.abs(value - was) > SAME_WITHIN * Math.max(value, was));
      return { station, value, meaning, before: was, meaningBefore, changed };
    });
}

/** What a meter shows where nothing flows or everything does. */
const SAID: Record<string, Record<CheckUnit, number>> = {
  open: { ohm: 1e6, mA: 0 },
  ol: { ohm: 1e6, mA: 0 },
  short: { ohm: 0, mA: 100_000 },
};
const LINE =
  /^\s*(?:station\s*|#)?(\d+)\s*[:;,\t ]\s*(?:[^\d\n]*?[:;,\t ]\s*)?(open|ol|short|\d+(?:[.,]\d+)?)\s*(ma|a|kohm|ohms?|k?Ω)?\s*$/i;

/** Readings as they were pasted, a line each: the station's number, then the figure. @property problems what could not be read, by line, in words */
export type PastedCheck = { readings: CheckReading[]; problems: string[] };

/**
 * Reads what was pasted of a check: "12, 231", "12: 0.23 A", "Station 12; 45 ohm", "12 open".
 *
 * @param unit of figures that say none
 */
export function readCheck(site: SiteFile, controllerId: string, unit: CheckUnit, text: string): PastedCheck {
  const readings = new Map<string, CheckReading>();
  const problems: string[] = [];
  for (const [i, line] of text.split(/\r?\n/).entries()) {
    if (line.trim() === "") continue;
    const found = LINE.exec(line);
    const at = `Line ${i + 1}, "${line.trim().slice(0, 40)}"`;
    if (!found) {
      // A head over the columns is no reading.
      if (i > 0 || /\d/.test(line)) problems.push(`${at}: a station's number and a figure are needed.`);
      continue;
    }
    const station = site.stations.find((s) => s.controllerId === controllerId && s.number === Number(found[1]));
    const value = figureOf(found[2] as string, found[3]?.toLowerCase(), unit);
    if (!station) problems.push(`${at}: this controller has no station ${found[1]}.`);
    else if (value === null) problems.push(`${at}: it is not in ${unit === "mA" ? "milliamperes" : "ohms"}.`);
    else if (readings.has(station.id)) problems.push(`${at}: station ${station.number} stands twice.`);
    else readings.set(station.id, { stationId: station.id, value });
  }
  return { readings: [...readings.values()], problems };
}

/** What a unit behind a figure makes of it. */
const TIMES: Record<CheckUnit, Record<string, number>> = {
  mA: { ma: 1, a: 1000 },
  ohm: { ohm: 1, ohms: 1, ω: 1, kohm: 1000, kω: 1000 },
};

/** In the unit asked for; null: it is of the other. */
function figureOf(text: string, said: string | undefined, unit: CheckUnit): number | null {
  const word = SAID[text.toLowerCase()];
  if (word) return word[unit];
  const figure = Number(text.replace(",", "."));
  if (said === undefined) return figure;
  const times = TIMES[unit][said];
  return times === undefined ? null : figure * times;
}
