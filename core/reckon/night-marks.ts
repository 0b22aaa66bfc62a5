import type { NightMarks } from "../learn/basis.ts";
import type { Reckoning } from "./reckon.ts";

/** A figure is confirmed by nights that know it as well as this, of the flow, and differ from it by no more. */
const CONFIRMED = 0.03;

/**
 * What a morning says of the stations' figures (handbook#12-last-night): contradicted by a change that is certain and goes on (of stations that are never apart, all of them), or
 * confirmed.
 *
 * @param at when it was worked out, and after which night
 * @param taken ids of findings whose figure was taken since
 */
export function nightMarks(
  { found, stations }: Pick<Reckoning, "found" | "stations">,
  at: { night: string; workedAt: string },
  taken: readonly string[],
): NightMarks {
  const goingOn = found.filter(
    (f) => f.certain && f.until === null && (f.kind === "step" || f.kind === "drift") && !taken.includes(f.id),
  );
  const contradicted = [...new Set(goingOn.flatMap((f) => f.subjectIds))];
  const confirmed = stations.flatMap(({ stationId, expectedLpm, nowLpm, sdLpm }) => {
    if (!expectedLpm || nowLpm === null || sdLpm === null || contradicted.includes(stationId)) return [];
    const off = Math.abs(nowLpm - expectedLpm) / expectedLpm;
    return off <= CONFIRMED && 2 * sdLpm <= CONFIRMED * expectedLpm ? [stationId] : [];
  });
  return { ...at, contradicted, confirmed };
}
