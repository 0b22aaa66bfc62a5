import type { Station } from "../site-file/schema.ts";

export type EmitterKind = {
  id: string;
  name: string;
  emitter: NonNullable<Station["emitter"]>;
  atKpa: number;
  lpmEach: number;
};

/** Typical flows of one outlet at its usual pressure; makers differ, so each is a beginning to be changed. Flow goes with the square root of pressure. */
export const TYPICAL_EMITTERS: EmitterKind[] = [
  { id: "spray-full", name: "spray, full circle", emitter: "spray", atKpa: 210, lpmEach: 14 },
  { id: "spray-half", name: "spray, half circle", emitter: "spray", atKpa: 210, lpmEach: 7 },
  { id: "spray-quarter", name: "spray, quarter circle", emitter: "spray", atKpa: 210, lpmEach: 3.5 },
  { id: "multi-stream", name: "multi-stream nozzle, half circle", emitter: "spray", atKpa: 280, lpmEach: 3.2 },
  { id: "rotor-small", name: "rotor, small", emitter: "rotor", atKpa: 310, lpmEach: 11 },
  { id: "rotor-mid", name: "rotor, middle", emitter: "rotor", atKpa: 345, lpmEach: 22 },
  { id: "rotor-large", name: "rotor, large", emitter: "rotor", atKpa: 480, lpmEach: 75 },
  { id: "dripper", name: "dripper", emitter: "drip", atKpa: 140, lpmEach: 0.0333 },
  { id: "drip-line", name: "drip line, a metre", emitter: "drip", atKpa: 140, lpmEach: 0.12 },
  { id: "bubbler", name: "bubbler", emitter: "bubbler", atKpa: 170, lpmEach: 3.8 },
];

/** Flow of an outlet at another pressure, L/min: Q = Q₀·√(p/p₀). `pressureKpa` above 0. */
export function emitterFlowLpm(kind: EmitterKind, pressureKpa: number): number {
  return kind.lpmEach * Math.sqrt(pressureKpa / kind.atKpa);
}

/** Precipitation rate, mm/h: 60·Q/A (Q in L/min over A in m²). Null without flow or area. */
export function precipitationMmH(flowLpm: number | undefined, areaM2: number | undefined): number | null {
  return flowLpm === undefined || !areaM2 ? null : (60 * flowLpm) / areaM2;
}

/** Minutes to put on a depth, mm, at a precipitation rate, mm/h. */
export function minutesForDepth(depthMm: number, rateMmH: number): number {
  return (60 * depthMm) / rateMmH;
}

export type Soil = "sand" | "sandyLoam" | "loam" | "clayLoam" | "clay";
/** Typical intake of bare to thinly covered soil, mm/h, and water that may stand on it before it runs, mm, by slope. Look at the ground before believing them. */
const INTAKE_MM_H: Record<Soil, number> = { sand: 20, sandyLoam: 13, loam: 9, clayLoam: 6, clay: 3 };
const STANDING_MM: [upToPercent: number, mm: number][] = [
  [3, 8],
  [6, 6],
  [12, 5],
  [Number.POSITIVE_INFINITY, 3],
];

export type CycleAid = { needed: false } | { needed: true; longestMin: number; soakMin: number; intakeMmH: number };

/**
 * The longest cycle before water runs, and the soak that takes in what stands: cycle = 60·S/(P − I), soak = 60·S/I, with S what may stand, P the precipitation
 * rate and I the intake. Not needed where the soil takes in all of it.
 */
export function cycleAid(rateMmH: number, soil: Soil, slopePercent: number): CycleAid {
  const intakeMmH = INTAKE_MM_H[soil];
  if (rateMmH <= intakeMmH) return { needed: false };
  const standing = (STANDING_MM.find(([upTo]) => slopePercent <= upTo) as [number, number])[1];
  return {
    needed: true,
    longestMin: Math.max(1, Math.floor((60 * standing) / (rateMmH - intakeMmH))),
    soakMin: Math.ceil((60 * standing) / intakeMmH),
    intakeMmH,
  };
}
