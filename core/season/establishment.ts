import { addDays, WEEKDAYS } from "../dates/wall-time.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";

/** One step of an establishment: for so many days, so many starts a day at this share of the usual minutes, every so many days. */
export type EstablishmentStep = { days: number; starts: string[]; percent: number; everyDays: number };

/**
 * New turf or planting (handbook#6-programs): often and little for two weeks, then tapered in steps to deep and infrequent, where the usual
 * program takes over. Starts are by day, since seed must not dry.
 */
export const USUAL_STEPS: EstablishmentStep[] = [
  { days: 7, starts: ["05:00", "09:00", "12:00", "15:00"], percent: 25, everyDays: 1 },
  { days: 7, starts: ["05:00", "10:00", "14:00"], percent: 35, everyDays: 1 },
  { days: 7, starts: ["05:00", "13:00"], percent: 50, everyDays: 1 },
  { days: 7, starts: ["05:00"], percent: 80, everyDays: 1 },
  { days: 14, starts: ["04:30"], percent: 110, everyDays: 2 },
];

const TAG = "Establishment";

/**
 * The dated programs of an establishment, from `first` on: one a step, each with its dates, ids from `nextId`. The usual program of those
 * stations is meant to begin the day after; put it there with {@link returnOn}.
 */
export function establishmentPrograms(
  program: Program,
  stationIds: string[],
  steps: EstablishmentStep[],
  first: string,
  nextId: () => string,
): Program[] {
  const runs = program.runs.filter((r) => stationIds.includes(r.stationId));
  let from = first;
  return steps.map((step, i) => {
    const until = addDays(from, step.days - 1);
    const made: Program = {
      id: nextId(),
      name: `${TAG} ${i + 1} of ${steps.length}: ${program.name}`,
      controllerId: program.controllerId,
      starts: step.starts,
      days:
        step.everyDays === 1
          ? { type: "weekdays", days: [...WEEKDAYS] }
          : { type: "interval", everyDays: step.everyDays, anchor: from },
      from,
      until,
      seasonalPercent: step.percent,
      ...(program.maxStationsAtOnce === undefined ? {} : { maxStationsAtOnce: program.maxStationsAtOnce }),
      ...(program.delayS === undefined ? {} : { delayS: program.delayS }),
      ...(program.priority === undefined ? {} : { priority: program.priority }),
      runs: runs.map((r) => ({ ...r })),
    };
    from = addDays(until, 1);
    return made;
  });
}

/** The day after the last step. */
export function returnOn(steps: EstablishmentStep[], first: string): string {
  return addDays(
    first,
    steps.reduce((sum, s) => sum + s.days, 0),
  );
}

/**
 * A site with an establishment in it. Where it takes all stations of its program, the program itself begins again the day after the last step; else a copy with
 * those stations does, and the program goes on with the others. Where the first day lies ahead, a copy waters them as usual until the day before.
 *
 * @param today local date of the site
 */
export function withEstablishment(
  site: SiteFile,
  programId: string,
  stationIds: string[],
  steps: EstablishmentStep[],
  { first, today }: { first: string; today: string },
  nextId: () => string,
): SiteFile {
  const program = site.programs.find((p) => p.id === programId);
  if (!program || stationIds.length === 0 || steps.length === 0) return site;
  const dated = establishmentPrograms(program, stationIds, steps, first, nextId);
  const back = returnOn(steps, first);
  const taken = program.runs.filter((r) => stationIds.includes(r.stationId));
  const others = program.runs.filter((r) => !stationIds.includes(r.stationId));
  const eve = addDays(first, -1);
  const runsBefore = first > today && (program.from === undefined || program.from < first);
  const until = program.until !== undefined && program.until < eve ? program.until : eve;
  const before: Program[] = runsBefore
    ? [{ ...program, id: nextId(), name: `${program.name}, until establishment`, until, runs: taken }]
    : [];
  const rest: Program[] =
    others.length === 0
      ? [{ ...program, from: back }]
      : [
          { ...program, runs: others },
          { ...program, id: nextId(), name: `${program.name}, after establishment`, from: back, runs: taken },
        ];
  return {
    ...site,
    programs: site.programs.flatMap((p) => (p.id === programId ? [...before, ...rest, ...dated] : [p])),
  };
}

/** A dated step of an establishment: it waters by day on purpose, and its stations have their usual program beside it. */
export const isEstablishmentStep = (program: Program): boolean =>
  program.name.startsWith(TAG) && program.until !== undefined;

/** Can two programs run on one day, by their dates? */
export const datesMeet = (a: Program, b: Program): boolean =>
  (a.until ?? "9999-12-31") >= (b.from ?? "0000-01-01") && (b.until ?? "9999-12-31") >= (a.from ?? "0000-01-01");

/** Steps of an establishment whose stations no program takes over afterwards: a taper that was never finished. */
export function unfinishedTapers(site: SiteFile): { program: Program; stationIds: string[] }[] {
  return site.programs.flatMap((p) => {
    if (!isEstablishmentStep(p) || p.until === undefined || p.enabled === false) return [];
    const after = addDays(p.until, 1);
    const left = p.runs.filter(
      (r) =>
        r.minutes > 0 &&
        !site.programs.some(
          (q) =>
            q !== p &&
            q.enabled !== false &&
            (q.until === undefined || q.until >= after) &&
            (q.from === undefined || q.from <= addDays(after, 14)) &&
            q.runs.some((x) => x.stationId === r.stationId && x.minutes > 0),
        ),
    );
    return left.length > 0 ? [{ program: p, stationIds: left.map((r) => r.stationId) }] : [];
  });
}
