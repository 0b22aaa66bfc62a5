import { nth } from "../checked.ts";
import type { Night } from "../dispatch/night.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";
import type { FastNight, NightScore } from "./fast-night.ts";
import type { Tuning } from "./fast-facts.ts";

type Run = Program["runs"][number];

/** Negative when `a` is the better night: fewer seconds short, an earlier end, fewer starts of pumps, a smoother flow. */
export function compareScores(a: NightScore, b: NightScore): number {
  for (let i = 0; i < 3; i++) if (a[i] !== b[i]) return nth(a, i) - nth(b, i);
  return Math.abs(a[3] - b[3]) < 1e-6 ? 0 : a[3] - b[3];
}

/** The score of a night that the dispatcher played. */
export function playedScore(w: Waterworks, night: Night): NightScore {
  const shortS = night.starts.reduce((sum, s) => sum + s.entries.reduce((a, e) => a + e.shortS, 0), 0);
  const first = night.starts[0]?.at ?? 0;
  const end = night.runs.reduce((latest, r) => Math.max(latest, r.end), first);
  const pumped = w.site.pocs.flatMap((p, i) => (p.devices.some((d) => d.kind === "pump") ? [i] : []));
  const pumpOf = w.site.mainlines.map((_, m) => pumped.findIndex((p) => (w.pocsAbove[m] ?? []).includes(p)));
  const moments = [...new Set(night.runs.flatMap((r) => [r.start, r.end]))].sort((a, b) => a - b);
  let flow = 0;
  let pumpStarts = 0;
  let roughness = 0;
  let on = pumped.map(() => false);
  for (const at of moments) {
    const running = night.runs.filter((r) => r.start <= at && at < r.end);
    const now = running.reduce((sum, r) => sum + (r.flowLpm ?? 0), 0);
    roughness += Math.abs(now - flow);
    flow = now;
    const behind = pumped.map((_, n) => running.some((r) => pumpOf[nth(w.stationMainline, r.station)] === n));
    pumpStarts += behind.filter((b, n) => b && !on[n]).length;
    on = behind;
  }
  return [shortS, end - first, pumpStarts, roughness];
}

/** A station that stands in a program more than once keeps its runs in the order of the file: an order of stations says which run is which. */
function repeatsAsFiled(filed: readonly Run[], ordered: readonly Run[]): Run[] {
  const left = new Map<string, Run[]>();
  for (const r of filed) left.set(r.stationId, [...(left.get(r.stationId) ?? []), r]);
  return ordered.map((r) => left.get(r.stationId)?.shift() ?? r);
}

/** Seconds that each station stays short, by its place in the file. */
export function shortByStation(night: Night): Map<number, number> {
  const short = new Map<number, number>();
  for (const start of night.starts)
    for (const e of start.entries) if (e.shortS > 0) short.set(e.station, (short.get(e.station) ?? 0) + e.shortS);
  return short;
}

/** The site with a tuning put into its programs. With `fast`, places are those of the entries that can run; what cannot keeps its turn at the end. */
export function tuned(site: SiteFile, fast: FastNight | null, tuning: Tuning): SiteFile {
  return {
    ...site,
    programs: site.programs.map((p, i) => {
      const t = tuning[i];
      if (!t) return p;
      const ids = fast ? t.order.map((n) => nth(site.stations, fast.stationOf(i, n)).id) : [];
      const rank = new Map(ids.map((id, n) => [id, n]));
      const runs = fast
        ? [...p.runs].sort((a, b) => (rank.get(a.stationId) ?? 1e9) - (rank.get(b.stationId) ?? 1e9))
        : repeatsAsFiled(
            p.runs,
            t.order.map((n) => nth(p.runs, n)),
          );
      const same = runs.every((r, n) => r === p.runs[n]);
      return {
        ...p,
        ...(same ? {} : { runs }),
        ...(t.priority === (p.priority ?? 1) ? {} : { priority: t.priority }),
        ...(t.atOnce === (p.maxStationsAtOnce ?? 1) ? {} : { maxStationsAtOnce: t.atOnce }),
      };
    }),
  };
}
