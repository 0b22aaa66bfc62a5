import { ruleOf } from "../dates/day-rules.ts";
import { codeWords } from "../site-file/code-words.ts";
import { startsOn } from "../site-file/starts.ts";
import type { Controller, Policy, Program, SiteFile, Station } from "../site-file/schema.ts";
import type { KeptProfile } from "./profile.ts";

/** One setting that the controller takes another way, or not at all. `code` says which; figures are what was wanted and what it takes. */
export type ProfileDifference = {
  controllerId: string;
  subjectId: string;
  code: DifferenceCode;
  wanted: number | string;
  taken: number | string;
};
export type DifferenceCode =
  | "minutes"
  | "percent"
  | "atOnce"
  | "controllerAtOnce"
  | "delay"
  | "starts"
  | "programs"
  | "stations"
  | "cycle"
  | "windows"
  | "days"
  | "flowLimits"
  | "high"
  | "low"
  | "persistence";

const EPSILON = 1e-9;
const toStep = (value: number, step: number): number => Number((Math.round(value / step) * step).toFixed(6));

/**
 * The site as its controllers can take it: settings rounded to each controller's profile, with every difference. A controller without a known
 * profile is left as it is. The night of the result is what would really run.
 */
export function roundSite(
  site: SiteFile,
  profiles: KeptProfile[],
): { site: SiteFile; differences: ProfileDifference[] } {
  const differences: ProfileDifference[] = [];
  const profileOf = new Map(
    site.controllers.flatMap((c) => {
      const p = profiles.find((x) => x.id === c.profileId);
      return p ? [[c.id, p] as const] : [];
    }),
  );
  if (profileOf.size === 0) return { site, differences };
  const say: Say = (controllerId, subjectId, code, wanted, taken) => {
    differences.push({ controllerId, subjectId, code, wanted, taken });
  };
  const controllers = site.controllers.map((c): Controller => {
    const p = profileOf.get(c.id);
    if (!p) return c;
    const stations = site.stations.filter((s) => s.controllerId === c.id).length;
    if (stations > p.stations) say(c.id, c.id, "stations", stations, p.stations);
    if (!p.flowLimits && site.policy.highResponse !== "notify")
      say(c.id, c.id, "flowLimits", codeWords(site.policy.highResponse), "none");
    if (p.flowLimits) sayPolicy(c, site.policy, p, say);
    const most = Math.min(c.maxStationsAtOnce ?? Number.POSITIVE_INFINITY, p.atOnce);
    if (c.maxStationsAtOnce !== undefined && c.maxStationsAtOnce > p.atOnce)
      say(c.id, c.id, "controllerAtOnce", c.maxStationsAtOnce, p.atOnce);
    return { ...c, maxStationsAtOnce: most };
  });
  const stations = site.stations.map((s): Station => {
    const p = profileOf.get(s.controllerId);
    if (!p) return s;
    const limited = p.flowLimits ? roundLimits(s, site.policy, p, say) : s;
    if (p.cycleAndSoak || !s.cycle) return limited;
    say(s.controllerId, s.id, "cycle", cycleWords(s.cycle), "in one piece");
    const { cycle: _, soakMin: __, ...rest } = limited;
    return rest;
  });
  const used = new Map<string, number>();
  const programs = site.programs.map((q): Program => {
    const p = profileOf.get(q.controllerId);
    if (!p) return q;
    const place = (used.get(q.controllerId) ?? 0) + 1;
    used.set(q.controllerId, place);
    if (place > p.programs) {
      say(q.controllerId, q.id, "programs", place, p.programs);
      return { ...q, enabled: false };
    }
    return roundProgram(q, p, site, say);
  });
  return { site: { ...site, controllers, stations, programs }, differences };
}

type Say = (
  controllerId: string,
  subjectId: string,
  code: DifferenceCode,
  wanted: number | string,
  taken: number | string,
) => void;

const within = (value: number, from = 0, to = Number.POSITIVE_INFINITY): number => Math.min(to, Math.max(from, value));
const SIDES = [
  ["high", "highPercent"],
  ["low", "lowPercent"],
] as const;

const cycleWords = (cycle: NonNullable<Program["cycle"]>): string =>
  "count" in cycle ? `${cycle.count} ×` : `${cycle.longestMin} min`;

/** What the site's policy asks of a controller and it does not take, once for all stations on it. */
function sayPolicy(c: Controller, policy: Policy, p: KeptProfile, say: Say): void {
  for (const [code, key] of SIDES) {
    const taken = within(policy[key], p.limitFromPercent, p.limitToPercent);
    if (taken !== policy[key]) say(c.id, c.id, code, policy[key], taken);
  }
  const persistenceS = within(policy.persistenceS, p.persistenceFromS, p.persistenceToS);
  if (persistenceS !== policy.persistenceS) say(c.id, c.id, "persistence", policy.persistenceS, persistenceS);
}

/** A station's limits within what its controller takes; those that the policy gives are told with the controller. */
function roundLimits(s: Station, policy: Policy, p: KeptProfile, say: Say): Station {
  const next = { ...s };
  for (const [code, key] of SIDES) {
    const wanted = s[key] ?? policy[key];
    const taken = within(wanted, p.limitFromPercent, p.limitToPercent);
    if (taken === wanted) continue;
    if (s[key] !== undefined) say(s.controllerId, s.id, code, wanted, taken);
    next[key] = taken;
  }
  return next;
}

function roundProgram(q: Program, p: KeptProfile, site: SiteFile, say: Say): Program {
  const next: Program = { ...q };
  const tell = (code: DifferenceCode, wanted: number | string, taken: number | string, subjectId = q.id): void =>
    say(q.controllerId, subjectId, code, wanted, taken);
  const on = startsOn(q);
  if (on.length > p.startsPerProgram) {
    tell("starts", on.join(" "), on.slice(0, p.startsPerProgram).join(" "));
    next.starts = on.slice(0, p.startsPerProgram);
  }
  // What the site's and the program's percentages make together is one figure at the controller.
  const percent = ((q.seasonalPercent ?? 100) * (site.site.seasonalPercent ?? 100)) / 100;
  const taken = Math.min(p.percentMax, toStep(percent, p.percentStep));
  if (Math.abs(taken - percent) > EPSILON) {
    tell("percent", Number(percent.toFixed(2)), taken);
    next.seasonalPercent = site.site.seasonalPercent ? (taken / site.site.seasonalPercent) * 100 : taken;
  }
  const atOnce = q.maxStationsAtOnce ?? 1;
  if (atOnce > p.atOnce) {
    tell("atOnce", atOnce, p.atOnce);
    next.maxStationsAtOnce = p.atOnce;
  }
  const delay = Math.min(p.delayMaxS, toStep(q.delayS ?? 0, p.delayStepS));
  if (delay !== (q.delayS ?? 0)) {
    tell("delay", q.delayS ?? 0, delay);
    next.delayS = delay;
  }
  if (!p.cycleAndSoak && q.cycle) {
    tell("cycle", cycleWords(q.cycle), "in one piece");
    delete next.cycle;
    delete next.soakMin;
  }
  if (!p.windows && (q.windows || q.closedHours)) {
    tell("windows", "water windows", "none");
    delete next.windows;
    delete next.closedHours;
  }
  const { ability, label } = ruleOf(q.days);
  if (ability !== null && !p[ability]) tell("days", label, "weekdays only");
  next.runs = q.runs.map((r) => {
    const minutes = r.minutes === 0 ? 0 : Math.max(p.minuteStep, toStep(r.minutes, p.minuteStep));
    if (Math.abs(minutes - r.minutes) <= 1e-6) return r;
    tell("minutes", r.minutes, minutes, r.stationId);
    return { ...r, minutes };
  });
  return next;
}
