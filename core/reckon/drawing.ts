import { BenchNetwork } from "../bench/bench-network.ts";
import { nth } from "../checked.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";

/** What the network leaves of each station's flow when a set runs together, by place: 1 where it draws what it draws alone (handbook#12-last-night, ρ). */
export function sharesOf(w: Waterworks, open: readonly number[]): Map<number, number> {
  const { site } = w;
  const system = (s: number): number | undefined => w.systemOfMainline[nth(w.stationMainline, s)];
  const pumped = new Set(open.filter((s) => site.stations[s]?.usesPump !== false).map(system));
  const pumpOn = site.pocs.map((_, p) => pumped.has(w.systemOfPoc[p] ?? -1));
  const solution = BenchNetwork.of(w).solve(`reckoned ${open.join()}|${pumpOn.map(Number).join("")}`, () => ({
    stations: open.map((station) => ({ station, share: 1, brokenLpm: 0 })),
    breaks: [],
    pocLive: site.pocs.map((p) => p.enabled !== false),
    mainShut: site.mainlines.map((m) => m.enabled === false),
    pumpOn,
    sourceShut: site.sources.map((s) => s.enabled === false),
    pocDropKpa: site.pocs.map(() => 0),
    sourceDropKpa: site.sources.map(() => 0),
  }));
  return new Map(
    open.map((s) => {
      const expected = expectedFlow(nth(site.stations, s))?.lpm ?? 0;
      const drawn = solution.ownLpm.get(s) ?? 0;
      return [s, expected > 0 && drawn > 0 ? drawn / expected : 1];
    }),
  );
}
