import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { waterCosts } from "./water-costs.ts";

const site = smallSite((s) => {
  Object.assign(s.sources[0] as object, { price: { perM3: 2, steps: [{ overM3: 100, perM3: 5 }] } });
  s.sources.push({ id: "well", name: "Well", kind: "well", price: { perM3: 0.1 } });
  s.sources.push({ id: "pond", name: "Pond", kind: "pond" });
});
const used = (at: string, sourceId: string, m3: number, lostM3 = 0) => ({
  at,
  sourceId,
  litres: 1000 * m3,
  lostL: 1000 * lostM3,
});

describe("what water used costs", () => {
  it("is by each source's price and steps; what was lost is of the dearest", () => {
    const { cost, lost, percentLess } = waterCosts(site, [
      used("2026-07", "src", 110, 20),
      used("2026-07", "well", 50),
    ]).get("2026-07") as NonNullable<ReturnType<ReturnType<typeof waterCosts>["get"]>>;
    expect(cost).toBeCloseTo(100 * 2 + 10 * 5 + 50 * 0.1, 9);
    // Ten of the twenty at five, ten at two.
    expect(lost).toBeCloseTo(10 * 5 + 10 * 2, 9);
    expect(percentLess).toBeCloseTo(1.1 * 5 + 0.5 * 0.1, 9);
  });
  it("of a month with water of a source without a price is not told, of others it is", () => {
    const costs = waterCosts(site, [used("2026-07", "pond", 1), used("2026-07", "src", 1), used("2026-08", "src", 1)]);
    expect([...costs.keys()]).toEqual(["2026-08"]);
    expect(waterCosts(site, [used("2026-07", "", 1)]).size).toBe(0);
  });
});
