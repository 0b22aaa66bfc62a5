import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { difference } from "../site-file/difference.ts";
import { parseSite } from "../site-file/parse-site.ts";
import { changedSite, MANY, type ManyChange, manyChange, manyWords } from "./many-change.ts";

const TODAY = "2026-07-14";
const site = smallSite((s) => {
  s.site.holdUntil = "2026-07-20";
  s.site.seasonalPercent = 80;
  const [first] = s.programs;
  if (first) first.starts = ["21:30", { at: "00:10", off: true }];
  s.weatherInputs = [
    { id: "i1", name: "Dish", kind: "rain" },
    { id: "i2", name: "Mast", kind: "wind", bypassed: true },
  ];
});
const PROGRAM = site.programs[0]?.name as string;
const changed = (change: ManyChange) => changedSite(site, change, TODAY);
const EVERY: ManyChange[] = [
  { kind: "holdDays", days: 3 },
  { kind: "holdUntil", until: "2026-08-01" },
  { kind: "resume" },
  { kind: "percent", percent: 95 },
  { kind: "percentBy", percent: -15 },
  { kind: "starts", minutes: -30 },
  { kind: "monthPercent", month: 7, percent: 120 },
  { kind: "programInUse", program: PROGRAM, inUse: false },
  { kind: "programPercent", program: PROGRAM, percent: 70 },
  { kind: "programHold", program: PROGRAM, days: 2 },
  { kind: "inputBypassed", input: "rain", bypassed: true },
  { kind: "profile", profileId: "invented-plain", name: "Plain wall clock" },
  { kind: "limits", highPercent: 30, lowPercent: 35, persistenceS: 90 },
  { kind: "startingPoint", school: "steady" },
  { kind: "waterPrice", source: "all", perM3: 2.4, currency: "EUR" },
  {
    kind: "programAs",
    from: "Elsewhere",
    program: { name: PROGRAM, starts: ["03:00"], days: { type: "weekdays", days: ["mon"] } },
  },
  { kind: "controllersAs", from: "Elsewhere", settings: { powered: "battery", maxStationsAtOnce: 2 } },
];

describe("one change on many sites", () => {
  it("is off for days from where the site is, until a day, or with no end; and waters again", () => {
    expect(changed({ kind: "holdDays", days: 3 }).site.holdUntil).toBe("2026-07-17");
    expect(changed({ kind: "holdUntil", until: "2026-08-01" }).site.holdUntil).toBe("2026-08-01");
    expect(changed({ kind: "holdUntil", until: "indefinite" }).site.holdUntil).toBe("indefinite");
    expect(changed({ kind: "resume" }).site.holdUntil).toBeUndefined();
  });
  it("sets the seasonal percent, or makes it so much more or less of what it is, within what a file takes", () => {
    expect(changed({ kind: "percent", percent: 95 }).site.seasonalPercent).toBe(95);
    expect(changed({ kind: "percentBy", percent: -15 }).site.seasonalPercent).toBe(68);
    expect(changedSite(smallSite(), { kind: "percentBy", percent: 20 }, TODAY).site.seasonalPercent).toBe(120);
    const high = changedSite(changed({ kind: "percent", percent: 900 }), { kind: "percentBy", percent: 50 }, TODAY);
    expect(high.site.seasonalPercent).toBe(1000);
  });
  it("moves every start, those that are switched off too, around midnight", () => {
    expect(changed({ kind: "starts", minutes: -30 }).programs[0]?.starts).toEqual([
      "21:00",
      { at: "23:40", off: true },
    ]);
    expect(changed({ kind: "starts", minutes: 180 }).programs[0]?.starts).toEqual([
      "00:30",
      { at: "03:10", off: true },
    ]);
  });
  it("means a program by its name whatever its capitals, and leaves sites that have none of that name", () => {
    const off = changed({ kind: "programInUse", program: PROGRAM.toUpperCase(), inUse: false });
    expect(off.programs[0]?.enabled).toBe(false);
    expect(changedSite(off, { kind: "programInUse", program: PROGRAM, inUse: true }, TODAY).programs).toEqual(
      site.programs,
    );
    expect(changed({ kind: "programPercent", program: "Nobody's", percent: 10 })).toEqual(site);
    expect(changed({ kind: "programHold", program: PROGRAM, days: 2 }).programs[0]?.holdUntil).toBe("2026-07-16");
  });
  it("sets one month's percent and leaves the others as they were", () => {
    const july = changed({ kind: "monthPercent", month: 7, percent: 120 }).programs[0]?.monthlyPercent;
    expect(july?.map((p, i) => [i + 1, p]).filter(([, p]) => p !== 100)).toEqual([[7, 120]]);
  });
  it("bypasses the inputs of a kind, or takes the bypass of all out", () => {
    const bypassed = (change: ManyChange) => changed(change).weatherInputs?.map((i) => i.bypassed === true);
    expect(bypassed({ kind: "inputBypassed", input: "rain", bypassed: true })).toEqual([true, true]);
    expect(bypassed({ kind: "inputBypassed", input: "all", bypassed: false })).toEqual([false, false]);
  });
  it("sets limits by their figures, which are then no starting point's", () => {
    const { policy } = changed({ kind: "limits", highPercent: 30, lowPercent: 35, persistenceS: 90 });
    expect(policy).toMatchObject({ highPercent: 30, lowPercent: 35, persistenceS: 90 });
    expect(policy.preset).toBeUndefined();
  });
  it("leaves the site that it is made from as it was", () => {
    const before = structuredClone(site);
    for (const change of EVERY) changed(change);
    expect(site).toEqual(before);
  });
  it("takes a starting point of limits as Limits does", () => {
    expect(changed({ kind: "startingPoint", school: "steady" }).policy).toMatchObject({
      preset: "steady",
      highPercent: 25,
    });
  });
  it.each(EVERY)("$kind leaves a file that is right, changes only what it says, and has words", (change) => {
    expect(manyChange.parse(change)).toEqual(change);
    const next = changed(change);
    expect(parseSite(next).ok).toBe(true);
    expect(difference(site, next).length).toBeGreaterThan(0);
    expect(manyWords(change).length).toBeGreaterThan(5);
    expect(site.site.holdUntil).toBe("2026-07-20");
  });
  it("has every kind tried here", () => {
    expect(new Set(EVERY.map((c) => c.kind))).toEqual(new Set(Object.keys(MANY)));
  });
});
