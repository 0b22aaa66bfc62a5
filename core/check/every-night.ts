import { localDate } from "../dates/wall-time.ts";
import { type ProgramStart, programStarts } from "../dispatch/queue.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";

type EveryNight = { w: Waterworks; date: string; starts: ProgramStart[] };
const known = new WeakMap<SiteFile, EveryNight>();

/** The starts of a night on which every program is due, holds and dates aside: for what is wrong on any night, not on one. */
export function everyNight(site: SiteFile): EveryNight {
  const found = known.get(site);
  if (found) return found;
  const always: SiteFile = {
    ...site,
    site: { ...site.site, holdUntil: undefined },
    programs: site.programs.map((p) => ({
      ...p,
      from: undefined,
      until: undefined,
      holdUntil: undefined,
      days: { type: "interval", everyDays: 1, anchor: "2000-01-01" },
    })),
  };
  const w = waterworks(always);
  const date = localDate(site.site.timeZone, Date.UTC(2001, 5, 15) / 1000);
  const made = { w, date, starts: programStarts(w, date) };
  known.set(site, made);
  return made;
}
