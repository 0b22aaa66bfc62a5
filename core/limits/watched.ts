import type { PlanRun } from "../dispatch/plan.ts";
import { waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../sensors/sensing.ts";
import type { SiteFile } from "../site-file/schema.ts";

/**
 * Watched minutes ÷ run minutes (handbook 8): every valve change of a connected system starts its hold-off again, and a limit needs
 * persistence after it, so what remains of each unbroken stretch is what is really watched. Systems without a flow
 * sensor on every POC are not watched at all. Null without runs.
 */
export function watchedShare(site: SiteFile, runs: PlanRun[]): number | null {
  const by = watchedByStation(site, runs);
  const run = [...by.values()].reduce((sum, s) => sum + s.runS, 0);
  return run === 0 ? null : [...by.values()].reduce((sum, s) => sum + s.watchedS, 0) / run;
}

export function watchedByStation(site: SiteFile, runs: PlanRun[]): Map<string, { runS: number; watchedS: number }> {
  const w = waterworks(site);
  const found = new Map<string, { runS: number; watchedS: number }>();
  for (let system = 0; system < w.systemCount; system++) {
    const mine = runs.flatMap((r) => {
      const s = w.stationIndex.get(r.stationId) as number;
      return w.systemOfMainline[w.stationMainline[s] as number] === system ? [{ ...r, s, from: Date.parse(r.start) / 1000, to: Date.parse(r.end) / 1000 }] : [];
    });
    if (mine.length === 0) continue;
    const pocs = site.pocs.filter((_, p) => w.systemOfPoc[p] === system);
    const seen = pocs.length > 0 && pocs.every((p) => ["own", "mainlines"].includes(pocSensing(w, w.pocIndex.get(p.id) as number).by));
    const holdOffS = Math.max(...site.mainlines.flatMap((m, i) => (w.systemOfMainline[i] === system ? [m.holdOffS ?? 60] : [])));
    const changes = [...new Set(mine.flatMap((r) => [r.from, r.to]))].sort((a, b) => a - b);
    for (const r of mine) {
      let watchedS = 0;
      const own = Math.max(holdOffS, site.stations[r.s]?.holdOffS ?? 0);
      for (let i = 0; i + 1 < changes.length; i++) {
        const [a, b] = [changes[i] as number, changes[i + 1] as number];
        if (a < r.from || b > r.to || !seen) continue;
        const judged = b - a - own;
        if (judged >= site.policy.persistenceS) watchedS += judged;
      }
      const known = found.get(r.stationId) ?? { runS: 0, watchedS: 0 };
      found.set(r.stationId, { runS: known.runS + r.to - r.from, watchedS: known.watchedS + watchedS });
    }
  }
  return found;
}
