import { nth } from "../checked.ts";
import { addDays, type EpochS, instantOf, localClock, localDate } from "../dates/wall-time.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { type Log, type LogRow, TOTAL } from "../reckon/stretches.ts";
import { placed } from "./placed.ts";
import { WaterDay, type WaterDayFigures } from "./water-day.ts";

export type PlacedFigures = Omit<WaterDayFigures, "rows"> & { rows: ReturnType<typeof placed> };

/** Half a day: a log is mostly of a night, from noon to noon. */
export type HalfDay = { day: string; part: "am" | "pm"; figures: PlacedFigures };

/**
 * The water of each half day of a recorder's log. A column of a point of connection is that of its sensor, and one of the whole site that of the only sensor there is; where
 * there are more, nobody knows which of them it went through, and nothing is told. What is before the first row of a half and after its last is no gap.
 */
export function waterOfLog(w: Waterworks, { keys, rows }: Log): HalfDay[] {
  const { timeZone } = w.site.site;
  const at = (day: string, clock: string): EpochS => instantOf(timeZone, day, clock);
  const sensors = sensorsOf(w, keys);
  const stepS = usualStep(rows);
  const found: HalfDay[] = [];
  for (let i = 0; i < rows.length; ) {
    const first = nth(rows, i).t;
    const day = localDate(timeZone, first);
    const part = localClock(timeZone, first) < "12:00" ? "am" : "pm";
    const span =
      part === "am"
        ? { from: at(day, "00:00"), to: at(day, "12:00") }
        : { from: at(day, "12:00"), to: at(addDays(day, 1), "00:00") };
    const made = new WaterDay(w, span, { stepS });
    let last = first;
    // The first row of the next half tells of the end of this one.
    for (; i < rows.length; i++) {
      const { t, flow, open } = nth(rows, i);
      made.reading({
        at: t,
        flow: Object.fromEntries(
          sensors.flatMap((id, column) => {
            const lpm = flow[column] ?? null;
            return id === null || lpm === null ? [] : [[id, lpm]];
          }),
        ),
        open: open.map((s) => nth(w.site.stations, s).id),
      });
      last = t;
      if (t >= span.to) break;
    }
    const figures = made.figures({ since: first - stepS, until: last, planned: [] });
    if (figures.sensors.some((s) => s.seconds > 0))
      found.push({ day, part, figures: { ...figures, rows: placed(w.site, figures.rows) } });
  }
  return found;
}

/** The sensor that each column of a log tells of; null where it is none. */
function sensorsOf({ site }: Waterworks, keys: readonly string[]): (string | null)[] {
  const own = new Map(site.pocs.map((p) => [p.id, p.devices.flatMap((d) => (d.kind === "flowSensor" ? [d.id] : []))]));
  const ofMains = site.mainlines.flatMap((m) =>
    (m.devices ?? []).flatMap((d) => (d.kind === "flowSensor" ? [d.id] : [])),
  );
  const all = [...[...own.values()].flat(), ...ofMains];
  return keys.map((key) => {
    if (all.includes(key)) return key;
    const told = key === TOTAL ? all : (own.get(key) ?? []);
    return told.length === 1 ? nth(told, 0) : null;
  });
}

/** The step between rows that is found oftenest in the middle, s. */
function usualStep(rows: readonly LogRow[]): number {
  const steps = rows.slice(1).map((row, i) => row.t - nth(rows, i).t);
  return Math.max(1, [...steps].sort((a, b) => a - b)[Math.floor(steps.length / 2)] ?? 1);
}
