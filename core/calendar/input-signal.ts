import type { Program, SiteFile } from "../site-file/schema.ts";
import { addDays, type EpochS, instantOf } from "../dates/wall-time.ts";
import { type Interval, union } from "./windows.ts";

type Input = NonNullable<SiteFile["weatherInputs"]>[number];
type InputRule = NonNullable<Program["onInputs"]>[number];

/** A reading says nothing after so long: an input that has gone silent neither starts nor pauses anything. */
export const READING_GOOD_FOR_S = 86_400;

/** When an input's simulated readings are beyond a rule's limit. A reading holds until the next, at most {@link READING_GOOD_FOR_S}. */
export function signalIntervals(timeZone: string, input: Input, rule: Pick<InputRule, "when" | "limit">): Interval[] {
  const readings = (input.readings ?? [])
    .map((r) => ({ at: instantOf(timeZone, r.at.slice(0, 10), r.at.slice(11)), value: r.value }))
    .sort((a, b) => a.at - b.at);
  return union(
    readings.flatMap((r, i) => {
      const beyond = rule.when === "above" ? r.value > rule.limit : r.value < rule.limit;
      const to = Math.min(readings[i + 1]?.at ?? Number.POSITIVE_INFINITY, r.at + READING_GOOD_FOR_S);
      return beyond && to > r.at ? [{ from: r.at, to }] : [];
    }),
  );
}

/** A program's rules with something to say: when each pauses or starts it. A bypassed input says nothing. */
export function inputSignals(
  site: SiteFile,
  program: Program,
): { inputId: string; does: InputRule["does"]; intervals: Interval[] }[] {
  return (program.onInputs ?? []).flatMap((rule) => {
    const input = site.weatherInputs?.find((w) => w.id === rule.inputId);
    if (!input || input.bypassed === true) return [];
    const intervals = signalIntervals(site.site.timeZone, input, rule);
    return intervals.length > 0 ? [{ inputId: rule.inputId, does: rule.does, intervals }] : [];
  });
}

/** Instants of a local date at which inputs start a program: as a reading passes the limit, or at midnight when it is beyond it already. */
export function inputStarts(site: SiteFile, program: Program, date: string): EpochS[] {
  const from = instantOf(site.site.timeZone, date, "00:00");
  const to = instantOf(site.site.timeZone, addDays(date, 1), "00:00");
  const starts = inputSignals(site, program)
    .filter((s) => s.does === "start")
    .flatMap((s) => s.intervals.filter((i) => i.from < to && i.to > from).map((i) => Math.max(i.from, from)));
  return [...new Set(starts)].sort((a, b) => a - b);
}
