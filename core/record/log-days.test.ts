import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { instantOf } from "../dates/wall-time.ts";
import { waterworks } from "../network/waterworks.ts";
import { readLog } from "../reckon/read-log.ts";
import { type Log, TOTAL } from "../reckon/stretches.ts";
import { waterOfLog } from "./log-days.ts";

const at = (date: string, clock: string): number => instantOf("Europe/Vienna", date, clock);
/** From the evening of the 14th to the morning of the 15th, a row in ten seconds. */
const FROM = at("2026-07-14", "22:00");
const TO = at("2026-07-15", "04:00");
const STEP_S = 10;
const log = (key: string, lpm = 90): Log => ({
  keys: [key],
  rows: Array.from({ length: (TO - FROM) / STEP_S }, (_, i) => ({
    t: FROM + (i + 1) * STEP_S,
    flow: [lpm],
    open: [0],
  })),
});
const litres = (of: ReturnType<typeof waterOfLog>) =>
  of.map(({ day, part, figures }) => [day, part, Math.round(figures.sensors.reduce((sum, s) => sum + s.litres, 0))]);

describe("the water of a recorder's log", () => {
  it("is told by half days, each its own part of the night, without gaps around it", () => {
    const w = waterworks(smallSite());
    for (const key of ["fs", "poc", TOTAL]) {
      const halves = waterOfLog(w, log(key));
      expect(litres(halves)).toEqual([
        ["2026-07-14", "pm", 2 * 60 * 90],
        ["2026-07-15", "am", 4 * 60 * 90],
      ]);
      expect(halves.flatMap((h) => h.figures.sensors.flatMap((s) => s.gaps))).toEqual([]);
      expect(halves[0]?.figures.rows).toMatchObject([
        { sourceId: "src", pocId: "poc", mainlineId: "main", stationId: "s1", programId: "p", cause: "scheduled" },
      ]);
    }
  });
  it("of a site with several sensors is not guessed from one column", () => {
    const site = smallSite((s) => {
      const [poc] = s.pocs;
      if (!poc) return;
      const devices = poc.devices.map((d) => ({ ...d, id: `${d.id}2` }));
      s.pocs.push({ ...poc, id: "poc2", name: "Second", devices });
      s.mainlines.push({ id: "main2", name: "Second", feedIds: ["poc2"], pipes: [], ceilingLpm: 150 });
    });
    expect(waterOfLog(waterworks(site), log(TOTAL))).toEqual([]);
    expect(litres(waterOfLog(waterworks(site), log("poc")))).toHaveLength(2);
  });
  it("is read from a sheet as the nights are", () => {
    const read = readLog(
      smallSite(),
      "time,flow L/min,station\n2026-07-14T22:00:00+02:00,60,1\n2026-07-14T22:01:00+02:00,60,1\n",
    );
    if (!read.ok) throw new Error(read.problem.message);
    expect(litres(waterOfLog(waterworks(smallSite()), read.log))).toEqual([["2026-07-14", "pm", 120]]);
  });
});
