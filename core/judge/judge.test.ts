import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { waterworks } from "../network/waterworks.ts";
import type { Device, SiteFile } from "../site-file/schema.ts";
import {
  blankJudge,
  forget,
  isCalm,
  judgeBurst,
  judgeOffSchedule,
  judgePressure,
  judgePumps,
  judgeSet,
  keyOfSet,
  PUMP_DRY_S,
  type Seen,
  tripsAnew,
  valvesTurned,
} from "./judge.ts";
import { countBeyond, judgeReading, type Persistence } from "./persistence.ts";
import { gradedPercent, setLimits } from "./set-limits.ts";
import { setRatio } from "./set-ratio.ts";
import { type JudgedSystem, type JudgePoint, judgedSystems } from "./system.ts";

const poc = (s: SiteFile) => s.pocs[0] as SiteFile["pocs"][number];
const judged = (change: (s: SiteFile) => void = () => {}) => {
  const w = waterworks(smallSite(change));
  const system = judgedSystems(w)[0] as JudgedSystem;
  return { w, system, state: blankJudge(system) };
};
/** What one second says: everything that is not named is calm. */
const sees = ({
  lpm = 0,
  kPa = null,
  pump = false,
  open = true,
}: {
  lpm?: number | null;
  kPa?: number | null;
  pump?: boolean;
  open?: boolean;
} = {}): Seen => ({
  pocLpm: () => lpm,
  mainLpm: () => lpm,
  pressureKpa: () => kPa,
  pumpRuns: () => pump,
  pocOpen: () => open,
});
/** The seconds, from 1, at which something trips, over so many of them. */
const tripsAt = (seconds: number, trips: (now: number) => boolean): number[] =>
  Array.from({ length: seconds }, (_, i) => i + 1).filter(trips);

describe("persistence", () => {
  it("trips once at the end of an unbroken condition; one reading inside begins anew", () => {
    const run = (beyond: boolean[], persistenceS: number): number[] => {
      let state: Persistence = { count: 0, told: false };
      return beyond.flatMap((b, i) => {
        const next = countBeyond(state, b, persistenceS);
        ({ state } = next);
        return next.trips ? [i] : [];
      });
    };
    expect(run(Array(10).fill(true), 4)).toEqual([3]);
    expect(run([true, true, true, false, true, true, true, true], 4)).toEqual([7]);
    expect(run([true, false, true], 0)).toEqual([0, 2]);
  });
  it("by the share trips on four fifths of the window, by the mean on what ten seconds show together", () => {
    const run = (excess: number[], judge: "share" | "mean", persistenceS: number): number[] => {
      let state: Persistence = { count: 0, told: false };
      return excess.flatMap((x, i) => {
        const next = judgeReading(state, x, { persistenceS, judge });
        ({ state } = next);
        return next.trips ? [i] : [];
      });
    };
    // A gust every fifth second never lets an unbroken count through; the share sees past it.
    const gusty = Array.from({ length: 40 }, (_, i) => (i % 5 === 4 ? -1 : 5));
    expect(run(gusty, "share", 20)).toEqual([19]);
    expect(
      run(
        gusty.map((x) => -x),
        "share",
        20,
      ),
    ).toEqual([]);
    // The mean of ten readings is first known with the tenth, and must then last.
    expect(run(Array(40).fill(2), "mean", 20)).toEqual([28]);
    expect(
      run(
        Array.from({ length: 40 }, (_, i) => (i % 2 ? 3 : -4)),
        "mean",
        5,
      ),
    ).toEqual([]);
  });
  it("never trips sooner than its persistence, whatever the readings", () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -20, max: 20, noNaN: true }), { maxLength: 90 }),
        fc.integer({ min: 1, max: 30 }),
        fc.constantFrom("unbroken" as const, "share" as const, "mean" as const),
        (excess, persistenceS, judge) => {
          let state: Persistence = { count: 0, told: false };
          excess.forEach((x, i) => {
            const next = judgeReading(state, x, { persistenceS, judge });
            ({ state } = next);
            if (next.trips) expect(i + 1).toBeGreaterThanOrEqual(persistenceS);
            if (next.trips && judge === "unbroken")
              expect(excess.slice(i + 1 - persistenceS, i + 1).every((v) => v > 1e-6)).toBe(true);
          });
        },
      ),
      { numRuns: 300, seed: 8 },
    );
  });
});

describe("limits of a set", () => {
  const site = smallSite();
  const [a, b, c] = site.stations as [SiteFile["stations"][number], never, never];
  it("by station: each adds its own, an override in place of the policy's", () => {
    expect(setLimits(site.policy, [a, b])).toEqual({ expectedLpm: 200, highLpm: 240, lowLpm: 150, judged: true });
    const wide = { ...a, highPercent: 50, lowPercent: 10 };
    expect(setLimits(site.policy, [wide, c])).toMatchObject({ highLpm: 150 + 60, lowLpm: 90 + 37.5 });
  });
  it("one that is not monitored adds to what may flow, nothing to what must", () => {
    expect(setLimits(site.policy, [a, { ...(c as typeof a), monitored: false }])).toMatchObject({
      expectedLpm: 150,
      highLpm: 180,
      lowLpm: 75,
      judged: true,
    });
    expect(setLimits(site.policy, [{ ...a, monitored: false }]).judged).toBe(false);
  });
  it("a station without a figure leaves its set unjudged", () => {
    const { designFlowLpm: _, ...unknown } = a;
    expect(setLimits(site.policy, [unknown, b]).judged).toBe(false);
  });
  it("hand watering widens the high limit only; a learned ratio moves all", () => {
    expect(setLimits(site.policy, [a], 30)).toMatchObject({ highLpm: 150, lowLpm: 75 });
    expect(setLimits(site.policy, [a, b], 0, 0.9)).toMatchObject({ expectedLpm: 180, highLpm: 216, lowLpm: 135 });
    expect(setRatio({ setRatios: [{ stationIds: ["s2", "s1"], ratio: 0.9 } as never] }, [a, b])).toBe(0.9);
    expect(setRatio({ setRatios: [{ stationIds: ["s2", "s1"], ratio: 0.9 } as never] }, [a])).toBe(1);
  });
  it("graded: one percentage by the total, the band with the largest start at or under it", () => {
    const bands = [
      { fromLpm: 150, percent: 15 },
      { fromLpm: 40, percent: 30 },
    ];
    const policy = { ...site.policy, basis: "graded" as const, bands };
    expect([39.9, 40, 149, 150, 900].map((lpm) => gradedPercent(policy, lpm))).toEqual([null, 30, 30, 15, 15]);
    expect(setLimits(policy, [a])).toMatchObject({ highLpm: 130, lowLpm: 70 });
    expect(setLimits(policy, [a, b])).toMatchObject({ highLpm: expect.closeTo(230, 9), lowLpm: 170 });
  });
});

describe("a burst", () => {
  it("has its own persistence and waits for no hold-off; nothing told, nothing judged", () => {
    const { w, system, state } = judged((s) => Object.assign(poc(s), { burstLimitLpm: 300, burstPersistenceS: 4 }));
    valvesTurned(state, 0, 600);
    const seconds = tripsAt(9, () => judgeBurst(w, system, state, sees({ lpm: 320 }), () => [0, 1]).length > 0);
    expect(seconds).toEqual([4]);
    expect(judgeBurst(w, system, state, sees({ lpm: null }), () => [0])).toEqual([]);
    forget(state);
    expect(isCalm(state)).toBe(true);
    const [trip] = Array.from({ length: 4 }, () =>
      judgeBurst(w, system, state, sees({ lpm: 301 }), () => [0, 1]),
    ).flat();
    expect(trip).toEqual({ kind: "burst", poc: 0, measuredLpm: 301, expectedLpm: 200 });
  });
  it("at its limit is none, and without a limit there is none", () => {
    const { w, system, state } = judged((s) => Object.assign(poc(s), { burstLimitLpm: 300, burstPersistenceS: 0 }));
    expect(judgeBurst(w, system, state, sees({ lpm: 300 }), () => [])).toEqual([]);
    const bare = judged();
    expect(judgeBurst(bare.w, bare.system, bare.state, sees({ lpm: 5000 }), () => [])).toEqual([]);
  });
});

describe("flow while nothing runs", () => {
  const now = 1000;
  it("trips after its persistence over the limit and what hand watering may take", () => {
    const { w, system, state } = judged((s) => Object.assign(poc(s), { offSchedulePersistenceS: 3 }));
    const over = (lpm: number, allowance: number): number[] => {
      forget(state);
      return tripsAt(
        6,
        (s) => judgeOffSchedule(w, system, state, sees({ lpm }), true, () => allowance, now + s) !== null,
      );
    };
    expect(over(20, 0)).toEqual([]);
    expect(over(21, 0)).toEqual([3]);
    expect(over(45, 25)).toEqual([]);
    expect(over(46, 25)).toEqual([3]);
  });
  it("is not asked while something runs, in hold-off, or where a reading is missing: the count begins anew", () => {
    const { w, system, state } = judged((s) => Object.assign(poc(s), { offSchedulePersistenceS: 3 }));
    const second = (s: number, lpm: number | null, idle: boolean) =>
      judgeOffSchedule(w, system, state, sees({ lpm }), idle, () => 0, now + s);
    for (const [idle, lpm] of [
      [false, 60],
      [true, null],
    ] as const) {
      second(1, 60, true);
      second(2, 60, true);
      second(3, lpm, idle);
      expect(state.offSchedule.count).toBe(0);
      expect([4, 5].map((s) => second(s, 60, true))).toEqual([null, null]);
      expect(second(6, 60, true)).toEqual({ kind: "offSchedule", poc: 0, measuredLpm: 60 });
      forget(state);
    }
    valvesTurned(state, now, 60);
    expect(tripsAt(60, (s) => second(s, 60, true) !== null)).toEqual([]);
    expect(tripsAt(66, (s) => s > 60 && second(s, 60, true) !== null)).toEqual([63]);
  });
  it("two connections are one sum, and the larger share is named", () => {
    const { w, system, state } = judged((s) => {
      const fs = { ...(poc(s).devices[1] as Device), id: "fs2" } as Device;
      s.pocs.push({ ...poc(s), id: "poc2", name: "Poc 2", devices: [fs], offSchedulePersistenceS: 1 });
      Object.assign(poc(s), { offSchedulePersistenceS: 1 });
      (s.mainlines[0] as SiteFile["mainlines"][number]).feedIds.push("poc2");
    });
    const seen: Seen = { ...sees(), pocLpm: (p) => (p === 0 ? 18 : 25) };
    expect(system.restLimitLpm).toBe(40);
    expect(judgeOffSchedule(w, system, state, seen, true, () => 0, now)).toEqual({
      kind: "offSchedule",
      poc: 1,
      measuredLpm: 43,
    });
  });
});

describe("a pump against no flow", () => {
  const withPump = (s: SiteFile): void => {
    poc(s).devices.unshift({
      id: "pump",
      kind: "pump",
      curve: [
        { flowLpm: 0, headM: 50 },
        { flowLpm: 300, headM: 20 },
      ],
    } as Device);
  };
  it("is stopped after 60 s, hold-off or not; flow, a stop or an excuse begin the count anew", () => {
    const { w, system, state } = judged(withPump);
    valvesTurned(state, 0, 600);
    const dry = sees({ lpm: 4, pump: true });
    expect(tripsAt(130, () => judgePumps(w, system, state, dry, () => [0], false).length > 0)).toEqual([PUMP_DRY_S]);
    for (const rest of [sees({ lpm: 40, pump: true }), sees({ lpm: 0, pump: false })]) {
      judgePumps(w, system, state, rest, () => [0], false);
      expect(state.dryS).toEqual([0]);
      judgePumps(w, system, state, dry, () => [0], false);
    }
    judgePumps(w, system, state, dry, () => [0], true);
    expect(state.dryS).toEqual([0]);
  });
  it("is not known where no sensor sees it", () => {
    const { w, system, state } = judged((s) => {
      withPump(s);
      poc(s).devices = poc(s).devices.filter((d) => d.kind !== "flowSensor");
    });
    expect(
      tripsAt(90, () => judgePumps(w, system, state, sees({ lpm: 0, pump: true }), () => [0], false).length > 0),
    ).toEqual([]);
  });
});

describe("pressure", () => {
  const withGauge = (s: SiteFile): void => {
    poc(s).devices.push({ id: "gauge", kind: "pressureSensor", lowKpa: 200, highKpa: 500 } as Device);
    s.policy.persistenceS = 5;
  };
  it("is judged while stations run, after hold-off, with the master valve open", () => {
    const { w, system, state } = judged(withGauge);
    valvesTurned(state, 100, 10);
    const low = (now: number, running: number[], open = true) =>
      judgePressure(w, system, state, sees({ lpm: 90, kPa: 150, open }), () => running, now);
    expect([101, 105, 110].flatMap((now) => low(now, [0]))).toEqual([]);
    expect(tripsAt(20, (s) => low(110 + s, [0]).length > 0)).toEqual([5]);
    expect(low(140, [])).toEqual([]);
    expect(low(141, [0], false)).toEqual([]);
  });
  it("lasts as long and is answered as the gauge says; without a word of its own, as the flow limit of its side", () => {
    const own = (gauge: object) =>
      judged((s) => {
        withGauge(s);
        Object.assign(s.policy, { lowResponse: "notify", highResponse: "stopAll" });
        Object.assign(poc(s).devices.at(-1) as Device, gauge);
      });
    const trips = ({ w, system, state }: ReturnType<typeof judged>, kPa: number) =>
      Array.from({ length: 12 }, (_, i) => i + 1).flatMap((now) =>
        judgePressure(w, system, state, sees({ lpm: 90, kPa }), () => [0], now).map((t) => [now, t.response]),
      );
    expect(trips(own({}), 150)).toEqual([[5, "notify"]]);
    expect(trips(own({}), 620)).toEqual([[5, "stopAll"]]);
    expect(trips(own({ persistenceS: 9, response: "stopStation" }), 150)).toEqual([[9, "stopStation"]]);
    expect(trips(own({ persistenceS: 9, response: "stopStation" }), 620)).toEqual([[9, "stopStation"]]);
  });
  it("names the side, what was read and the limit; a gauge that is silent is not judged", () => {
    const { w, system, state } = judged(withGauge);
    const trips = [1, 2, 3, 4, 5].flatMap((now) =>
      judgePressure(w, system, state, sees({ lpm: 90, kPa: 620 }), () => [0], now),
    );
    expect(trips).toMatchObject([
      {
        kind: "pressureHigh",
        deviceId: "gauge",
        measuredLpm: 90,
        expectedLpm: 100,
        kPa: { measured: 620, limit: 500 },
      },
    ]);
    expect(judgePressure(w, system, state, sees({ kPa: null }), () => [0], 9)).toEqual([]);
  });
});

describe("a set", () => {
  const point = (system: JudgedSystem): JudgePoint => system.points[0] as JudgePoint;
  const flow = (
    { w, system, state }: ReturnType<typeof judged>,
    lpm: number | null,
    set: number[],
    now: number,
    allowance = 0,
  ) => judgeSet(w, state, 0, point(system), sees({ lpm }), set, keyOfSet(set), () => allowance, now);
  it("trips high or low after hold-off and persistence, and says of what", () => {
    const j = judged((s) => {
      s.policy.persistenceS = 5;
    });
    valvesTurned(j.state, 0, 60);
    expect(tripsAt(80, (s) => flow(j, 121, [0], s).trip !== null)).toEqual([65]);
    tripsAnew(j.state);
    const low = Array.from({ length: 5 }, (_, i) => flow(j, 74, [0], 100 + i).trip).at(-1);
    expect(low).toMatchObject({ kind: "low", subjectId: "s1", measuredLpm: 74, limits: { lowLpm: 75 } });
    tripsAnew(j.state);
    const both = Array.from({ length: 5 }, (_, i) => flow(j, 300, [0, 1], 200 + i).trip).at(-1);
    expect(both).toMatchObject({ kind: "high", subjectId: "main" });
  });
  it("is right once hold-off and persistence are over without a low reading", () => {
    const j = judged((s) => {
      s.policy.persistenceS = 5;
    });
    valvesTurned(j.state, 0, 10);
    expect(tripsAt(20, (s) => flow(j, 100, [0], s).right !== null)).toEqual([15, 16, 17, 18, 19, 20]);
    expect(flow(j, 60, [0], 21).right).toBeNull();
  });
  it("another set begins its count anew, the same in another order does not", () => {
    const j = judged((s) => {
      s.policy.persistenceS = 5;
    });
    expect(keyOfSet([2, 0, 1])).toBe(keyOfSet([0, 1, 2]));
    for (let now = 1; now <= 4; now++) flow(j, 300, [0, 1], now);
    expect(flow(j, 300, [1, 0], 5).trip?.kind).toBe("high");
    for (let now = 6; now <= 9; now++) flow(j, 300, [0], now);
    expect(flow(j, 300, [2], 10).trip).toBeNull();
  });
  it("hand watering is allowed for, and what nobody reads or monitors is not judged", () => {
    const j = judged((s) => {
      s.policy.persistenceS = 1;
      Object.assign(s.stations[1] as object, { monitored: false });
    });
    expect(flow(j, 140, [0], 1, 20).trip).toBeNull();
    expect(flow(j, 141, [0], 2, 20).trip?.kind).toBe("high");
    expect(flow(j, null, [0], 3)).toEqual({ trip: null, right: null });
    expect(flow(j, 900, [1], 4)).toEqual({ trip: null, right: null });
    expect(flow(j, 900, [], 5)).toEqual({ trip: null, right: null });
  });
});
