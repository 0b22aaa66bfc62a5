import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { plan } from "../dispatch/plan.ts";
import { parseSite } from "../site-file/parse-site.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";
import { inputStarts, signalIntervals } from "./input-signal.ts";
import { instantOf } from "../dates/wall-time.ts";

type Input = NonNullable<SiteFile["weatherInputs"]>[number];
type Rule = NonNullable<Program["onInputs"]>[number];
const ZONE = "Europe/Vienna";
const DATE = "2026-07-14";
const at = (hhmm: string, date = DATE): number => instantOf(ZONE, date, hhmm);
const moisture = (...readings: [string, number][]): Input => ({
  id: "moist",
  name: "Moisture",
  kind: "moisture",
  readings: readings.map(([when, value]) => ({ at: `${DATE}T${when}`, value })),
});
const site = (input: Input, rule: Omit<Rule, "inputId">, change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    s.weatherInputs = [input];
    (s.programs[0] as Program).onInputs = [{ inputId: input.id, ...rule }];
    change(s);
  });
const times = (s: SiteFile) =>
  plan(s, DATE).runs.map((r) => [r.stationId, r.start.slice(11, 16), r.end.slice(11, 16), r.ended]);

describe("readings of an input", () => {
  it("are beyond the limit from one reading to the next, and say nothing after a day", () => {
    const input = moisture(["20:00", 12], ["21:00", 30], ["23:00", 12]);
    expect(signalIntervals(ZONE, input, { when: "below", limit: 20 })).toEqual([
      { from: at("20:00"), to: at("21:00") },
      { from: at("23:00"), to: at("23:00") + 86_400 },
    ]);
    expect(signalIntervals(ZONE, input, { when: "above", limit: 30 })).toEqual([]);
    expect(signalIntervals(ZONE, { ...input, readings: undefined }, { when: "below", limit: 20 })).toEqual([]);
  });
});

describe("a program paused by an input", () => {
  it("closes what runs, goes on where it stopped, and says why", () => {
    const wet = site(moisture(["22:04", 40], ["22:30", 10]), { does: "pause", when: "above", limit: 35 });
    expect(times(wet)).toEqual([
      ["s1", "22:00", "22:04", "input"],
      ["s3", "22:00", "22:04", "input"],
      ["s1", "22:30", "22:36", "complete"],
      ["s3", "22:30", "22:36", "complete"],
      ["s2", "22:36", "22:46", "complete"],
    ]);
    expect(plan(wet, DATE).runs[2]?.waited).toEqual({ code: "input", elementId: "moist", seconds: 26 * 60 });
  });
  it("a station that ignores the input waters on, and a bypassed input pauses nothing", () => {
    const ignoring = site(moisture(["22:04", 40], ["22:30", 10]), { does: "pause", when: "above", limit: 35 }, (s) => {
      Object.assign(s.stations[0] as object, { ignoresInputs: ["moist"] });
    });
    expect(times(ignoring).filter(([id]) => id === "s1")).toEqual([["s1", "22:00", "22:10", "complete"]]);
    const bypassed = site({ ...moisture(["22:04", 40]), bypassed: true }, { does: "pause", when: "above", limit: 35 });
    expect(times(bypassed)).toEqual(times(smallSite()));
  });
  it("what is still paused a day after its start is a shortfall", () => {
    const input = moisture(["22:05", 40]);
    const s = site(
      { ...input, readings: [...(input.readings ?? []), { at: "2026-07-15T20:00", value: 40 }] },
      { does: "pause", when: "above", limit: 35 },
    );
    expect(plan(s, DATE).shortfalls.map((x) => [x.stationId, x.minutes])).toEqual([
      ["s1", 5],
      ["s2", 10],
      ["s3", 5],
    ]);
  });
});

describe("a program started by an input", () => {
  const none = (s: SiteFile): void => {
    (s.programs[0] as Program).starts = [];
  };
  it("starts each time a reading passes the limit on a date it is due", () => {
    const dry = site(
      moisture(["19:00", 12], ["19:40", 30], ["21:00", 11]),
      { does: "start", when: "below", limit: 20 },
      none,
    );
    expect(inputStarts(dry, dry.programs[0] as Program, DATE)).toEqual([at("19:00"), at("21:00")]);
    expect(times(dry).map(([id, from]) => `${id} ${from}`)).toEqual([
      "s1 19:00",
      "s3 19:00",
      "s2 19:10",
      "s1 21:00",
      "s3 21:00",
      "s2 21:10",
    ]);
    expect(plan(dry, "2026-07-15").runs).toEqual([]);
  });
  it("starts at midnight when the reading is beyond it already, and once where the clock starts it too", () => {
    const input = {
      ...moisture(["22:00", 12]),
      readings: [
        { at: "2026-07-13T18:00", value: 10 },
        { at: `${DATE}T15:00`, value: 30 },
        { at: `${DATE}T22:00`, value: 10 },
      ],
    };
    const dry = site(input, { does: "start", when: "below", limit: 20 });
    expect(times(dry).map(([id, from]) => `${id} ${from}`)).toEqual([
      "s1 00:00",
      "s3 00:00",
      "s2 00:10",
      "s1 22:00",
      "s3 22:00",
      "s2 22:10",
    ]);
  });
  it("a rule on an input that is not there is an error of the file", () => {
    const s = smallSite();
    const broken = {
      ...s,
      programs: s.programs.map((p) => ({
        ...p,
        onInputs: [{ inputId: "gone", does: "start", when: "below", limit: 20 }],
      })),
    };
    const read = parseSite(broken);
    expect(read.ok ? [] : read.problems.map((p) => [p.code, p.path])).toEqual([
      ["unknownReference", "programs[0].onInputs[0].inputId"],
    ]);
  });
});
