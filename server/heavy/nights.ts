import { waterworks } from "../../core/network/waterworks.ts";
import type { Finding } from "../../core/reckon/findings.ts";
import { type KeptNight, keptNights, type ToldMorning, toldMornings } from "../../core/reckon/kept-nights.ts";
import { waterOfLog } from "../../core/record/log-days.ts";
import { readLog } from "../../core/reckon/read-log.ts";
import type { LogRow } from "../../core/reckon/stretches.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";

/** Readings of a stretch of time, as the database keeps them. */
export type ReadRow = { at: number; open: string[]; flow: Record<string, number> };
export type ReadNights =
  | { ok: true; nights: KeptNight[]; water: ReturnType<typeof waterOfLog> }
  | { ok: false; problem: string };

/** What is known after each of some nights. */
export const nightTasks = {
  nightsOfRows(site: SiteFile, rows: ReadRow[]): KeptNight[] {
    const place = new Map(site.stations.map((s, i) => [s.id, i]));
    const keys = [...new Set(rows.flatMap((r) => Object.keys(r.flow)))].sort();
    // A row that names a station that is gone says nothing of those that are there.
    const read = rows.flatMap((r): LogRow[] => {
      const open = r.open.map((id) => place.get(id));
      return open.includes(undefined)
        ? []
        : [{ t: r.at, flow: keys.map((k) => r.flow[k] ?? null), open: open as number[] }];
    });
    return keptNights(waterworks(site), { keys, rows: read });
  },

  nightsOfLog(site: SiteFile, text: string): ReadNights {
    const read = readLog(site, text);
    const w = waterworks(site);
    return read.ok
      ? { ok: true, nights: keptNights(w, read.log), water: waterOfLog(w, read.log) }
      : { ok: false, problem: `Line ${read.problem.line}: ${read.problem.message}` };
  },

  mornings: (site: SiteFile, kept: KeptNight[], before: Finding[], from: string): ToldMorning[] => [
    ...toldMornings(waterworks(site), kept, before, from),
  ],
};
