import type { Waterworks } from "../network/waterworks.ts";
import type { OpenSolution } from "./bench-network.ts";

/** Through which POCs and mainlines a mainline stands under pressure, if it does. */
export type Feeds = { live: boolean; pocs: number[]; mains: number[] };
/** By mainline; `upward`: the mainlines in an order in which each comes before those that feed it. */
export type LiveFeeds = { of: Feeds[]; upward: number[] };

/** Which mainlines stand under pressure, and through which feeds. */
export function liveFeeds(w: Waterworks, pocLive: readonly boolean[], mainOpen: (m: number) => boolean): LiveFeeds {
  const upward: number[] = [];
  const known: (Feeds | undefined)[] = [];
  const visit = (m: number): Feeds => {
    const ready = known[m];
    if (ready) return ready;
    const open = mainOpen(m);
    const pocs = open ? (w.feedPocs[m] ?? []).filter((p) => pocLive[p]) : [];
    const mains = open ? (w.feedMainlines[m] ?? []).filter((f) => visit(f).live) : [];
    const made = { live: pocs.length + mains.length > 0, pocs, mains };
    known[m] = made;
    upward.unshift(m);
    return made;
  };
  return { of: w.site.mainlines.map((_, m) => visit(m)), upward };
}

/** Carries each mainline's demand, L/min, up its live feeds, divided as the network divides it; on the exact bench by their ceilings. */
export function carry(
  w: Waterworks,
  demand: readonly number[],
  { of: feeds, upward }: LiveFeeds,
  solved: OpenSolution | null,
): { pocLpm: number[]; mainlineLpm: number[] } {
  const pocLpm = w.site.pocs.map(() => 0);
  const mainlineLpm = [...demand];
  for (const m of upward) {
    const q = mainlineLpm[m] ?? 0;
    if (q <= 0) continue;
    const { pocs, mains } = feeds[m] ?? { pocs: [], mains: [] };
    const parts = shares(w, m, pocs, mains, solved);
    let total = 0;
    for (const x of parts) total += x;
    if (total <= 0) continue;
    for (const [i, p] of pocs.entries()) pocLpm[p] = (pocLpm[p] ?? 0) + (q * (parts[i] ?? 0)) / total;
    for (const [i, f] of mains.entries())
      mainlineLpm[f] = (mainlineLpm[f] ?? 0) + (q * (parts[pocs.length + i] ?? 0)) / total;
  }
  return { pocLpm, mainlineLpm };
}

/** Weight of each feed of a mainline, POCs first: its flow where the network is known, else its ceiling. */
function shares(w: Waterworks, m: number, pocs: number[], mains: number[], solved: OpenSolution | null): number[] {
  const through = solved?.feedLpm[m];
  if (through && (through.pocs.some((x) => x > 0) || through.mains.some((x) => x > 0)))
    return [
      ...pocs.map((p) => through.pocs[(w.feedPocs[m] ?? []).indexOf(p)] ?? 0),
      ...mains.map((f) => through.mains[(w.feedMainlines[m] ?? []).indexOf(f)] ?? 0),
    ];
  return [...pocs.map((p) => weight(w.pocCeiling[p])), ...mains.map((f) => weight(w.mainlineCeiling[f]))];
}

function weight(ceiling: number | undefined): number {
  return ceiling !== undefined && Number.isFinite(ceiling) && ceiling > 0 ? ceiling : 1;
}
