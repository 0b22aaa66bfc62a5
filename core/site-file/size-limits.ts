import type { Program, SiteFile, Station } from "./schema.ts";
import { startsOn } from "./starts.ts";

/** So many times valves may open in a night: ten thousand stations twice, and more than any controller has ever done. */
export const MOST_OPENINGS = 20_000;

/** What a file of the right shape would make of a night, where that is more than can be planned; in words. */
export function tooMuch(site: SiteFile): { code: "outOfRange"; path: string; message: string }[] {
  let sum = 0;
  for (const [i, program] of site.programs.entries()) {
    sum += openingsOf(site, program);
    if (sum > MOST_OPENINGS)
      return [
        {
          code: "outOfRange",
          path: `programs[${i}].runs`,
          message: `With program ${program.name} valves would open ${Math.round(sum).toLocaleString("en")} times in a night; at most ${MOST_OPENINGS.toLocaleString("en")} can be planned. Make the cycles longer, or the run times or starts fewer.`,
        },
      ];
  }
  return [];
}

/** Starts × runs × cycles of a program on its wettest day. */
function openingsOf(site: SiteFile, program: Program): number {
  const starts = startsOn(program).length + (program.onInputs ?? []).filter((r) => r.does === "start").length;
  const share =
    ((site.site.seasonalPercent ?? 100) / 100) *
    ((program.seasonalPercent ?? 100) / 100) *
    (Math.max(0, ...(program.monthlyPercent ?? [100])) / 100);
  const stations = new Map(site.stations.map((s) => [s.id, s]));
  let cycles = 0;
  for (const run of program.runs) {
    const station = stations.get(run.stationId);
    const seconds = Math.ceil(run.minutes * 60 * share);
    if (!station || seconds <= 0) continue;
    cycles += cyclesIn(station.cycle ?? program.cycle, seconds);
  }
  return starts * cycles;
}

/** Into how many cycles a run of so many seconds is divided, as core/calendar/run-time.ts divides it. */
function cyclesIn(cycle: Station["cycle"], seconds: number): number {
  if (!cycle) return 1;
  return "longestMin" in cycle
    ? Math.ceil(seconds / Math.max(1, Math.round(cycle.longestMin * 60)))
    : Math.min(cycle.count, seconds);
}
