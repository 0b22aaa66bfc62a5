import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Settling } from "./settling.ts";
import { isSteady, isSteadyPulses, pulseStatistics, SETTLED_WITHIN, USUAL_STEADY, windowStatistics } from "./steady.ts";

/** Normal noise from a seed, as a sensor has it. */
function noiseOf(seed: number): () => number {
  let x = seed * 2654435761;
  const uniform = (): number => {
    x = (x * 1664525 + 1013904223) % 4294967296;
    return (x + 1) / 4294967298;
  };
  return () => Math.sqrt(-2 * Math.log(uniform())) * Math.cos(2 * Math.PI * uniform());
}
/** A station read from its hold-off on, as learning reads it: the mean that is taken and after how long; null when it is never steady. */
function learned(lpm: (s: number) => number, holdOffS = 60, limitS = 300): { mean: number; after: number } | null {
  const settling = new Settling();
  const samples: number[] = [];
  for (let s = holdOffS; s < holdOffS + limitS; s++) {
    samples.push(lpm(s));
    settling.add(s, lpm(s));
    const window = samples.slice(-USUAL_STEADY.windowS);
    const statistics = windowStatistics(window);
    if (isSteady(statistics) && Math.abs(settling.excess(s - USUAL_STEADY.windowS + 1, s)) <= SETTLED_WITHIN)
      return { mean: statistics.meanLpm, after: s - holdOffS + 1 };
  }
  return null;
}

describe("a flow that settles slowly", () => {
  const dying = (share: number, tau: number, noise = 0, seed = 1): ((s: number) => number) => {
    const normal = noiseOf(seed);
    const read = Array.from({ length: 400 }, (_, s) => 100 * (1 + share * Math.exp(-s / tau)) * (1 + noise * normal()));
    return (s) => read[s] as number;
  };
  it("60 % high, is never taken more than 2 % off, whatever its time constant from 20 to 300 s", () => {
    for (let tau = 20; tau <= 300; tau += 5) {
      const taken = learned(dying(0.6, tau));
      if (taken) expect(Math.abs(taken.mean / 100 - 1), `τ ${tau} s`).toBeLessThan(0.02);
    }
  });
  it("is taken in the end where it dies away before the limit", () => {
    for (const tau of [20, 40, 60]) expect(learned(dying(0.6, tau)), `τ ${tau} s`).not.toBeNull();
    expect(learned(dying(0.6, 200))).toBeNull();
  });
  it("from below is the same", () => {
    for (const tau of [30, 60, 120, 300]) {
      const taken = learned(dying(-0.5, tau));
      if (taken) expect(Math.abs(taken.mean / 100 - 1), `τ ${tau} s`).toBeLessThan(0.02);
    }
  });
  it("under the noise of a sensor too, but for what a window of noise is off by itself", () => {
    fc.assert(
      fc.property(fc.integer({ min: 20, max: 300 }), fc.integer({ min: 1, max: 10_000 }), (tau, seed) => {
        const taken = learned(dying(0.6, tau, 0.01, seed));
        if (taken) expect(Math.abs(taken.mean / 100 - 1)).toBeLessThan(0.03);
      }),
      { numRuns: 150, seed: 7 },
    );
  });
});

describe("a flow that is steady from the start", () => {
  it("is taken as soon as its window is full, without noise", () => {
    expect(learned(() => 100)?.after).toBe(30);
  });
  it("under noise waits half a minute more at most, but for one in a hundred", () => {
    let late = 0;
    for (let seed = 1; seed <= 300; seed++) {
      const normal = noiseOf(seed);
      const read = Array.from({ length: 400 }, () => 100 * (1 + 0.01 * normal()));
      const taken = learned((s) => read[s] as number);
      if (!taken || taken.after > 60) late++;
    }
    expect(late).toBeLessThanOrEqual(3);
  });
  it("says nothing of a few readings, and is nought where nothing was added", () => {
    const settling = new Settling();
    expect(settling.excess(0, 30)).toBe(0);
    settling.add(0, 100);
    settling.add(1, 80);
    expect(settling.excess(0, 1)).toBe(0);
  });
  it("that dies away to nothing has no end to be held against", () => {
    const settling = new Settling();
    for (let s = 0; s < 60; s++) settling.add(s, 100 * Math.exp(-s / 40) - 5);
    expect(settling.excess(30, 60)).toBe(Number.POSITIVE_INFINITY);
  });
});

describe("pulses noted to the row", () => {
  it("of one and a half rows each are steady: that they fall between rows is not the flow's", () => {
    const times = Array.from({ length: 40 }, (_, i) => Math.ceil(1.5 * i));
    const seen = pulseStatistics(times, 10, 1);
    expect(seen !== null && isSteadyPulses(seen)).toBe(true);
  });
});
