import { type Simulation, simulate } from "../../core/bench/simulate.ts";
import { check, refusedFindings } from "../../core/check/check.ts";
import type { Finding } from "../../core/check/finding.ts";
import { checkHolds } from "../../core/check/programs.ts";
import { changedSite, type ManyChange } from "../../core/many/many-change.ts";
import type { Step } from "../../core/drill/advice.ts";
import { beginDrill, type Drill, type DrillOutcome, judgeDrill } from "../../core/drill/drill.ts";
import type { Cause } from "../../core/drill/drill-bench.ts";
import { type AlarmLine, alarmsCsv } from "../../core/exports/alarms-csv.ts";
import { addDays } from "../../core/dates/wall-time.ts";
import { planOf, playNight } from "../../core/dispatch/plan.ts";
import { beginLearning } from "../../core/learn/learn.ts";
import { basisOf } from "../../core/learn/basis.ts";
import { parseLibraryCsv } from "../../core/library/library-csv.ts";
import { waterworks } from "../../core/network/waterworks.ts";
import { type Change, difference } from "../../core/site-file/difference.ts";
import {
  type FileProblem,
  type ParsedSite,
  parseSite,
  parseSiteAfter,
  parseSiteText,
  writeSiteText,
} from "../../core/site-file/parse-site.ts";
import { asCalledHere } from "../../core/site-file/called-alike.ts";
import { patternOf } from "../../core/site-file/pattern.ts";
import { stampRecords, stampSince } from "../../core/site-file/records.ts";
import type { SiteFile, Station } from "../../core/site-file/schema.ts";
import { type NightSummary, nightSummary } from "../../core/summary/night-summary.ts";
import { shareOfBudget } from "../../core/season/month-water.ts";
import { siteFacts } from "../../core/summary/site-facts.ts";
import { controllerTasks } from "./controllers.ts";
import type { NightShort } from "../../core/visits/calendar.ts";
import { nightTasks } from "./nights.ts";
import { readOutside } from "./outside.ts";

export type Refused = { ok: false; problems: FileProblem[] };
export type Settled = { ok: true; file: SiteFile; changes: Change[] };
/** One of the sites that a change is looked at on, as text of JSON. @property known what was worked out of it as it stands tonight (summary, found), if it was */
export type OneOfMany = {
  siteText: string;
  date: string;
  known: string | null;
};
/** What of a site's night is told beside what a change makes of it. */
type NightFigures = Pick<NightSummary, "finish" | "shortfallMin"> & { ofBudget: number | null };
const nightFigures = (site: SiteFile, { date, finish, shortfallMin }: NightSummary): NightFigures => ({
  finish,
  shortfallMin,
  ofBudget: shareOfBudget(site, Number(date.slice(5, 7)) - 1),
});
type ManyOnSite = {
  ok: true;
  changes: Change[];
  before: NightFigures;
  after: NightFigures;
  come: string[];
  go: string[];
};
/** A finding, so far as it tells it from others and says what it is. */
export type FoundWords = { key: string; words: string };
const foundWords = (f: Finding): FoundWords => ({ key: `${f.code}:${f.subjectId}`, words: f.message });

function manyOnSite(one: OneOfMany, change: ManyChange): Refused | ManyOnSite {
  const { date } = one;
  const site: SiteFile = JSON.parse(one.siteText);
  const known: { summary: NightSummary; found: FoundWords[] } | null = JSON.parse(one.known ?? "null");
  const parsed = parseSiteAfter(site, changedSite(site, change, date));
  if (!parsed.ok) return parsed;
  const w = waterworks(parsed.site);
  const changes = difference(site, parsed.site);
  // A hold on hundreds of sites is looked at oftenest, and of all that is found it changes no more than this.
  const onlyHolds = changes.every((c) => /(^site|^programs\[\d+\])\.holdUntil$/.test(c.path));
  const findings = onlyHolds ? checkHolds(parsed.site) : check(parsed.site, w);
  const before = (): FoundWords[] => known?.found ?? check(site).map(foundWords);
  const [was, is] = [onlyHolds ? checkHolds(site).map(foundWords) : before(), findings.map(foundWords)];
  const apart = (these: FoundWords[], those: FoundWords[]): string[] => {
    const there = new Set(those.map((f) => f.key));
    return these.filter((f) => !there.has(f.key)).map((f) => f.words);
  };
  return {
    ok: true,
    changes,
    before: nightFigures(site, known?.summary ?? nightSummary(site, date)),
    after: nightFigures(parsed.site, nightSummary(parsed.site, date, undefined, w, findings)),
    come: apart(is, was),
    go: apart(was, is),
  };
}

const ID_STAYS = "site.id may not change: revisions, alarms and learned flows hang on it.";
/**
 * What the server computes, by name: pure, over core, each on a thread of its own (pool.ts). What goes in and comes out is plain data.
 */
export const tasks = {
  readSiteText: (text: string): ParsedSite => parseSiteText(text),
  readSite: (value: unknown): ParsedSite => parseSite(value),
  siteText: (site: SiteFile): string => writeSiteText(site),
  /** A site to begin another from. */
  pattern: (site: SiteFile, of: { id: string; name: string; timeZone: string }): ParsedSite =>
    parseSite(patternOf(site, of)),

  /** A save as asked on top of what stands: records stamped, what a save refuses and what stood before did not have, and the differences. */
  settleSave(current: SiteFile, value: unknown, by: string, now: string): Refused | Settled {
    const parsed = parseSite(value);
    if (!parsed.ok) return parsed;
    const asked = parsed.site;
    if (asked.site.id !== current.site.id)
      return { ok: false, problems: [{ code: "shape", path: "site.id", message: ID_STAYS }] };
    const file = stampSince(current, stampRecords(current, asked, by, now), now);
    const found = refusedFindings(asked);
    // What stood before is looked for only where something would be refused: nearly never.
    const before = new Set(found.length === 0 ? [] : refusedFindings(current).map((f) => foundWords(f).key));
    const fresh = found.filter((f) => !before.has(foundWords(f).key));
    if (fresh.length > 0)
      return { ok: false, problems: fresh.map((f) => ({ code: "shape", path: f.path, message: f.message })) };
    return { ok: true, file, changes: difference(current, file) };
  },

  /** What the server itself enters, on top of what stands. */
  settleAmended(current: SiteFile, amended: unknown, now: string): Refused | Settled {
    const parsed = parseSite(amended);
    if (!parsed.ok) return parsed;
    const file = stampSince(current, parsed.site, now);
    return { ok: true, file, changes: difference(current, file) };
  },

  /** A change on many sites, on some of them: what it changes on each, and what comes of it tonight. */
  manyOnSites: (sites: OneOfMany[], change: ManyChange): (Refused | ManyOnSite)[] =>
    sites.map((one) => manyOnSite(one, change)),
  /** The same, only made: as a save does. */
  manyToSave(site: SiteFile, change: ManyChange, date: string, now: string): Refused | Settled {
    const parsed = parseSiteAfter(site, changedSite(site, change, date));
    if (!parsed.ok) return parsed;
    const file = stampSince(site, parsed.site, now);
    return { ok: true, file, changes: difference(site, file) };
  },

  alarmsCsv: (alarms: AlarmLine[]): string => alarmsCsv(alarms),
  differences: (before: SiteFile, after: SiteFile): Change[] => difference(before, after),
  /** What is otherwise at another site: pieces that are called alike are taken for each other. */
  siteDifferences: (here: SiteFile, other: SiteFile): Change[] => difference(here, asCalledHere(here, other)),
  /** What Rounds shows of a site: its night, what its file says, and what is found of it. */
  roundsOf(site: SiteFile, date: string) {
    const w = waterworks(site);
    const findings = check(site, w);
    return {
      summary: nightSummary(site, date, undefined, w, findings),
      facts: siteFacts(site, w, findings),
      found: findings.map(foundWords),
    };
  },

  /** What the nights after a date leave unwatered, minutes of station time. */
  nightsAhead(site: SiteFile, date: string, count: number): NightShort[] {
    const w = waterworks(site);
    return Array.from({ length: count }, (_, i) => addDays(date, i + 1)).map((night) => ({
      date: night,
      shortfallMin: planOf(w, playNight(w, night)).shortfalls.reduce((sum, s) => sum + s.minutes, 0),
    }));
  },

  bench(
    site: SiteFile,
    asked: { date: string; faults: unknown[]; seed: number; exact: boolean },
  ): { ok: true; night: Omit<Simulation, "trace"> } | { ok: false; problem: string } {
    const outcome = simulate(site, asked);
    if (!outcome.ok) return { ok: false, problem: "problem" in outcome ? outcome.problem.message : "Cancelled." };
    const { trace: _, ...night } = outcome.result;
    return { ok: true, night };
  },

  /** A drill judged again from its date and seed; null where there is no such drill. */
  drill(
    site: SiteFile,
    asked: { date: string; seed: number; steps: Step[]; named: Cause },
  ): { ok: true; outcome: DrillOutcome } | { ok: false; problem: string } | null {
    const drill = beginDrill(site, asked.date, asked.seed);
    if (!drill) return null;
    const unknown = firstUnknown(drill, asked.steps);
    return unknown
      ? { ok: false, problem: unknown }
      : { ok: true, outcome: judgeDrill(drill, asked.steps, asked.named) };
  },

  /** Could this learning begin? The problem with it, else null. */
  learningProblem(site: SiteFile, options: Parameters<typeof beginLearning>[1]): FileProblem | null {
    const begun = beginLearning(site, options);
    return begun.ok ? null : begun.problem;
  },

  /** Marks of what figures of these stations rest on, in their order. */
  basisOf(site: SiteFile, stationIds: string[]): (NonNullable<Station["learned"]>["basis"] | null)[] {
    const w = waterworks(site);
    return stationIds.map((id) => basisOf(w, id));
  },

  libraryCsv: parseLibraryCsv,
  readOutside,
  ...controllerTasks,
  ...nightTasks,
};
export type Tasks = typeof tasks;

/** The first element that a step names and the drill does not have, in words. */
function firstUnknown({ bench }: Drill, steps: Step[]): string | null {
  const known = new Set([
    ...bench.stations.map((s) => s.id),
    ...bench.pocs,
    ...bench.mainlines,
    ...bench.masterValves,
    ...bench.pumps,
  ]);
  for (const [i, { standing: s, check: c }] of steps.entries())
    for (const used of [
      ...s.open,
      ...s.valves,
      ...s.pumps,
      ...("pocId" in c ? [c.pocId] : []),
      ...("subjectId" in c ? [c.subjectId] : []),
    ])
      if (!known.has(used)) return `Step ${i + 1} names "${used}", which is not in this drill.`;
  return null;
}
