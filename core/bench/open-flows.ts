import { nth } from "../checked.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { OpenSolution, OpenState } from "./bench-network.ts";
import { carry, type LiveFeeds } from "./carry.ts";

/** Water that a break or a hose lets out; `lost`: nobody wants it. */
export type Break = OpenState["breaks"][number] & { lost: boolean };
/** What stands open: a station gives so much, some of it to its outlets and some through what is broken, L/min. */
export type OpenStation = { station: number; ownLpm: number; brokenLpm: number; use: "watered" | "lost" | null };

/**
 * Where the water goes at the supply's usual pressure, L/min. All flows of a connected system grow and shrink alike with its supply, so that as long as nothing opens or shuts they are only
 * multiplied, second by second.
 */
export type OpenFlows = {
  stationLpm: [station: number, system: number, lpm: number][];
  pocLpm: number[];
  mainlineLpm: number[];
  /** By connected system; what is taken by hand is neither before it is known what is allowed. */
  lostLpm: number[];
  deliveredLpm: number[];
  byHandLpm: number[];
};

/** Adds up what stands open and carries it up to the points of connection. */
export function openFlows(
  w: Waterworks,
  open: readonly OpenStation[],
  breaks: readonly Break[],
  pocLive: readonly boolean[],
  feeds: LiveFeeds,
  solved: OpenSolution | null,
): OpenFlows {
  const bySystem = (): number[] => Array.from({ length: w.systemCount }, () => 0);
  const add = (to: number[], at: number, lpm: number): void => {
    to[at] = nth(to, at) + lpm;
  };
  const [lostLpm, deliveredLpm, byHandLpm] = [bySystem(), bySystem(), bySystem()];
  const demand = w.site.mainlines.map(() => 0);
  const atPoc = w.site.pocs.map(() => 0);
  const stationLpm = open.map(({ station, ownLpm, brokenLpm, use }): [number, number, number] => {
    const main = nth(w.stationMainline, station);
    const system = nth(w.systemOfMainline, main);
    if (use === "watered") add(deliveredLpm, system, ownLpm);
    if (use === "lost") add(lostLpm, system, ownLpm);
    add(lostLpm, system, brokenLpm);
    add(demand, main, ownLpm + brokenLpm);
    return [station, system, ownLpm + brokenLpm];
  });
  for (const [i, b] of breaks.entries()) {
    const ofMain = b.kind === "mainline";
    if (!(ofMain ? feeds.of[b.place]?.live : pocLive[b.place])) continue;
    const system = nth(ofMain ? w.systemOfMainline : w.systemOfPoc, b.place);
    const lpm = solved ? (solved.breakLpm[i] ?? 0) : b.lpm;
    add(ofMain ? demand : atPoc, b.place, lpm);
    add(b.lost ? lostLpm : byHandLpm, system, lpm);
  }
  const { pocLpm, mainlineLpm } = carry(w, demand, feeds, solved);
  return {
    stationLpm,
    pocLpm: pocLpm.map((lpm, p) => lpm + nth(atPoc, p)),
    mainlineLpm,
    lostLpm,
    deliveredLpm,
    byHandLpm,
  };
}
