import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { difference } from "../site-file/difference.ts";
import { parseSite } from "../site-file/parse-site.ts";
import { monthWaterM3 } from "./month-water.ts";
import { costOf, firstSource, monthCost } from "./water-cost.ts";

const STEPS = {
  perM3: 1,
  steps: [
    { overM3: 200, perM3: 3 },
    { overM3: 100, perM3: 2 },
  ],
};

describe("what water costs", () => {
  it("is by steps: each step's water by its own price, in whatever order they were written", () => {
    expect(costOf({ perM3: 2.5 }, 40)).toBe(100);
    expect(costOf(STEPS, 0)).toBe(0);
    expect(costOf(STEPS, 100)).toBe(100);
    expect(costOf(STEPS, 150)).toBe(200);
    expect(costOf(STEPS, 250)).toBe(100 + 200 + 150);
  });
  it("a litre more never costs less, and a month in two parts never more than in one where steps rise", () => {
    const m3 = fc.double({ min: 0, max: 1e4, noNaN: true });
    fc.assert(
      fc.property(m3, m3, (a, b) => {
        expect(costOf(STEPS, a + b)).toBeGreaterThanOrEqual(costOf(STEPS, a) - 1e-9);
        expect(costOf(STEPS, a + b)).toBeGreaterThanOrEqual(costOf(STEPS, a) + costOf(STEPS, b) - 1e-6);
      }),
    );
  });
  it("of a month's programs is by the source that each main draws on first; none where that has no price", () => {
    const site = smallSite((s) => {
      const [source] = s.sources;
      if (source) Object.assign(source, { price: { perM3: 2 }, priority: 2 });
      s.site.currency = "EUR";
    });
    const m3 = monthWaterM3(site, 6);
    expect(m3).toBeGreaterThan(0);
    expect(firstSource(site, "main")).toBe(site.sources[0]?.id);
    expect(monthCost(site, 6)).toBeCloseTo(2 * m3, 9);
    const cheaper = structuredClone(site);
    cheaper.sources.push({ id: "well", name: "Well", kind: "well", priority: 1, price: { perM3: 0.5 } });
    cheaper.pocs[0]?.sourceIds.push("well");
    expect(monthCost(cheaper, 6)).toBeCloseTo(0.5 * m3, 9);
    Object.assign(cheaper.sources[1] ?? {}, { enabled: false });
    expect(monthCost(cheaper, 6)).toBeCloseTo(2 * m3, 9);
    expect(monthCost(smallSite(), 6)).toBeNull();
    expect(parseSite(cheaper).ok).toBe(true);
  });
  it("is told in words, in the site's units, and a currency is three letters", () => {
    const priced = smallSite((s) => Object.assign(s.sources[0] ?? {}, { price: STEPS }) as never);
    expect(difference(smallSite(), priced).map((c) => c.words)).toEqual([
      "source Source: price none → 1 per m³, over 200 m³ 3, over 100 m³ 2",
    ]);
    const us = (site: ReturnType<typeof smallSite>) => ({ ...site, site: { ...site.site, units: "us" as const } });
    expect(difference(us(smallSite()), us(priced))[0]?.words).toContain("3.7854 per kgal, over 52.8 kgal");
    expect(parseSite({ ...smallSite(), site: { ...smallSite().site, currency: "eur" } }).ok).toBe(false);
  });
});
