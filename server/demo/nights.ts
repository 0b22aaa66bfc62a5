import { addDays, localDate } from "../../core/dates/wall-time.ts";
import { waterworks } from "../../core/network/waterworks.ts";
import { benchLog } from "../../core/reckon/bench-log.ts";
import { type KeptNight, keptNights, type ToldMorning, toldMornings } from "../../core/reckon/kept-nights.ts";
import type { Log, LogRow } from "../../core/reckon/stretches.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { type HalfDay, waterOfLog } from "../../core/record/log-days.ts";
import { keepMorning, keepNight } from "../db/mornings.ts";
import { keepWaterDay } from "../db/water.ts";

const EVERY_S = 5;
const AT_DUSK = "12:00:00";

type Played = { nights: number; faults: (daysAgo: number) => object[] };
/** What the nights before today have to tell: an outlet that broke three nights ago and that no limit sees, a filter that clogs for weeks, a break at one of two that always run together. */
const NIGHTS: Readonly<Record<string, Played>> = {
  "quarrel-hill": {
    nights: 6,
    faults: (ago) => (ago <= 3 ? [{ kind: "brokenOutlet", subjectId: "qh12", at: AT_DUSK, size: 14 }] : []),
  },
  "larkspur-clinic": {
    nights: 28,
    faults: (ago) => (ago <= 22 ? [{ kind: "clogged", subjectId: "lc5", at: AT_DUSK, size: 0.01 * (23 - ago) }] : []),
  },
  "hollin-bank": {
    nights: 8,
    faults: (ago) => (ago <= 2 ? [{ kind: "brokenOutlet", subjectId: "hb12", at: AT_DUSK, size: 20 }] : []),
  },
};

export type DemoNights = { fileId: string; kept: KeptNight[]; mornings: ToldMorning[]; water: HalfDay[] };

/** Nights of the bench behind some demo sites, as their gateways would have read them, and what each morning knew. Takes some seconds. */
export function demoNights(sites: readonly SiteFile[], now: Date): DemoNights[] {
  return sites.flatMap((file): DemoNights[] => {
    const played = NIGHTS[file.site.id];
    if (!played) return [];
    const w = waterworks(file);
    const log = playedLog(file, played, now);
    const kept = keptNights(w, log);
    return [{ fileId: file.site.id, kept, mornings: [...toldMornings(w, kept, [], "")], water: waterOfLog(w, log) }];
  });
}

export async function keepDemoNights(
  organisationId: string,
  loaded: ReadonlyMap<string, string>,
  nights: readonly DemoNights[],
): Promise<void> {
  for (const { fileId, kept, mornings, water } of nights) {
    const of = { organisationId, siteId: loaded.get(fileId) as string };
    for (const night of kept) await keepNight(of, night, "gateway", true);
    for (const morning of mornings) await keepMorning(of, 1, morning);
    for (const { figures, ...when } of water) await keepWaterDay(of, { ...when, source: "log" }, figures);
  }
}

/** All its nights up to yesterday's, one log. */
function playedLog(file: SiteFile, { nights, faults }: Played, now: Date): Log {
  const today = localDate(file.site.timeZone, Math.floor(now.getTime() / 1000));
  const rows: LogRow[] = [];
  for (let ago = nights; ago >= 1; ago--) {
    // What a night that goes on past midnight has told already is not told by the next day's beginning.
    const before = rows.findLast((r) => r.open.length > 0)?.t ?? 0;
    while ((rows.at(-1)?.t ?? 0) > before) rows.pop();
    const night = benchLog(file, { date: addDays(today, -ago), faults: faults(ago), seed: 1000 + ago }, EVERY_S);
    for (const row of night.rows) if (row.t > before) rows.push(row);
  }
  return { keys: file.pocs.map((p) => p.id), rows };
}
