import { instantOf, localIso } from "../dates/wall-time.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { LearnEvent, LearnOptions } from "./events.ts";
import { timeLimitS } from "./system-run.ts";
import { beginLearning } from "./learn.ts";
import { USUAL_STEADY } from "./steady.ts";

/** What learning will take: worked out by running it on an exact bench, where every flow is steady at once. */
export type Rehearsal = {
  seconds: number;
  litres: number;
  /** Local instant at which the last station is read. */
  endsAt: string;
  /** Seconds more if none became steady before its limit. */
  atMostMoreS: number;
  waits: { from: string; to: string; why: Extract<LearnEvent, { type: "waits" }>["why"] }[];
  /** Stations that the window leaves. */
  leftIds: string[];
  /** In the order in which they are opened. */
  order: { stationId: string; at: string; withIds: string[] }[];
};

/** Null where the options name a station that is not there. */
export function rehearseLearning(
  site: SiteFile,
  options: Omit<LearnOptions, "faults" | "exact" | "seed">,
): Rehearsal | null {
  const begun = beginLearning(site, { ...options, exact: true });
  if (!begun.ok) return null;
  const zone = site.site.timeZone;
  const clock = (at: number): string => localIso(zone, at);
  const begin = instantOf(zone, options.date, options.from ?? "00:00");
  const found: Rehearsal = {
    seconds: 0,
    litres: 0,
    endsAt: clock(begin),
    atMostMoreS: 0,
    waits: [],
    leftIds: [],
    order: [],
  };
  for (;;) {
    const next = begun.events.next();
    if (next.done) {
      // An exact bench has full mains; a real one fills each once.
      const fillS = found.order.length > 0 ? Math.max(0, ...site.mainlines.map((m) => m.fillS ?? 120)) : 0;
      return {
        ...found,
        seconds: next.value.seconds + fillS,
        litres: next.value.litres,
        endsAt: clock(begin + next.value.seconds + fillS),
      };
    }
    const event = next.value;
    if (event.type === "waits") found.waits.push({ from: clock(event.at), to: clock(event.until), why: event.why });
    if (event.type === "left") found.leftIds.push(...event.stationIds);
    if (event.type === "opens") {
      found.order.push({ stationId: event.stationId, at: clock(event.at), withIds: event.withIds ?? [] });
      const station = site.stations.find((s) => s.id === event.stationId);
      if (station) found.atMostMoreS += (options.timeLimitS ?? timeLimitS(station, null)) - USUAL_STEADY.windowS;
    }
  }
}
