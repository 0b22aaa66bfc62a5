import { got, nth } from "../checked.ts";
import { addDays, localIso } from "../dates/wall-time.ts";
import { type Evidence, evidenceOf } from "./evidence.ts";
import type { Candidate } from "./changes.ts";
import type { Model, NightSays } from "./model.ts";
import { sensorThatChanged } from "./split.ts";
import { type Episode, type Morning, sizeAt } from "./morning.ts";
import { isUndecided, type Probe } from "./probe.ts";

/** A change that is found again is the same one if it begins within so many nights of it. */
const SAME_NIGHTS = 4;

/** Something that nights say has changed (handbook#12-last-night). */
export type Finding = {
  /** The same as long as it is the same change. */
  id: string;
  kind: "step" | "drift" | "sensor" | "mainline";
  /** Station ids (a never-apart group whole), mainline ids or ids of flow sensors; where it is not certain, all that it may be. */
  subjectIds: string[];
  /** When the first set that shows it opened; and the first without it, where it ended. */
  since: string;
  until: string | null;
  /** As if alone at usual pressure, L/min; of a sensor the share by which it reads otherwise. */
  changeLpm: number;
  sdLpm: number;
  z: number;
  certain: boolean;
  /** What has gone, or was not given (below 0), since then, as far as was read. */
  litres: number;
  /** The morning on which it was first named, by the night before it. */
  named: string;
  /** What each night has cost; of nights that are no longer looked at as it was worked out last. */
  litresByNight: Record<string, number>;
  /** The readings in which it shows. */
  evidence: Evidence[];
  /** Where it is undecided, of the newest morning: what would settle it; null where no running of single stations does. */
  probe?: Probe | null;
};

/**
 * What a morning says, in the order of how sure it is.
 *
 * @param probed what would settle where an episode is, if that is asked
 */
export function findingsOf(
  model: Model,
  nights: readonly NightSays[],
  morning: Morning,
  probed?: (e: Episode) => Probe | null,
): Finding[] {
  const { timeZone } = model.w.site.site;
  const opened = (n: number): string => {
    const { night, stretches } = nth(nights, n);
    return stretches[0] ? localIso(timeZone, stretches[0].from) : night;
  };
  const last = nth(nights, nights.length - 1).night;
  return [...morning.episodes]
    .sort((a, b) => b.z - a.z)
    .map((e): Finding => {
      const evidence = evidenceOf(model, nights, morning, e);
      const litresByNight = Object.fromEntries(
        nights.flatMap(({ night }, n) => {
          const litres = litresOn(model, nights, e, n);
          return litres === 0 ? [] : [[night, litres]];
        }),
      );
      const kind = kindOf(e);
      const subjectIds = [...new Set(e.among.flatMap((c) => idsOf(model, c, nights, e)))];
      const since = firstShown(model, nights, e) ?? opened(e.from);
      const open = probed && e.until === null && isUndecided({ certain: e.certain, subjectIds });
      return {
        id: `${dateOf(since)} ${kind} ${subjectIds[0]}`,
        kind,
        subjectIds,
        since,
        until: e.until === null ? null : opened(e.until),
        changeLpm: e.size,
        sdLpm: e.sd,
        z: e.z,
        certain: e.certain,
        litres: sum(Object.values(litresByNight)),
        named: last,
        litresByNight,
        evidence,
        ...(open ? { probe: probed(e) } : {}),
      };
    });
}

/**
 * What is known on a morning, with what was known on the one before. The same change keeps the morning on which it was named first, and since when it is; what ended before the
 * nights looked at stays as it was known; what these nights contradict is no longer said.
 *
 * @param first the first night looked at
 */
export function continued(before: readonly Finding[], now: readonly Finding[], first: string): Finding[] {
  const again = new Set<Finding>();
  const found = now.map((f): Finding => {
    const same = before.find((b) => !again.has(b) && isSame(b, f, first));
    if (!same) return f;
    again.add(same);
    const past = Object.entries(same.litresByNight).filter(([night]) => night < first);
    const litresByNight = { ...Object.fromEntries(past), ...f.litresByNight };
    const since = dateOf(same.since) < first ? same.since : f.since;
    return { ...f, id: same.id, since, named: same.named, litresByNight, litres: sum(Object.values(litresByNight)) };
  });
  const past = before.filter((b) => !again.has(b) && b.certain && dateOf(b.since) < first);
  return [...found, ...past.map((b) => ({ ...b, until: b.until ?? first }))];
}

/** Whether what is found now is what was found before. */
function isSame(b: Finding, f: Finding, first: string): boolean {
  if (family(b) !== family(f) || Math.sign(b.changeLpm) !== Math.sign(f.changeLpm)) return false;
  if (!b.subjectIds.some((id) => f.subjectIds.includes(id))) return false;
  const [was, is] = [dateOf(b.since), dateOf(f.since)];
  if (was >= addDays(is, -SAME_NIGHTS) && was <= addDays(is, SAME_NIGHTS)) return true;
  // What began before the nights looked at is found at their first; a drift is laid here or there.
  const reaches = is <= addDays(first, 1) || f.kind === "drift" || b.kind === "drift";
  return reaches && (b.until === null || was < first);
}

const family = ({ kind }: Finding): string => (kind === "drift" ? "step" : kind);
const dateOf = (instant: string): string => instant.slice(0, 10);
const sum = (all: readonly number[]): number => all.reduce((s, x) => s + x, 0);

function firstShown(model: Model, nights: readonly NightSays[], e: Episode): string | null {
  for (const [n, { stretches }] of nights.slice(e.from).entries())
    for (const s of stretches.slice(n === 0 ? e.onset : 0))
      if (model.response(s, 1).has(e.candidate.unknown)) return localIso(model.w.site.site.timeZone, s.from);
  return null;
}

/** What went, or was not given, on a night. */
function litresOn(model: Model, nights: readonly NightSays[], e: Episode, n: number): number {
  if (nth(e.byNight, n) === 0) return 0;
  return sum(
    nth(nights, n).stretches.map((s, i) => {
      const size = sizeAt(e, n, i);
      const by = model.response(s, e.candidate.kind === "sensor" ? s.meanLpm : 1);
      return by.has(e.candidate.unknown) ? (size * got(by, e.candidate.unknown) * s.ranS) / 60 : 0;
    }),
  );
}

function idsOf(
  { w, unknowns, points }: Model,
  { members, kind }: Candidate,
  nights: readonly NightSays[],
  { from, size }: Episode,
): string[] {
  return members.flatMap((i): string[] => {
    const u = nth(unknowns, i);
    if (u.kind === "station") return [nth(w.site.stations, u.place).id];
    if (u.kind === "main") return [nth(w.site.mainlines, u.place).id];
    if (u.kind !== "sensor") return [];
    const point = nth(points, u.point);
    const one = kind === "sensor" ? sensorThatChanged(point, nights, from, size) : null;
    return point.sensorsOfColumns[one ?? -1] ?? point.sensorIds;
  });
}

function kindOf({ candidate, drift }: Episode): Finding["kind"] {
  if (candidate.kind === "main") return "mainline";
  if (candidate.kind === "sensor") return "sensor";
  return drift ? "drift" : "step";
}
