import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { siteFacts } from "./site-facts.ts";

const facts = (change: (s: SiteFile) => void = () => {}) => siteFacts(smallSite(change));

describe("what Rounds shows of a site's file", () => {
  it("counts what is there, and says since when it is learned", () => {
    expect(
      facts((s) => {
        Object.assign(s.stations[0] as object, { learned: { meanLpm: 99, sdLpm: 1, at: "2026-05-02T10:00:00.000Z" } });
        Object.assign(s.stations[1] as object, { learned: { meanLpm: 99, sdLpm: 1, at: "2026-04-02T10:00:00.000Z" } });
        s.site.holdUntil = "2026-08-01";
      }),
    ).toMatchObject({
      timeZone: "Europe/Vienna",
      units: "metric",
      stations: 3,
      controllers: 1,
      hold: "2026-08-01",
      oldestLearned: "2026-04-02T10:00:00.000Z",
      unlearned: 1,
      idle: null,
      profileIds: [],
      sourceKinds: ["municipal"],
      off: { controllers: [], programs: [] },
      duties: [
        { duty: "battery", subjectId: "ctl", last: null },
        { duty: "learning", subjectId: null, last: "2026-04-02" },
        { duty: "spring", last: null },
        { duty: "winter", last: null },
      ],
      dated: [{ what: "off", words: "Off", until: "2026-08-01" }],
    });
  });
  it("names what is off beside what is on, every error, and what of its budget each month takes", () => {
    const found = facts((s) => {
      s.controllers.push({ id: "two", name: "Two", powered: "mains", off: true });
      Object.assign(s.sources[0] as object, { monthlyBudgetM3: Array(12).fill(1) });
      (s.stations[0] as { number: number }).number = (s.stations[1] as { number: number }).number;
    });
    expect(found.off).toEqual({ controllers: ["Two"], programs: [] });
    expect(found.errors.length).toBeGreaterThan(0);
    expect(found.ofBudget).toHaveLength(12);
    expect(found.ofBudget[6]).toBeGreaterThan(0);
  });
  it("does not ask for stations to be learned that nobody watches", () => {
    expect(facts((s) => Object.assign(s.stations[2] as object, { monitored: false })).unlearned).toBe(2);
  });
  it("tells a site that waters nothing though it is set up", () => {
    const off = (s: SiteFile): void => void Object.assign(s.controllers[0] as object, { off: true });
    expect(facts(off).idle).toBe("controllersOff");
    expect(facts((s) => Object.assign(s.programs[0] as object, { enabled: false })).idle).toBe("noProgramInUse");
    expect(
      facts((s) => {
        off(s);
        s.controllers.push({ id: "two", name: "Two", powered: "mains" });
      }).idle,
    ).toBe("noProgramInUse");
    expect(
      facts((s) => {
        s.programs = [];
      }).idle,
    ).toBeNull();
  });
});
