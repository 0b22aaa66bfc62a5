import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { CapacityCalendar } from "../dispatch/capacity.ts";
import { waterworks, type Waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { carry, liveFeeds } from "./carry.ts";
import { ActiveFaults } from "./faults/active.ts";
import type { Fault } from "./faults/resolve.ts";
import { Filling } from "./filling.ts";
import { Plant } from "./plant.ts";
import { SupplyPressure, supplyVariation } from "./supply-pressure.ts";

const GRAVITY_KPA = 9.80665;
/** Two connections on a ring main: "a" feeds from both, "b" from the second only, "end" hangs on "a". */
const twoWays = (change: (s: SiteFile) => void = () => {}): Waterworks =>
  waterworks(
    smallSite((s) => {
      s.sources = [
        { id: "src", name: "Town", kind: "municipal", staticPressureKpa: 500 },
        { id: "well", name: "Well", kind: "municipal", staticPressureKpa: 400 },
      ];
      const [poc] = s.pocs;
      if (!poc) throw new Error("the small site has a connection");
      poc.ceilingLpm = 300;
      s.pocs.push({
        id: "poc2",
        name: "Second",
        sourceIds: ["well"],
        devices: [{ id: "mv2", kind: "masterValve", normally: "closed" }],
        ceilingLpm: 100,
      });
      s.mainlines = [
        { id: "main", name: "A", feedIds: ["poc", "poc2"], pipes: [], ceilingLpm: 400 },
        { id: "b", name: "B", feedIds: ["poc2"], pipes: [], ceilingLpm: 400 },
        { id: "end", name: "End", feedIds: ["main"], pipes: [], ceilingLpm: 400 },
      ];
      change(s);
    }),
  );
const none = (): ActiveFaults => new ActiveFaults([]);
const fault = (kind: string, subjectId: string, size = 0): Fault =>
  ({ kind, subjectId, size, from: 0, to: 1e9 }) as Fault;

describe("what stands under pressure", () => {
  const w = twoWays();
  it("is a main with a live way up to a connection, through mains that are open", () => {
    expect(liveFeeds(w, [true, true], () => true).of).toEqual([
      { live: true, pocs: [0, 1], mains: [] },
      { live: true, pocs: [1], mains: [] },
      { live: true, pocs: [], mains: [0] },
    ]);
    expect(liveFeeds(w, [true, false], () => true).of.map((f) => f.live)).toEqual([true, false, true]);
    expect(liveFeeds(w, [true, true], (m) => m !== 0).of.map((f) => f.live)).toEqual([false, true, false]);
    expect(liveFeeds(w, [false, false], () => true).of.map((f) => f.live)).toEqual([false, false, false]);
  });
});

describe("demand carried up", () => {
  const w = twoWays();
  const feeds = liveFeeds(w, [true, true], () => true);
  it("is divided among the ways by their ceilings", () => {
    const { pocLpm, mainlineLpm } = carry(w, [0, 0, 200], feeds, null);
    expect(mainlineLpm).toEqual([200, 0, 200]);
    expect(pocLpm).toEqual([150, 50]);
  });
  it("takes the one way that is live", () => {
    expect(
      carry(
        w,
        [120, 0, 0],
        liveFeeds(w, [true, false], () => true),
        null,
      ).pocLpm,
    ).toEqual([120, 0]);
  });
  it("of a main without a live feed reaches no connection", () => {
    expect(
      carry(
        w,
        [0, 80, 0],
        liveFeeds(w, [true, false], () => true),
        null,
      ),
    ).toEqual({
      pocLpm: [0, 0],
      mainlineLpm: [0, 80, 0],
    });
  });
  it("is never lost or doubled on the way", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 500 }), { minLength: 3, maxLength: 3 }), (demand) => {
        const { pocLpm } = carry(w, demand, feeds, null);
        expect(pocLpm.reduce((a, b) => a + b, 0)).toBeCloseTo(
          demand.reduce((a, b) => a + b, 0),
          6,
        );
      }),
    );
  });
});

describe("demand carried up a ladder of mains", () => {
  /** Each main is fed by the two before it: the ways up double with every rung. */
  const ladder = (rungs: number) =>
    waterworks(
      smallSite((s) => {
        for (let n = 2; n <= rungs; n++)
          s.mainlines.push({
            id: `m${n}`,
            name: `M${n}`,
            feedIds: n <= 3 ? ["main"] : [`m${n - 1}`, `m${n - 2}`],
            pipes: [],
            ceilingLpm: 150,
          });
      }),
    );
  const carried = (rungs: number, lpm: number) => {
    const w = ladder(rungs);
    return carry(
      w,
      [...Array(rungs - 1).fill(0), lpm],
      liveFeeds(w, [true], () => true),
      null,
    );
  };
  it("is what each way brings, added up", () => {
    // 5 draws on 4 and 3 alike, 4 on 3 and 2 alike.
    const { mainlineLpm, pocLpm } = carried(5, 80);
    expect(mainlineLpm).toEqual([80, 20, 60, 40, 80]);
    expect(pocLpm).toEqual([80]);
  });
  it("costs by the number of mains, not by the number of ways", () => {
    const { pocLpm, mainlineLpm } = carried(80, 120);
    expect(pocLpm[0]).toBeCloseTo(120, 6);
    expect(mainlineLpm[0]).toBeCloseTo(120, 6);
  });
});

describe("a main that fills", () => {
  const at = (filling: Filling, t: number, open: boolean): number => filling.lpm(0, t, open, open);
  it("takes a third of its connection's ceiling at first, which dies away over its filling time", () => {
    const filling = new Filling(twoWays(), [true, true]);
    expect(at(filling, 0, false)).toBe(0);
    expect(at(filling, 4000, true)).toBeCloseTo(0.3 * 300, 6);
    const minute = at(filling, 4060, true);
    expect(minute).toBeCloseTo(0.3 * 300 * Math.exp(-2.5), 6);
    expect(at(filling, 4241, true)).toBe(0);
  });
  it("stays full through a short stop, and drains through a long one", () => {
    const filling = new Filling(twoWays(), [true, true]);
    at(filling, 4000, true);
    at(filling, 5000, false);
    expect(at(filling, 6000, true)).toBe(0);
    at(filling, 7000, false);
    expect(at(filling, 7000 + 1801, true)).toBeCloseTo(90, 6);
  });
  it("never fills behind a connection that cannot be shut", () => {
    expect(at(new Filling(twoWays(), [false, false]), 4000, true)).toBe(0);
  });
});

describe("pressure of a supply", () => {
  it("varies by three percent at most", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 200_000 }), fc.double({ min: 0, max: 7, noNaN: true }), (t, phase) => {
        expect(Math.abs(supplyVariation(t, phase) - 1)).toBeLessThanOrEqual(0.03 + 1e-9);
      }),
    );
  });
  it("is the static one less what faults, supply pipe and devices take, plus the pump's head while it runs", () => {
    const w = twoWays((s) => {
      const [source] = s.sources;
      const [poc] = s.pocs;
      if (!source || !poc) throw new Error("the small site has both");
      source.pressureDropKpaAt = { flowLpm: 200, dropKpa: 40 };
      poc.devices.push({
        id: "pump",
        kind: "pump",
        curve: [
          { flowLpm: 0, headM: 30 },
          { flowLpm: 400, headM: 20 },
        ],
      });
    });
    const dropped = new ActiveFaults([fault("pressureDrop", "src", 60)]);
    const still = new SupplyPressure(w, none(), [0, 0], false, true);
    const [resting, flowing] = [still.kpa(0, 100, [false, false], 0), still.kpa(0, 100, [false, false], 200)];
    expect(resting).toBeCloseTo(500, 6);
    expect(flowing).toBeCloseTo(500 - 40, 6);
    expect(still.kpa(0, 100, [true, false], 0) - resting).toBeCloseTo(30 * GRAVITY_KPA, 1);
    expect(new SupplyPressure(w, dropped, [0, 0], false, true).kpa(0, 100, [false, false], 0)).toBeCloseTo(440, 6);
    const failed = new ActiveFaults([fault("pumpFailed", "pump")]);
    expect(new SupplyPressure(w, failed, [0, 0], false, true).kpa(0, 100, [true, false], 0)).toBeCloseTo(500, 6);
  });
  it("changes no flow on a still bench, and follows the better of two connections on the exact one", () => {
    const w = twoWays();
    const still = new SupplyPressure(w, none(), [0, 0], false, true);
    expect(still.variation(900, still.varying([false, false], [100, 50]))).toEqual([1]);
    const dropped = new ActiveFaults([fault("pressureDrop", "src", 125)]);
    const exact = new SupplyPressure(w, dropped, [0, 0], true, false);
    expect(exact.exactFactor(0, [true, false], 0, [false, false], [100, 0])).toBeCloseTo(Math.sqrt(0.75), 9);
    expect(exact.exactFactor(0, [true, true], 0, [false, false], [100, 0])).toBe(1);
    expect(exact.exactFactor(0, [false, false], 0, [false, false], [100, 0])).toBe(0);
  });
  it("varying changes flows by its square root, weighed by what each connection gives", () => {
    const w = twoWays();
    const moving = new SupplyPressure(w, none(), [0, 1], false, false);
    const of = (p: number, phase: number): number => Math.sqrt(supplyVariation(p, phase));
    const at = (t: number, pocLpm: number[]) => moving.variation(t, moving.varying([false, false], pocLpm))[0];
    expect(at(900, [100, 0])).toBeCloseTo(of(900, 0), 9);
    expect(at(900, [0, 100])).toBeCloseTo(of(900, 1), 9);
  });
});

describe("the simulated site", () => {
  const commands = (stations: number[], open = true) => ({
    stations: new Set(stations),
    pocValve: [open],
    mainlineValve: [false],
    pump: [false],
  });
  const exact = (faults: Fault[] = []): Plant => {
    const w = waterworks(smallSite());
    return new Plant(w, new CapacityCalendar(w, "2026-07-14"), faults, null, true);
  };
  it("gives on the exact bench just what is expected, and nothing behind a shut valve", () => {
    const plant = exact();
    expect(plant.second(0, commands([0, 2])).pocReading).toEqual([150]);
    expect(plant.second(1, commands([0, 2], false)).pocLpm).toEqual([0]);
    expect(plant.second(2, commands([])).deliveredLpm).toBe(0);
  });
  it("tells what is lost from what is delivered", () => {
    const broken = exact([fault("mainlineBreak", "main", 60)]).second(0, commands([1]));
    expect([broken.deliveredLpm, broken.lostLpm, broken.pocLpm]).toEqual([100, 60, [160]]);
    const stuck = exact([fault("stuckClosed", "s1")]).second(0, commands([0]));
    expect(stuck.deliveredLpm).toBe(0);
  });
  it("rests when nothing stands open, and its seconds are alike while nothing changes", () => {
    const plant = exact();
    expect(plant.atRest(0, commands([], false))).toBe(true);
    plant.second(0, commands([0]));
    expect(plant.steady(1, commands([0]))).toBe(true);
    expect(plant.steady(1, commands([0, 1]))).toBe(false);
    expect(plant.atRest(1, commands([0]))).toBe(false);
  });
});
