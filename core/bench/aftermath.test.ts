import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { aftermath } from "./aftermath.ts";
import { simulate } from "./simulate.ts";

const night = (faults: unknown[]) => {
  const r = simulate(smallSite(), { date: "2026-07-14", faults, exact: true });
  if (!r.ok) throw new Error("refused");
  return r.result;
};

describe("what faults did to the rest of the night", () => {
  it("nothing without one", () => {
    expect(aftermath(night([]), night([]))).toEqual([]);
  });
  it("the isolated station is short; the others end at other times, later for the search or earlier for the room it left, with all their minutes", () => {
    const rows = aftermath(night([{ at: "+0", kind: "brokenLateral", subjectId: "s1" }]), night([]));
    expect(rows.find((r) => r.stationId === "s1")?.minutesLess).toBeGreaterThan(4);
    const others = rows.filter((r) => r.stationId !== "s1");
    expect(others.length).toBeGreaterThan(0);
    for (const o of others) {
      expect(o.minutesLess).toBeLessThan(0.5);
      expect(o.end).not.toBe(o.calmEnd);
    }
  });
});
