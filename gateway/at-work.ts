import type { Held, Ordered } from "../core/at-controller/held.ts";
import type { BenchDay } from "../core/bench/bench-day.ts";
import type { EpochS } from "../core/dates/wall-time.ts";
import { settingsOf } from "../core/settings/settings-of.ts";
import { lockedIn } from "../core/site-file/locks.ts";
import type { SiteFile } from "../core/site-file/schema.ts";

/** What the controllers of a site have to remember to go on as they were: it is kept on disk. */
export type AtWork = {
  held: Held[];
  lockouts: string[];
  /** Of the day that is lived. */
  ordered: Ordered[];
  /** When they were last set otherwise, and which starts had begun by then: one that would lie in the past is not run after it. */
  settled: { at: EpochS; starts: string[] } | null;
};

/** Controllers that hold what the site's file says, as someone who set them up by it left them. */
export function setUpBy(site: SiteFile): AtWork {
  return {
    held: site.controllers.map((c) => ({
      controllerId: c.id,
      settings: settingsOf(site, c.id),
      number: 0,
      byHandAt: null,
      clockOffS: 0,
      profile: null,
    })),
    lockouts: lockedIn(site),
    ordered: [],
    settled: null,
  };
}

/** Starts that were not there when their time came are not run for it afterwards. */
export function forgetPast(day: BenchDay, settled: { at: EpochS; starts: string[] }): void {
  const { starts } = day.night;
  for (let i = starts.length - 1; i >= 0; i--) {
    const start = starts[i];
    if (!start || start.at >= settled.at) continue;
    if (!settled.starts.includes(`${day.site.programs[start.program]?.id}@${start.at}`)) starts.splice(i, 1);
  }
}
