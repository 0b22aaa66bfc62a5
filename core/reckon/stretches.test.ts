import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { instantOf } from "../dates/wall-time.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { neverApart } from "./apart.ts";
import { type Log, nightOf, pointsOf, type Stretch, stretchesOf } from "./stretches.ts";

const site = smallSite();
const T = instantOf(site.site.timeZone, "2026-07-14", "22:00");
type Piece = { s: number; open: number[]; lpm: number | null; everyS?: number };
/** A log of pieces one after the other, from a main that is full; a piece begins with the row at which its valves are seen open. */
function log(pieces: Piece[], keys = ["poc"]): Log {
  const rows: Log["rows"][number][] = [{ t: T - 1, flow: keys.map(() => 100), open: [1] }];
  let t = T;
  for (const { s, open, lpm, everyS = 1 } of pieces) {
    for (let i = 0; i < s; i += everyS) rows.push({ t: t + i, flow: keys.map(() => lpm), open });
    t += s;
  }
  return { keys, rows };
}
const of = (l: Log, file: SiteFile = site): Stretch[] => stretchesOf(waterworks(file), l).stretches;

describe("a stretch of a log", () => {
  it("begins when hold-off is over and ends with the set; its mean is over the time that is left", () => {
    const [one, two, ...none] = of(
      log([
        { s: 300, open: [0], lpm: 100 },
        { s: 200, open: [0, 2], lpm: 150 },
        { s: 300, open: [], lpm: 0 },
      ]),
    );
    expect(none).toEqual([]);
    expect(one).toMatchObject({ set: [0], from: T + 60, to: T + 299, seconds: 239, readings: 239, meanLpm: 100 });
    expect(two).toMatchObject({ set: [0, 2], from: T + 360, meanLpm: 150, ranS: 199 });
  });
  it("is left out where less than 20 s are left, where nothing is read, and under what the sensor sees", () => {
    expect(of(log([{ s: 79, open: [0], lpm: 100 }]))).toEqual([]);
    expect(of(log([{ s: 81, open: [0], lpm: 100 }]))).toHaveLength(1);
    expect(of(log([{ s: 300, open: [0], lpm: 9 }]))).toEqual([]);
    expect(of(log([{ s: 300, open: [0], lpm: null }]))).toEqual([]);
  });
  it("waits half as long again as a main takes to fill that stood shut for half an hour: the last of it is slow", () => {
    const [filled] = of(
      log([
        { s: 2000, open: [], lpm: 0 },
        { s: 400, open: [0], lpm: 100 },
      ]),
    );
    expect(filled?.from).toBe(T + 2000 + 180);
  });
  it("takes a main for empty of which nothing is known before the log", () => {
    const { keys, rows } = log([{ s: 400, open: [0], lpm: 100 }]);
    expect(of({ keys, rows: rows.slice(1) })[0]?.from).toBe(T + 180);
  });
  it("is cut where what it reads jumps, as where something breaks meanwhile; together they used what the set used", () => {
    const whole = of(log([{ s: 400, open: [0], lpm: 100 }]));
    const cut = of(
      log([
        { s: 200, open: [0], lpm: 100 },
        { s: 200, open: [0], lpm: 112 },
      ]),
    );
    expect(cut.map((s) => [s.meanLpm, s.from, s.to])).toEqual([
      [100, T + 60, T + 199],
      [112, T + 199, T + 399],
    ]);
    expect(cut.map((s) => s.ranS)).toEqual([199, 200]);
    expect(whole.map((s) => s.ranS)).toEqual([399]);
  });
  it("is cut by a gap, and rows may be a minute apart", () => {
    const rows = [...log([{ s: 600, open: [0], lpm: 100, everyS: 60 }]).rows];
    expect(of({ keys: ["poc"], rows })[0]).toMatchObject({ seconds: 480, readings: 8, meanLpm: 100 });
    rows.splice(4, 2);
    expect(of({ keys: ["poc"], rows })).toHaveLength(2);
  });
  it("says nothing in hours of hand watering", () => {
    const hand = smallSite((s) => {
      Object.assign(s.pocs[0] as object, { handWatering: [{ window: { from: "21:30", to: "23:00" }, flowLpm: 40 }] });
    });
    expect(of(log([{ s: 300, open: [0], lpm: 100 }]), hand)).toEqual([]);
  });
  it("belongs to the night in whose evening it began, by the site's clock", () => {
    const at = (clock: string): string => nightOf("Europe/Vienna", instantOf("Europe/Vienna", "2026-07-15", clock));
    expect([at("00:10"), at("11:59"), at("12:00"), at("23:59")]).toEqual([
      "2026-07-14",
      "2026-07-14",
      "2026-07-15",
      "2026-07-15",
    ]);
  });
});

describe("where a log tells the flow", () => {
  const two = smallSite((s) => {
    s.mainlines.push({
      id: "branch",
      name: "Branch",
      feedIds: ["main"],
      pipes: [],
      devices: [
        {
          id: "fb",
          kind: "flowSensor",
          output: { type: "frequency", kGpm: 1.6, offsetHz: 0.3 },
          minLpm: 5,
          maxLpm: 900,
        },
      ],
    });
    Object.assign(s.stations[2] as object, { mainlineId: "branch" });
  });
  it("is the sum of a system, by its connections or its sensors, and a main's own sensor", () => {
    const ids = (keys: string[]): string[] => pointsOf(waterworks(two), keys).map((p) => p.id);
    expect(ids(["poc"])).toEqual(["system 0"]);
    expect(ids(["fs", "fb"])).toEqual(["system 0", "main 1"]);
    expect(ids(["total"])).toEqual(["system 0"]);
    expect(ids(["elsewhere"])).toEqual([]);
  });
  it("shows at a main's sensor only what hangs on it", () => {
    const sets = of({ keys: ["fs", "fb"], rows: log([{ s: 300, open: [0, 2], lpm: 50 }], ["fs", "fb"]).rows }, two).map(
      (s) => [s.point, s.set],
    );
    expect(sets).toEqual([
      ["system 0", [0, 2]],
      ["main 1", [2]],
    ]);
  });
});

describe("stations that are never apart", () => {
  it("are those that every stretch has both of, or neither", () => {
    const sets = [[0, 1], [0, 1, 2], [2, 3], [3]].map((set) => ({ set }) as Stretch);
    expect(neverApart(sets)).toEqual([[0, 1], [2], [3]]);
  });
});
