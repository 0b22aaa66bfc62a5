import { type SimulateOptions, simulate } from "../bench/simulate.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { Log, LogRow } from "./stretches.ts";

/**
 * A night of the bench as a recorder would write it: a row in so many seconds, and one where something opens or shuts; flows by connection.
 *
 * @throws RangeError where that night cannot be played
 */
export function benchLog(
  site: SiteFile,
  played: Pick<SimulateOptions, "date" | "faults" | "seed">,
  everyS: number,
): Log {
  const place = new Map(site.stations.map((s, i) => [s.number, i]));
  const rows: LogRow[] = [];
  let before = "";
  const outcome = simulate(site, {
    ...played,
    restUntold: true,
    onSecond: ({ at, readingLpm, open }) => {
      const key = open.join();
      if (key === before && at % everyS !== 0) return;
      before = key;
      rows.push({ t: at, flow: [...readingLpm], open: open.map((n) => place.get(n) as number) });
    },
  });
  if (!outcome.ok) throw new RangeError(`The night of ${played.date} cannot be played: ${JSON.stringify(outcome)}`);
  return { keys: site.pocs.map((p) => p.id), rows };
}
