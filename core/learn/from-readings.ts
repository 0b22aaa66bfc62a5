import { mainHoldOffS } from "../site-file/hold-off.ts";
import { got, nth } from "../checked.ts";
import { ceilingAbove, waterworks } from "../network/waterworks.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile, Station } from "../site-file/schema.ts";
import type { LearnResult, SetResult } from "./events.ts";
import { tapsOf } from "./measuring.ts";
import type { Segment, Series, SeriesRow } from "./readings-sheet.ts";
import { sensorRange } from "../sensors/sensor-range.ts";
import { Settling } from "./settling.ts";
import {
  PULSES_NEEDED,
  pulsesExcess,
  pulseStatistics,
  roughFlow,
  SETTLED_WITHIN,
  USUAL_STEADY,
  windowStatistics,
} from "./steady.ts";

/** What a log teaches: proposals, sets that ran together, the flow while nothing was open. */
export type FromReadings = { results: LearnResult[]; sets: SetResult[]; restLpm: number | null; flowAtRest: boolean };

/** So few rows of a coarse log still make a window. */
const LEAST_ROWS = 5;
const REST_S = 30;

function verdictOf(seen: Seen, leastLpm: number, ceilingLpm: number): LearnResult["verdict"] {
  if (seen.meanLpm < Math.max(leastLpm, 1e-6)) return "noFlow";
  if (seen.steadyAt === null) return "unsteady";
  return seen.meanLpm > ceilingLpm + 1e-6 ? "overCeiling" : "accepted";
}

/**
 * Learns from a recorded series by the same test as on the bench: after the hold-off, the first window of 30 s (of five readings, where they are further apart) that is
 * steady; of pulses, the first 20 whose times are. A station that ran several times gives its last accepted figure.
 */
export function learnFromReadings(site: SiteFile, series: Series, litresPerPulse: number | null): FromReadings {
  const w = waterworks(site);
  const results = new Map<string, LearnResult>();
  const sets: SetResult[] = [];
  const limitAt = (station: number): number => {
    const system = w.systemOfMainline[nth(w.stationMainline, station)];
    const pocs = site.pocs.flatMap((_, p) => (w.systemOfPoc[p] === system ? [p] : []));
    return tapsOf(w, pocs, nth(w.stationMainline, station)).reduce(
      (sum, t) => sum + (sensorRange(t.sensor).minLpm ?? 0),
      0,
    );
  };
  const together: Segment[] = [];
  for (const segment of series.segments) {
    if (segment.stationIds.length > 1) {
      together.push(segment);
      continue;
    }
    const at = got(w.stationIndex, nth(segment.stationIds, 0));
    const station = nth(site.stations, at);
    const seen = steadyIn(series.rows, segment, settleOf(site, [station]), litresPerPulse);
    const main = nth(w.stationMainline, at);
    const ceiling = ceilingAbove(w, main);
    const verdict = verdictOf(seen, limitAt(at), ceiling);
    if (results.get(station.id)?.verdict === "accepted" && verdict !== "accepted") continue;
    results.set(station.id, {
      stationId: station.id,
      verdict,
      meanLpm: seen.meanLpm,
      sdLpm: seen.sdLpm,
      samples: seen.samples,
      secondsToSteady: seen.steadyAt,
    });
  }
  for (const segment of together) {
    const stations = segment.stationIds.map((id) => nth(site.stations, got(w.stationIndex, id)));
    const seen = steadyIn(series.rows, segment, settleOf(site, stations), litresPerPulse);
    const partsLpm = stations.reduce(
      (sum, s) =>
        sum +
        (results.get(s.id)?.verdict === "accepted" ? (results.get(s.id)?.meanLpm ?? 0) : (expectedFlow(s)?.lpm ?? 0)),
      0,
    );
    const flows = seen.meanLpm > 0 ? "accepted" : "noFlow";
    sets.push({
      stationIds: segment.stationIds,
      verdict: seen.steadyAt === null ? "unsteady" : flows,
      meanLpm: seen.meanLpm,
      sdLpm: seen.sdLpm,
      samples: seen.samples,
      secondsToSteady: seen.steadyAt,
      partsLpm,
      ratio: partsLpm > 0 ? seen.meanLpm / partsLpm : 1,
    });
  }
  const rest = atRest(series);
  const restLpm = rest.length > 0 ? rest.reduce((sum, r) => sum + (r.lpm as number), 0) / rest.length : null;
  const first = series.segments[0]?.stationIds[0];
  const limit = first === undefined ? 0 : limitAt(got(w.stationIndex, first));
  return {
    results: [...results.values()],
    sets,
    restLpm,
    flowAtRest: restLpm !== null && restLpm > 1e-6 && restLpm >= limit,
  };
}

/** The last 30 s of every stretch with everything closed; what came before may be mains filling or valves closing. */
function atRest({ rows, segments }: Series): SeriesRow[] {
  const ends = [...segments.map((s) => s.from), (rows[rows.length - 1]?.t ?? 0) + 1];
  return rows.filter(
    (r) =>
      r.lpm !== null &&
      !segments.some((s) => r.t >= s.from && r.t <= s.to + REST_S) &&
      ends.some((end) => r.t < end && r.t >= end - REST_S),
  );
}

function settleOf(site: SiteFile, stations: Station[]): number {
  return Math.max(
    ...stations.map((s) =>
      Math.max(mainHoldOffS(site.mainlines.find((m) => m.id === s.mainlineId) ?? {}), s.holdOffS ?? 0),
    ),
  );
}

type Seen = { meanLpm: number; sdLpm: number; samples: number; steadyAt: number | null };

function steadyIn(all: SeriesRow[], segment: Segment, settleS: number, litresPerPulse: number | null): Seen {
  const rows = all.filter((r) => r.t >= segment.from + settleS && r.t < segment.to);
  if (rows.some((r) => r.lpm !== null))
    return steadyFlow(
      rows.filter((r) => r.lpm !== null),
      segment.from,
    );
  return litresPerPulse === null
    ? { meanLpm: 0, sdLpm: 0, samples: 0, steadyAt: null }
    : steadyPulses(all, rows, segment.from, litresPerPulse);
}

function steadyFlow(rows: SeriesRow[], openedAt: number): Seen {
  let from = 0;
  const settling = new Settling();
  let last: ReturnType<typeof windowStatistics> = { meanLpm: 0, sdLpm: 0, driftLpm: 0, samples: 0 };
  for (let end = 0; end < rows.length; end++) {
    const at = nth(rows, end);
    settling.add(at.t, at.lpm as number);
    // The window reaches back 30 s, or as far as five readings go.
    while (end - from + 1 > LEAST_ROWS && at.t - nth(rows, from + 1).t >= USUAL_STEADY.windowS - 1) from++;
    const window = rows.slice(from, end + 1);
    if (window.length < LEAST_ROWS || at.t - nth(window, 0).t < USUAL_STEADY.windowS - 1) continue;
    last = windowStatistics(window.map((r) => r.lpm as number));
    const allowed = USUAL_STEADY.tolerance * last.meanLpm + 1e-9;
    const level = last.sdLpm <= allowed && last.driftLpm <= allowed;
    if (level && Math.abs(settling.excess(nth(window, 0).t, at.t)) <= SETTLED_WITHIN)
      return { ...last, steadyAt: at.t - openedAt + 1 };
  }
  return { meanLpm: last.meanLpm, sdLpm: last.sdLpm, samples: last.samples, steadyAt: null };
}

function steadyPulses(all: SeriesRow[], rows: SeriesRow[], openedAt: number, litresPerPulse: number): Seen {
  const times: number[] = [];
  let coarsest = 0;
  let last: ReturnType<typeof pulseStatistics> = null;
  const before = new Map(all.map((r, i) => [r, all[i - 1]?.t ?? r.t - 1]));
  for (const row of rows) {
    const n = Math.round(row.pulses ?? 0);
    const gap = Math.max(1e-3, row.t - got(before, row));
    if (n === 0) continue;
    // Within a row nobody knows when the pulses came: evenly, and as coarse as the row is long.
    for (let k = 1; k <= n; k++) times.push(row.t - gap + (gap * k) / n);
    coarsest = Math.max(coarsest, gap);
    const seen = times.length > PULSES_NEEDED ? pulseStatistics(times, litresPerPulse, coarsest) : null;
    if (!seen) continue;
    last = seen;
    const allowed = USUAL_STEADY.tolerance * seen.meanLpm + 1e-9;
    if (seen.sdLpm <= allowed && seen.driftLpm <= allowed && Math.abs(pulsesExcess(times)) <= SETTLED_WITHIN)
      return { ...seen, steadyAt: Math.round(row.t - openedAt) };
  }
  if (last) return { meanLpm: last.meanLpm, sdLpm: last.sdLpm, samples: last.samples, steadyAt: null };
  const seconds = (rows[rows.length - 1]?.t ?? 0) - (rows[0]?.t ?? 0);
  return { ...roughFlow(times.length, litresPerPulse, seconds), steadyAt: null };
}
