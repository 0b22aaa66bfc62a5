import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { readLog } from "./read-log.ts";

const site = smallSite();
const read = (text: string) => readLog(site, text);
const problem = (text: string) => {
  const r = read(text);
  return r.ok ? null : r.problem;
};
const HEAD = "time,flow L/min,station\n";

describe("a log as CSV", () => {
  it("names the instant, the flow of the site or of each sensor, and what is open", () => {
    expect(read(`${HEAD}2026-07-14T22:00:00+02:00,99.5,1+3\n2026-07-14T22:00:01+02:00,,\n`)).toEqual({
      ok: true,
      log: {
        keys: ["total"],
        rows: [
          { t: 1784059200, flow: [99.5], open: [0, 2] },
          { t: 1784059201, flow: [null], open: [] },
        ],
      },
    });
  });
  it("is read as presa simulate writes it, and in gallons", () => {
    const simulated = read(
      "at,poc L/min,expected L/min,high L/min,low L/min,station\n2026-07-14T22:00:00+02:00,7,8,9,,2\n",
    );
    expect(simulated.ok && simulated.log).toMatchObject({ keys: ["poc"], rows: [{ flow: [7], open: [1] }] });
    const gallons = read("time,flow fs gal/min,station\n2026-07-14T22:00:00+02:00,10,2\n");
    expect(gallons.ok && gallons.log.keys).toEqual(["fs"]);
    expect(gallons.ok && gallons.log.rows[0]?.flow[0]).toBeCloseTo(37.854, 3);
  });
  it.each<[string, string, number, RegExp]>([
    ["no time", "flow L/min,station\n1,2\n", 1, /named "time"/],
    ["no station", "time,flow L/min\nx,1\n", 1, /named "station"/],
    ["no flow of this site", "time,flow other L/min,station\nx,1,1\n", 1, /"flow SENSORID L\/min"/],
    ["an instant without a date", `${HEAD}22:00,1,1\n`, 2, /is not an instant/],
    ["a station that is not there", `${HEAD}2026-07-14T22:00:00+02:00,1,9\n`, 2, /no station "9"/],
    ["a figure that is none", `${HEAD}2026-07-14T22:00:00+02:00,x,1\n`, 2, /no figure/],
    ["lines out of order", `${HEAD}2026-07-14T22:00:01+02:00,1,1\n2026-07-14T22:00:00+02:00,1,1\n`, 3, /earlier/],
  ])("%s is refused with its line", (_, text, line, words) => {
    expect(problem(text)).toMatchObject({ line, message: expect.stringMatching(words) });
  });
});
