import { patched } from "../site-file/patch.ts";
import type { SiteFile } from "../site-file/schema.ts";

export type Thresholds = { [K in keyof NonNullable<SiteFile["wireThresholds"]>]-?: number };
/** Usual for 24 V AC coils of 20 to 60 Ω and for latching coils of 3 to 8 Ω; makers differ, so every figure can be changed. */
export const USUAL_THRESHOLDS: Thresholds = {
  shortUnderOhm: 15,
  highOverOhm: 75,
  openOverOhm: 1000,
  latchingShortUnderOhm: 2,
  latchingHighOverOhm: 25,
  runOverOhm: 12,
};

export type ReadingMeaning = "short" | "good" | "high" | "open";

export function thresholds(site: SiteFile): Thresholds {
  return patched(USUAL_THRESHOLDS, site.wireThresholds ?? {});
}

/** What a resistance over a coil, or over coil and wire at the controller, means. */
export function readingMeaning(ohm: number, coil: "ac24" | "dcLatching", t: Thresholds): ReadingMeaning {
  if (ohm > t.openOverOhm) return "open";
  if (ohm < (coil === "dcLatching" ? t.latchingShortUnderOhm : t.shortUnderOhm)) return "short";
  return ohm > (coil === "dcLatching" ? t.latchingHighOverOhm : t.highOverOhm) ? "high" : "good";
}

export type WireState = {
  subjectId: string;
  coilOhm: number | null;
  controllerOhm: number | null;
  /** Of the wire run: at the controller less at the coil, Ω. */
  runOhm: number | null;
  meaning: ReadingMeaning;
  /** The run itself takes more than it should: a joint or a nick. */
  runHigh: boolean;
  at: string;
  by: string;
};

/** The newest readings of a station or device, together. Null when none was taken. */
export function wireState(site: SiteFile, subjectId: string, coil: "ac24" | "dcLatching"): WireState | null {
  const mine = (site.wireReadings ?? [])
    .filter((r) => r.subjectId === subjectId)
    .sort((a, b) => Date.parse(a.at) - Date.parse(b.at));
  const newest = mine[mine.length - 1];
  if (!newest) return null;
  const last = (where: "coil" | "controller") => mine.findLast((r) => (r.where ?? "controller") === where)?.ohm ?? null;
  const [coilOhm, controllerOhm] = [last("coil"), last("controller")];
  const t = thresholds(site);
  const runOhm =
    coilOhm === null || controllerOhm === null || controllerOhm > t.openOverOhm
      ? null
      : Math.max(0, controllerOhm - coilOhm);
  return {
    subjectId,
    coilOhm,
    controllerOhm,
    runOhm,
    meaning: readingMeaning(newest.ohm, coil, t),
    runHigh: runOhm !== null && runOhm > t.runOverOhm,
    at: newest.at,
    by: newest.by,
  };
}
