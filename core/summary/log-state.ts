import type { NightMarks } from "../learn/basis.ts";

/** A night that was rehearsed on the bench and taken into the log. */
export type Rehearsal = {
  version: number;
  at: string;
  by: string;
  faults: number;
  alarms: number;
  unwateredMin: number;
};
/**
 * What the controllers at the other end were last known to hold: how many of them were read back, items that differ and nobody noted, when the one that was read longest ago
 * was read, and whether settings are on their way.
 */
export type There = { read: number; differs: number; oldestReadAt: string | null; sending: boolean };
/** What of the site's history the fittings rest on: the newest rehearsal without faults, and the newest with them; null for controllers that nobody can reach. */
export type LogState = {
  openAlarms: number;
  calm: Rehearsal | null;
  faulted: Rehearsal | null;
  there: There | null;
  /** What the newest morning says of figures; null where no night was read. */
  nights: NightMarks | null;
  version: number;
};
