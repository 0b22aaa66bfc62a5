import { nth } from "../checked.ts";
import { type EpochS, instantOf, localIso } from "../dates/wall-time.ts";
import { limitsOfSet } from "../judge/judge.ts";
import { withInherited } from "../judge/policy-of.ts";
import { stretchesOf } from "./stretches.ts";
import { waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { faultSpec } from "../bench/faults/kinds.ts";
import { type Fault, type FaultRequest, resolveFaults } from "../bench/faults/resolve.ts";
import type { Simulation } from "../bench/simulate.ts";

/** Why nothing was said of a fault: never in use while it was there; inside the band of all that ran beside it; never judged long enough; not watched at all; told by no limit. */
export type WhyUnseen =
  | { code: "neverInUse" }
  | { code: "insideBand"; roomLpm: number; withStations: number }
  | { code: "neverJudged"; longestS: number; persistenceS: number }
  | { code: "notWatched" }
  | { code: "noLimit" };

/** What became of one fault in a rehearsed night. */
export type Verdict = {
  kind: Fault["kind"];
  subjectId: string;
  from: string;
  size: number;
  /** Seconds in which it could act: the station ran, or the fault was there. */
  actedS: number;
  alarm: { at: string; kind: string; subjectId: string; afterS: number } | null;
  /** What was shut off for it. */
  locked: string[];
  /** Null where it was seen. */
  why: WhyUnseen | null;
};

type Run = { station: number; from: EpochS; to: EpochS };

/** The verdict over every fault of a night, in the order in which they were asked for. */
export function verdicts(
  site: SiteFile,
  date: string,
  asked: readonly FaultRequest[],
  firstStart: EpochS,
  night: Simulation,
): Verdict[] {
  const resolved = resolveFaults(site, asked, date, firstStart);
  return resolved.ok ? resolved.faults.map((f) => verdictOf(withInherited(site), f, night)) : [];
}

function verdictOf(site: SiteFile, fault: Fault, night: Simulation): Verdict {
  const w = waterworks(site);
  const station = w.stationIndex.get(fault.subjectId);
  const runs: Run[] = night.runs.map((r) => ({
    station: w.stationIndex.get(r.stationId) ?? -1,
    from: Date.parse(r.start) / 1000,
    to: Date.parse(r.end) / 1000,
  }));
  const overlap = (from: EpochS, to: EpochS): number =>
    Math.max(0, Math.min(to, fault.to) - Math.max(from, fault.from));
  const mine = station === undefined ? runs : runs.filter((r) => r.station === station);
  const actedS = mine.reduce((sum, r) => sum + overlap(r.from, r.to), 0);
  const about = aboutOf(site, fault);
  const first = night.alarms.find((a) => Date.parse(a.at) / 1000 >= fault.from && about(a.subjectId, a.kind));
  const locked = night.events
    .filter((e) => e.type === "lockedOut" && Date.parse(e.at) / 1000 >= fault.from && about(e.subjectId, "lockout"))
    .map((e) => e.subjectId);
  return {
    kind: fault.kind,
    subjectId: fault.subjectId,
    from: localIso(site.site.timeZone, fault.from),
    size: fault.size,
    actedS,
    alarm: first
      ? { at: first.at, kind: first.kind, subjectId: first.subjectId, afterS: Date.parse(first.at) / 1000 - fault.from }
      : null,
    locked: [...new Set(locked)],
    why: first ? null : whyUnseen(site, fault, actedS, night),
  };
}

/** Does an alarm or lockout speak of this fault: of its station, of what carries it, or of the sensor or pump itself? */
function aboutOf(site: SiteFile, fault: Fault): (subjectId: string, kind: string) => boolean {
  const w = waterworks(site);
  const station = w.stationIndex.get(fault.subjectId);
  if (station === undefined) return () => true;
  const main = nth(w.stationMainline, station);
  const carriers = new Set([
    ...(w.mainsAbove[main] ?? []).map((m) => site.mainlines[m]?.id),
    ...(w.pocsAbove[main] ?? []).map((p) => site.pocs[p]?.id),
  ]);
  return (subjectId, kind) =>
    subjectId === fault.subjectId ||
    subjectId === fault.otherId ||
    (carriers.has(subjectId) && (kind !== "lockout" || faultSpec(fault.kind).blame !== "station"));
}

function whyUnseen(site: SiteFile, fault: Fault, actedS: number, night: Simulation): WhyUnseen {
  if (actedS <= 0) return { code: "neverInUse" };
  const w = waterworks(site);
  const station = w.stationIndex.get(fault.subjectId);
  const { effect } = faultSpec(fault.kind);
  const own = station === undefined ? undefined : site.stations[station];
  if (station === undefined || !own) return { code: "noLimit" };
  if (own.monitored === false) return { code: "notWatched" };
  const expected = expectedFlow(own)?.lpm ?? 0;
  const changes: [boolean | undefined, number][] = [
    [effect.leaks, fault.size],
    [effect.throttles, -fault.size * expected],
    [effect.staysShut, -expected],
  ];
  const change = changes.find(([has]) => has)?.[1] ?? 0;
  if (change === 0) return { code: "noLimit" };
  const mine = stretchesOf(
    w,
    night.runs.map((r) => ({ ...r, waited: null, ended: "complete" as const })),
  ).filter((s) => s.stations.includes(station) && s.to > fault.from && s.from < fault.to);
  if (mine.length > 0 && mine.every((s) => s.judgedFrom >= s.to)) return { code: "notWatched" };
  const rooms = mine.map((s) => {
    const { highLpm, lowLpm, expectedLpm, policy } = limitsOfSet(w, s.stations, 0);
    const room = change > 0 ? highLpm - expectedLpm : expectedLpm - lowLpm;
    const judgedS = s.to - Math.max(s.judgedFrom, fault.from);
    return { room, judgedS, beside: s.stations.length - 1, persistenceS: policy.persistenceS };
  });
  const beyond = rooms.filter((r) => Math.abs(change) > r.room);
  if (beyond.length > 0)
    return {
      code: "neverJudged",
      longestS: Math.max(0, ...beyond.map((r) => r.judgedS)),
      persistenceS: Math.max(...beyond.map((r) => r.persistenceS)),
    };
  const tightest = rooms.reduce((a, b) => (b.room < a.room ? b : a), rooms[0] ?? { room: 0, beside: 0 });
  return { code: "insideBand", roomLpm: tightest.room, withStations: tightest.beside };
}

/**
 * A time of day as someone types it, as seconds after the night's first start: past midnight where the clock is before the start. Null where it is neither a time nor
 * `+SECONDS`.
 */
export function faultTime(text: string, timeZone: string, date: string, firstStart: EpochS): string | null {
  const plain = text.trim();
  if (/^\+\d{1,7}$/.test(plain)) return plain;
  const match = /^(\d{1,2})(?:[:.h]?(\d{2}))?(?:[:.](\d{2}))?\s*(a\.?m\.?|p\.?m\.?)?$/i.exec(plain);
  if (!match) return null;
  const half = match[4]?.[0]?.toLowerCase();
  const typed = Number(match[1]);
  const hour = half ? (typed % 12) + (half === "p" ? 12 : 0) : typed;
  const minute = Number(match[2] ?? 0);
  const second = Number(match[3] ?? 0);
  if (hour > 23 || minute > 59 || second > 59 || (half && (typed < 1 || typed > 12))) return null;
  const hhmm = `${String(hour).padStart(2, "0")}:${String(minute).padStart(2, "0")}`;
  const at = instantOf(timeZone, date, hhmm) + second;
  return `+${at >= firstStart ? at - firstStart : at + 86_400 - firstStart}`;
}
