import type { Random } from "../bench/random.ts";
import { nth } from "../checked.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";

/** Of the changes, so many are made to the stations that it is about; the others anywhere. */
const TO_THE_POINT = 0.7;

/**
 * One small change to a night that every controller takes: a station taken elsewhere in its program's order, the number at once, a priority. Never days or minutes, and never more at once than the site
 * file has: what a controller and its wires take is not asked here.
 *
 * @param programs what is changed
 * @param site what stands
 * @param due ids of the programs that run on that night
 * @param about places of the stations that it is about, most of the time; none: anything
 */
export function smallChange(
  programs: Program[],
  site: SiteFile,
  due: ReadonlySet<string>,
  about: readonly number[],
  random: Random,
): Program[] {
  const at = (n: number): number => Math.floor(random() * n);
  const aimed =
    about.length > 0 && random() < TO_THE_POINT ? nth(site.stations, nth(about, at(about.length))).id : null;
  const possible = programs.filter(
    (p) => due.has(p.id) && p.runs.length > 0 && (aimed === null || p.runs.some((r) => r.stationId === aimed)),
  );
  const program = possible[at(possible.length)];
  if (!program) return programs;
  const put = (values: Partial<Program>): Program[] =>
    programs.map((p) => (p.id === program.id ? { ...p, ...values } : p));
  const dice = random();
  const now = program.maxStationsAtOnce ?? 1;
  if (dice < 0.2) {
    const most = site.programs.find((p) => p.id === program.id)?.maxStationsAtOnce ?? 1;
    return put({ maxStationsAtOnce: Math.max(1, Math.min(most, now + (random() < 0.5 ? 1 : -1))) });
  }
  if (dice < 0.28) return put({ priority: 1 + at(due.size) });
  const runs = [...program.runs];
  const mine = runs.flatMap((r, i) => (r.stationId === aimed ? [i] : []));
  const first = mine.length > 0 ? nth(mine, at(mine.length)) : at(runs.length);
  const second = at(runs.length);
  if (dice < 0.6) [runs[first], runs[second]] = [nth(runs, second), nth(runs, first)];
  else runs.splice(second, 0, ...runs.splice(first, 1));
  return put({ runs });
}
