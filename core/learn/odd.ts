import { got, nth } from "../checked.ts";
import { BROKEN_LATERAL_SHARE, BROKEN_OUTLET_LPM } from "../bench/faults/station-faults.ts";
import { type Waterworks, waterworks } from "../network/waterworks.ts";
import { pocSensing } from "../network/sensing.ts";
import type { FlowSensor, SiteFile, Station } from "../site-file/schema.ts";

export type CauseCode =
  | "brokenOutlet"
  | "brokenLateral"
  | "largerNozzles"
  | "wiredTogether"
  | "sameValve"
  | "leak"
  | "wrongDesign"
  | "throttled"
  | "halfOpen"
  | "cloggedFilter"
  | "cloggedOutlets"
  | "wrongNozzles"
  | "lowPressure"
  | "wear"
  | "pressureRose";
/** A likely cause; `otherId`: the station whose valve or wires it may be; `outlets`: how many outlets the flow amounts to. */
export type Cause = { code: CauseCode; otherId?: string; outlets?: number };
export type Odd = {
  stationId: string;
  /** What it differs from: its design, others of its kind on its main, or what was learned before. */
  against: ("design" | "alike" | "past")[];
  meanLpm: number;
  /** What it should be by the first of `against`. */
  referenceLpm: number;
  ratio: number;
  /** Robust z-score among its kind; null where there are too few. */
  z: number | null;
  /** Likely ones first. */
  causes: Cause[];
};
/** All stations behind a sensor off by one factor: its constant. */
export type ConstantSuspect = {
  sensorId: string;
  factor: number;
  stations: number;
  against: "design" | "past";
  /** K (US gal/min per Hz) or litres per pulse that would put it right. */
  corrected: { kGpm: number } | { litresPerPulse: number };
};
export type PastFigure = { meanLpm: number; at: string };
type Proposal = { stationId: string; verdict: string; meanLpm: number; sdLpm: number };

/** Flag differences over this from design (handbook#7-learning). */
export const ODD_SHARE = 0.15;
const PAST_SHARE = 0.1;
const ODD_Z = 3.5;
/** Two flows that are one, and a flow that is the sum of two, as shares. */
const SAME_FLOW = 0.015;
const SUM_OF_FLOWS = 0.025;
/** So many of a kind make a comparison. */
const LEAST_ALIKE = 5;
const LEAST_FOR_FACTOR = 4;
/** Stations agree on one factor when their ratios spread by no more than this (1.4826 · median absolute deviation ÷ median). */
const FACTOR_SPREAD = 0.04;
const LEAST_FACTOR = 0.04;

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const half = Math.floor(sorted.length / 2);
  return sorted.length % 2 === 1 ? nth(sorted, half) : (nth(sorted, half - 1) + nth(sorted, half)) / 2;
}

/** 1.4826 × median absolute deviation: the standard deviation it would be for normal values, whatever a few outliers do. */
export function robustSpread(values: readonly number[]): number {
  const m = median(values);
  return 1.4826 * median(values.map((v) => Math.abs(v - m)));
}

/**
 * What is odd among learned flows, and why it may be so (handbook#7-learning): each against its design, against stations of its planting and emitter on the same main
 * (robust z-score), and against what was learned of it before. Where all stations behind a sensor are off by one factor, that is told as the sensor's constant, and
 * the stations are judged with the factor taken out.
 */
export function oddOnes(
  site: SiteFile,
  proposals: readonly Proposal[],
  past: ReadonlyMap<string, readonly PastFigure[]> = new Map(),
): { odd: Odd[]; constants: ConstantSuspect[] } {
  const w = waterworks(site);
  const learned = proposals.flatMap((p) => {
    const at = w.stationIndex.get(p.stationId);
    return at !== undefined && (p.verdict === "accepted" || p.verdict === "overCeiling")
      ? [{ ...p, at, station: nth(site.stations, at) }]
      : [];
  });
  const constants: ConstantSuspect[] = [];
  const factorOf = new Map<number, number>();
  for (let system = 0; system < w.systemCount; system++) {
    const mine = learned.filter((l) => w.systemOfMainline[nth(w.stationMainline, l.at)] === system);
    const found =
      commonFactor(
        mine.flatMap((l) => {
          const before = lastBefore(l.station, past);
          return before ? [l.meanLpm / before.meanLpm] : [];
        }),
        "past",
      ) ??
      commonFactor(
        mine.flatMap((l) => (l.station.designFlowLpm ? [l.meanLpm / l.station.designFlowLpm] : [])),
        "design",
      );
    const sensor = found && theSensor(w, system);
    if (!found || !sensor) continue;
    constants.push({
      sensorId: sensor.id,
      factor: found.factor,
      stations: found.stations,
      against: found.against,
      corrected:
        sensor.output.type === "pulse"
          ? { litresPerPulse: sensor.output.litresPerPulse / found.factor }
          : { kGpm: sensor.output.kGpm / found.factor },
    });
    factorOf.set(system, found.factor);
  }
  const flow = new Map(
    learned.map((l) => [
      l.stationId,
      l.meanLpm / (factorOf.get(nth(w.systemOfMainline, nth(w.stationMainline, l.at))) ?? 1),
    ]),
  );
  const kinds = kindsOf(
    learned.map((l) => l.station),
    flow,
  );
  const odd = learned.flatMap((l): Odd[] => {
    const meanLpm = got(flow, l.stationId);
    const { station } = l;
    const design = station.designFlowLpm;
    const before = lastBefore(station, past);
    const kind = kinds.get(l.stationId) ?? null;
    const against: Odd["against"] = [];
    // What was learned by difference carries more uncertainty, and is odd only beyond it.
    const unsure = (3 * l.sdLpm) / Math.max(1e-9, l.meanLpm);
    if (design && Math.abs(meanLpm / design - 1) > Math.max(ODD_SHARE, unsure)) against.push("design");
    if (kind && Math.abs(kind.z) > ODD_Z) against.push("alike");
    if (
      before &&
      Math.abs(meanLpm / before.meanLpm - 1) > Math.max(PAST_SHARE, unsure) &&
      !factorOf.has(nth(w.systemOfMainline, nth(w.stationMainline, l.at)))
    )
      against.push("past");
    const [first] = against;
    const referenceLpm = first && { design, alike: kind?.usualLpm, past: before?.meanLpm }[first];
    if (referenceLpm === undefined) return [];
    return [
      {
        stationId: l.stationId,
        against,
        meanLpm,
        referenceLpm,
        ratio: meanLpm / referenceLpm,
        z: kind?.z ?? null,
        causes: causesOf({ site, station, meanLpm, referenceLpm, against, flow, past: past.get(l.stationId) ?? [] }),
      },
    ];
  });
  return { odd: odd.sort((a, b) => Math.abs(Math.log(b.ratio)) - Math.abs(Math.log(a.ratio))), constants };
}

function lastBefore(station: Station, past: ReadonlyMap<string, readonly PastFigure[]>): PastFigure | null {
  const list = past.get(station.id);
  return (
    list?.[list.length - 1] ?? (station.learned ? { meanLpm: station.learned.meanLpm, at: station.learned.at } : null)
  );
}

function commonFactor(
  ratios: number[],
  against: "design" | "past",
): { factor: number; stations: number; against: "design" | "past" } | null {
  if (ratios.length < LEAST_FOR_FACTOR) return null;
  const factor = median(ratios);
  return Math.abs(factor - 1) >= LEAST_FACTOR && robustSpread(ratios) / factor <= FACTOR_SPREAD
    ? { factor, stations: ratios.length, against }
    : null;
}

/** The one sensor that sees a system; null where several share it, since which of them is off cannot be told from sums. */
function theSensor(w: Waterworks, system: number): FlowSensor | null {
  const sensors = w.site.pocs.flatMap((_, p) => (w.systemOfPoc[p] === system ? pocSensing(w, p).sensors : []));
  return sensors.length === 1 ? nth(sensors, 0) : null;
}

type Kind = { z: number; usualLpm: number };

/** Each station among those of its planting and emitter on its main: by share of design where all have one, else by flow of an outlet, else by flow. */
function kindsOf(stations: Station[], flow: ReadonlyMap<string, number>): Map<string, Kind> {
  const groups = new Map<string, Station[]>();
  for (const s of stations) {
    const key = JSON.stringify([s.mainlineId, s.planting ?? null, s.emitter ?? null]);
    groups.set(key, [...(groups.get(key) ?? []), s]);
  }
  const found = new Map<string, Kind>();
  for (const group of groups.values()) {
    if (group.length < LEAST_ALIKE) continue;
    const byDesign = group.every((x) => x.designFlowLpm);
    const byOutlets = group.every((x) => (x.emitters?.count ?? 0) > 0);
    const unit = (s: Station): number => (byDesign ? s.designFlowLpm : byOutlets && s.emitters?.count) || 1;
    const shares = group.map((s) => got(flow, s.id) / unit(s));
    const usual = median(shares);
    // Learned figures scatter a little in any site; a kind that agrees more closely than that is not the stricter for it.
    const spread = Math.max(robustSpread(shares), 0.02 * usual);
    group.forEach((s, i) => {
      found.set(s.id, { z: (nth(shares, i) - usual) / spread, usualLpm: usual * unit(s) });
    });
  }
  return found;
}

/** What is known of a station whose figure is odd. */
type OddFigure = {
  site: SiteFile;
  station: Station;
  meanLpm: number;
  referenceLpm: number;
  against: Odd["against"];
  flow: ReadonlyMap<string, number>;
  past: readonly PastFigure[];
};
type Scored = { score: number; cause: Cause };
const scored = (score: number, code: CauseCode, more: Omit<Cause, "code"> = {}): Scored => ({
  score,
  cause: { code, ...more },
});

/** What it may be, the likeliest first. */
function causesOf(odd: OddFigure): Cause[] {
  const causes = [
    ...sameValve(odd),
    ...(odd.meanLpm > odd.referenceLpm ? causesOfMore(odd) : causesOfLess(odd)),
    ...wrongDesign(odd),
  ];
  return causes.sort((a, b) => b.score - a.score).map((c) => c.cause);
}

/** The neighbour on the controller that fits, the nearest in number first, and how telling a match within a tolerance is: next to it in the box, or one that chance would hardly give among so few. */
function neighbour(
  { site, station }: OddFigure,
  tolerance: number,
  fits: (s: Station) => boolean,
): { id: string; telling: number } | null {
  const near = (s: Station): number => 1 / (1 + Math.abs(s.number - station.number));
  const all = site.stations.filter((s) => s.id !== station.id && s.controllerId === station.controllerId);
  const found = all.filter(fits).sort((a, b) => near(b) - near(a))[0];
  return found ? { id: found.id, telling: Math.max(near(found), (1 - 2 * tolerance) ** all.length) } : null;
}

/** Two station numbers that read the same, one of them not its own flow: wires on one valve. */
function sameValve(odd: OddFigure): Scored[] {
  const same = neighbour(odd, SAME_FLOW, (s) => {
    const other = odd.flow.get(s.id);
    return (
      other !== undefined &&
      Math.abs(other / odd.meanLpm - 1) < SAME_FLOW &&
      Math.abs(other / (s.designFlowLpm ?? other) - 1) < ODD_SHARE
    );
  });
  return same ? [scored(0.5 + same.telling, "sameValve", { otherId: same.id })] : [];
}

function causesOfMore(odd: OddFigure): Scored[] {
  const { station, meanLpm, referenceLpm, against, flow } = odd;
  const found: Scored[] = [];
  const excess = meanLpm - referenceLpm;
  const both = neighbour(odd, SUM_OF_FLOWS, (s) => {
    const other = s.designFlowLpm ?? flow.get(s.id);
    return other !== undefined && Math.abs((referenceLpm + other) / meanLpm - 1) < SUM_OF_FLOWS;
  });
  if (both) found.push(scored(0.4 + both.telling, "wiredTogether", { otherId: both.id }));
  const outlet = BROKEN_OUTLET_LPM[station.emitter ?? "other"];
  const outlets = Math.round(excess / outlet);
  if (outlets >= 1 && Math.abs(excess / outlet - outlets) < 0.3)
    found.push(scored(outlets <= 2 ? 0.85 : 0.45, "brokenOutlet", { outlets }));
  if (Math.abs(excess / (BROKEN_LATERAL_SHARE * referenceLpm) - 1) < 0.25) found.push(scored(0.8, "brokenLateral"));
  found.push(scored(0.5, "largerNozzles"), scored(0.35, "leak"));
  if (against.includes("past") && !against.includes("alike")) found.push(scored(0.3, "pressureRose"));
  return found;
}

function causesOfLess(odd: OddFigure): Scored[] {
  const { station, meanLpm, referenceLpm } = odd;
  const muchMissing = 1 - meanLpm / referenceLpm > 0.4;
  const slow = station.emitter === "drip" || station.emitter === "bubbler";
  const outlets = Math.round((referenceLpm - meanLpm) / BROKEN_OUTLET_LPM[station.emitter ?? "other"]);
  return [
    scored(mainIsLow(odd) ? 0.9 : 0.25, "lowPressure"),
    ...(hasFallen(odd) ? [scored(0.95, "wear")] : []),
    scored(slow ? 0.8 : 0.4, "cloggedFilter"),
    ...(!slow && outlets >= 1 ? [scored(0.45, "cloggedOutlets", { outlets })] : []),
    scored(muchMissing ? 0.75 : 0.6, "throttled"),
    scored(muchMissing ? 0.7 : 0.5, "halfOpen"),
    scored(0.3, "wrongNozzles"),
  ];
}

/** Do the others on its main flow less than designed, too? */
function mainIsLow({ site, station, flow }: OddFigure): boolean {
  const others = site.stations.filter((s) => s.mainlineId === station.mainlineId && s.id !== station.id);
  const shares = others.flatMap((s) => {
    const lpm = flow.get(s.id);
    return lpm !== undefined && s.designFlowLpm ? [lpm / s.designFlowLpm] : [];
  });
  return shares.length >= 3 && median(shares) < 0.93;
}

/** Has it fallen from learning to learning? */
function hasFallen({ past, meanLpm }: OddFigure): boolean {
  const last = past.at(-1);
  if (past.length < 3 || !last || meanLpm > last.meanLpm) return false;
  return past.every((p, i) => {
    const before = past[i - 1];
    return !before || p.meanLpm <= before.meanLpm * 1.005;
  });
}

/** Odd against its design only, and as it was learned before: the design figure is wrong. */
function wrongDesign({ station, meanLpm, against }: OddFigure): Scored[] {
  const asBefore = station.learned && Math.abs(meanLpm / station.learned.meanLpm - 1) < 0.03;
  return asBefore && against.includes("design") && !against.includes("past") ? [scored(0.82, "wrongDesign")] : [];
}
