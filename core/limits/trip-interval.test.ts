import { describe, expect, it } from "vitest";
import { poisson95, tripInterval } from "./trip-interval.ts";

describe("an interval of a Poisson mean", () => {
  it("is the exact one of the tables", () => {
    expect(poisson95(0)).toEqual([0, 3.688879]);
    expect(poisson95(10)).toEqual([expect.closeTo(4.795, 1), expect.closeTo(18.39, 1)]);
  });
  it("holds its count, and widens with it", () => {
    for (const count of [0.4, 1, 3, 12, 80]) {
      const [low, high] = poisson95(count);
      expect(low).toBeLessThan(count);
      expect(high).toBeGreaterThan(count);
    }
  });
});

describe("an interval of trips in so many nights", () => {
  let x = 4711;
  const uniform = (): number => {
    x = (x * 1664525 + 1013904223) % 4294967296;
    return (x + 0.5) / 4294967296;
  };
  const poisson = (mean: number): number => {
    const end = Math.exp(-mean);
    let [k, p] = [-1, 1];
    do {
      k++;
      p *= uniform();
    } while (p > end);
    return k;
  };
  /** Nights on which trips come in clusters of `size` on average, `mean` a night. */
  const clustered =
    (size: number) =>
    (mean: number): number => {
      let trips = 0;
      for (let n = poisson(mean / size); n > 0; n--) {
        trips++;
        while (uniform() < 1 - 1 / size) trips++;
      }
      return trips;
    };
  const covered = (night: (mean: number) => number, mean: number): number => {
    const [times, nights] = [600, 60];
    let held = 0;
    for (let i = 0; i < times; i++) {
      const [low, high] = tripInterval(Array.from({ length: nights }, () => night(mean)));
      if (low <= mean * nights && mean * nights <= high) held++;
    }
    return held / times;
  };

  it("of trips that come one by one holds the truth as often as it says", () => {
    for (const mean of [0.05, 0.5, 3]) expect(covered(poisson, mean), `${mean} a night`).toBeGreaterThan(0.94);
  });
  it("of trips that come in clusters too", () => {
    for (const mean of [0.05, 1, 4]) expect(covered(clustered(3), mean), `${mean} a night`).toBeGreaterThan(0.93);
    for (const mean of [1, 4]) expect(covered(clustered(6), mean), `${mean} a night`).toBeGreaterThan(0.92);
  });
  it("of nights without a trip begins at none, and allows for what was not seen", () => {
    expect(tripInterval(Array(60).fill(0))).toEqual([0, expect.closeTo(7.38, 1)]);
  });
  it("is wider for the same number of trips in one night than in many", () => {
    const [one, many] = [Array(60).fill(0), Array(60).fill(0)];
    one[3] = 12;
    for (let i = 0; i < 12; i++) many[i] = 1;
    expect(tripInterval(one)[1]).toBeGreaterThan(tripInterval(many)[1]);
  });
});
