import type { EpochS } from "../dates/wall-time.ts";

export type NightWarning = { code: NightWarningCode; subjectId?: string; at?: EpochS; otherAt?: EpochS };
export type NightWarningCode =
  | "held"
  | "controllerOff"
  | "startsQueue"
  | "startCut"
  | "startTwice"
  | "noFlow"
  | "lockedOut"
  | "aboveCeiling"
  | "noSupply"
  | "pumpMinimum"
  | "timeSkipped"
  | "dayEnd";

/** Adds a warning; one that says the same of the same subject is told once (starts that queue: once a start). */
export function warnOnce(
  warnings: NightWarning[],
  code: NightWarningCode,
  subjectId?: string,
  at?: EpochS,
  otherAt?: EpochS,
): void {
  if (warnings.some((w) => w.code === code && w.subjectId === subjectId && (code !== "startsQueue" || w.at === at)))
    return;
  warnings.push({
    code,
    ...(subjectId === undefined ? {} : { subjectId }),
    ...(at === undefined ? {} : { at }),
    ...(otherAt === undefined ? {} : { otherAt }),
  });
}
