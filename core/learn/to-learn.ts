import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { type NightMarks, staleQueue } from "./basis.ts";
import { refusals } from "./refusals.ts";

/** What is learned where nobody ticks stations: what is stale or was never learned, or all. */
export const WHICH_TO_LEARN = ["stale", "all"] as const;
export type WhichToLearn = (typeof WHICH_TO_LEARN)[number];
export type ToLearn = Record<WhichToLearn, string[]> & { refused: number };

/**
 * Stations of these controllers that can be learned: those whose figure is stale or was never learned, the greatest risk first, and all (handbook#7-learning).
 *
 * @param now ISO instant
 * @returns `refused`: how many of the stale ones cannot be learned as the site stands
 */
export function toLearn(
  site: SiteFile,
  controllerIds: string[],
  now: string,
  nights: NightMarks | null = null,
): ToLearn {
  const mine = new Set(site.stations.flatMap((s) => (controllerIds.includes(s.controllerId) ? [s.id] : [])));
  const not = new Set(refusals(site).map((r) => r.stationId));
  const stale = staleQueue(waterworks(site), now, nights).flatMap((q) => (mine.has(q.stationId) ? [q.stationId] : []));
  return {
    stale: stale.filter((id) => !not.has(id)),
    all: [...mine].filter((id) => !not.has(id)),
    refused: stale.filter((id) => not.has(id)).length,
  };
}
