import { nth } from "../checked.ts";
import type { Policy, SiteFile } from "../site-file/schema.ts";
import {
  type JudgedNight,
  type JudgeOptions,
  type PolicyFigures,
  judgedNight,
  policyFigures,
  withSetsLearned,
} from "./judgement.ts";
import { policyFrom, SCHOOLS } from "./schools.ts";

/** A policy with its figures; `id` null: the site's own, as it stands. */
export type Compared = { id: string | null; name: string; policy: Policy; figures: PolicyFigures };
export type AdviceReason =
  | { code: "notLearned"; learned: number; stations: number }
  | { code: "falseTrips"; name: string; perSeason: number }
  | { code: "cheapest"; litres: number; falseTrips: number }
  | { code: "quietest"; falseTrips: number }
  | { code: "unwatched"; watched: number }
  | { code: "unseen"; stations: number; of: number }
  | { code: "learnSets"; more: number };
export type Advice = { id: string; reasons: AdviceReason[] };

/** More than this in a season, and people stop looking. */
export const FALSE_TRIPS_BORNE = 2;
const WATCHED_LEAST = 0.7;

/** The site's own policy and the five starting points side by side on one night. Null when cancelled. */
export function comparedSchools(
  site: SiteFile,
  date: string,
  options: JudgeOptions = {},
): { night: JudgedNight; rows: Compared[]; advice: Advice | null } | null {
  const night = judgedNight(site, date, options.sets);
  const wanted = [
    { id: null, name: "As it stands", policy: site.policy },
    ...SCHOOLS.map((s) => ({ id: s.id, name: s.name, policy: policyFrom(site, s) })),
  ];
  const figures = policyFigures(
    night,
    wanted.map((x) => x.policy),
    options,
  );
  if (!figures) return null;
  const rows = wanted.map((one, i): Compared => ({ ...one, figures: nth(figures, i) }));
  const learned = policyFigures(withSetsLearned(night), [site.policy], options)?.[0];
  if (!learned) return null;
  rows.splice(1, 0, { id: null, name: "The same, its sets learned", policy: site.policy, figures: learned });
  return { night, rows, advice: night.stretches.length === 0 ? null : adviceOf(site, rows) };
}

/**
 * Which starting point Presa would take: Observe where less than half is learned; else, of those that isolate and trip for nothing no more than twice a season, the one under which a
 * broken lateral costs least; where all trip more, the quietest.
 */
export function adviceOf(site: SiteFile, rows: readonly Compared[]): Advice {
  const learned = site.stations.filter((s) => s.learned).length;
  const reasons: AdviceReason[] = [];
  if (learned < site.stations.length / 2)
    return { id: "observe", reasons: [{ code: "notLearned", learned, stations: site.stations.length }] };
  const acting = rows.filter((r) => r.id !== null && r.policy.highResponse !== "notify");
  const calm = acting.filter((r) => r.figures.falseTrips.perSeason <= FALSE_TRIPS_BORNE);
  for (const r of acting)
    if (!calm.includes(r))
      reasons.push({ code: "falseTrips", name: r.name, perSeason: r.figures.falseTrips.perSeason });
  const best =
    calm.length > 0
      ? calm.reduce((a, b) => ((b.figures.lateralL?.mean ?? 0) < (a.figures.lateralL?.mean ?? 0) - 0.5 ? b : a))
      : acting.reduce((a, b) => (b.figures.falseTrips.perSeason < a.figures.falseTrips.perSeason ? b : a));
  const { figures } = best;
  reasons.unshift(
    calm.length > 0
      ? { code: "cheapest", litres: figures.lateralL?.mean ?? 0, falseTrips: figures.falseTrips.perSeason }
      : { code: "quietest", falseTrips: figures.falseTrips.perSeason },
  );
  if (figures.watched !== null && figures.watched < WATCHED_LEAST)
    reasons.push({ code: "unwatched", watched: figures.watched });
  if (figures.lateralNever.length > 0)
    reasons.push({ code: "unseen", stations: figures.lateralNever.length, of: figures.stations });
  const [now, learnt] = rows.filter((r) => r.id === null);
  const more = now && learnt ? now.figures.lateralNever.length - learnt.figures.lateralNever.length : 0;
  if (more > 0) reasons.push({ code: "learnSets", more });
  return { id: best.id as string, reasons };
}
