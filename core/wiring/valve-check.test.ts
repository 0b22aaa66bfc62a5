import { describe, expect, it } from "vitest";
import fc from "fast-check";
import { smallSite } from "../../testing/small-site.ts";
import { type CheckUnit, checkLines, readCheck, VALVE_WORDS, valveMeaning } from "./valve-check.ts";

const site = smallSite((s) => {
  Object.assign(s.stations[1] as object, { solenoidMa: 100 });
  Object.assign(s.stations[2] as object, { coil: "dcLatching" });
});
const [one, two, three] = site.stations as [
  (typeof site.stations)[number],
  (typeof site.stations)[number],
  (typeof site.stations)[number],
];
const meanings = (station: typeof one, unit: CheckUnit, ...values: number[]): string[] =>
  values.map((v) => valveMeaning(site, station, unit, v));

describe("what a figure of a valve means", () => {
  it("of a current is by what its coil should draw", () => {
    expect(meanings(one, "mA", 0, 22, 140, 230, 330, 700)).toEqual(["open", "open", "high", "good", "over", "short"]);
    expect(meanings(two, "mA", 5, 60, 100, 150, 260)).toEqual(["open", "high", "good", "over", "short"]);
    expect(meanings(three, "mA", 120)).toEqual(["good"]);
  });
  it("of a resistance is by the site's thresholds and the kind of coil", () => {
    expect(meanings(one, "ohm", 3, 40, 90, 5000)).toEqual(["short", "good", "high", "open"]);
    expect(meanings(three, "ohm", 1, 5, 40)).toEqual(["short", "good", "high"]);
  });
  it("more current is never nearer to an open circuit", () => {
    const order = ["open", "high", "good", "over", "short"];
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 2000, noNaN: true }),
        fc.double({ min: 0, max: 2000, noNaN: true }),
        (a, b) => {
          const [x, y] = meanings(one, "mA", Math.min(a, b), Math.max(a, b)) as [string, string];
          expect(order.indexOf(x)).toBeLessThanOrEqual(order.indexOf(y));
        },
      ),
    );
  });
  it("what is not good has words and something to look at", () => {
    for (const [meaning, { next }] of Object.entries(VALVE_WORDS)) expect(next === "").toBe(meaning === "good");
  });
});

it("a check stands beside the last: what changed its meaning, or its figure by more than measuring makes", () => {
  const lines = checkLines(
    site,
    "ctl",
    "mA",
    [
      { stationId: "s1", value: 226 },
      { stationId: "s2", value: 0 },
    ],
    [
      { stationId: "s1", value: 231 },
      { stationId: "s2", value: 98 },
      { stationId: "s3", value: 118 },
    ],
  );
  expect(lines.map((l) => [l.station.id, l.value, l.meaning, l.before, l.changed])).toEqual([
    ["s1", 226, "good", 231, false],
    ["s2", 0, "open", 98, true],
    ["s3", null, null, 118, false],
  ]);
  expect(
    checkLines(site, "ctl", "mA", [{ stationId: "s1", value: 190 }], [{ stationId: "s1", value: 231 }])[0]?.changed,
  ).toBe(true);
  expect(checkLines(site, "another", "mA", [], [])).toEqual([]);
});

describe("a check that is pasted", () => {
  const read = (text: string, unit: CheckUnit = "mA") => readCheck(site, "ctl", unit, text);
  it("is read with whatever stands between, and units that say so", () => {
    expect(read("station, mA\n1, 231\n2: 0.098 A\nStation 3; open\n\n").readings).toEqual([
      { stationId: "s1", value: 231 },
      { stationId: "s2", value: 98 },
      { stationId: "s3", value: 0 },
    ]);
    expect(read("1\tNorth lawn\t38,5 Ω\n2 1.2 kohm\n3 OL", "ohm")).toEqual({
      readings: [
        { stationId: "s1", value: 38.5 },
        { stationId: "s2", value: 1200 },
        { stationId: "s3", value: 1e6 },
      ],
      problems: [],
    });
  });
  it("says by line what it could not read, and takes the rest", () => {
    const { readings, problems } = read("1, 231\n9, 230\n1, 5\nnorth lawn fine\n2, 40 ohm");
    expect(readings).toEqual([{ stationId: "s1", value: 231 }]);
    expect(problems).toEqual([
      'Line 2, "9, 230": this controller has no station 9.',
      'Line 3, "1, 5": station 1 stands twice.',
      'Line 4, "north lawn fine": a station\'s number and a figure are needed.',
      'Line 5, "2, 40 ohm": it is not in milliamperes.',
    ]);
  });
});
