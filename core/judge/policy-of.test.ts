import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { simulate } from "../bench/simulate.ts";
import { plan } from "../dispatch/plan.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { policyOfMain, policyOfSet, withInherited } from "./policy-of.ts";
import { sightOf } from "../limits/sight.ts";
import { watchedShare } from "../limits/watched.ts";

const DATE = "2026-07-14";
/** The usual site with a second main under the first, which station 3 hangs on. */
const branched = (change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    s.mainlines.push({ id: "branch", name: "Branch", feedIds: ["main"], pipes: [] });
    Object.assign(s.stations[2] as object, { mainlineId: "branch" });
    change(s);
  });

describe("policies are inherited", () => {
  it("from site to connection to main to branch, each figure on its own, and says where it is from", () => {
    const site = branched((s) => {
      (s.pocs[0] as { policy?: object }).policy = { highPercent: 30, persistenceS: 90 };
      (s.mainlines[0] as { policy?: object }).policy = { highPercent: 40 };
      (s.mainlines[1] as { policy?: object }).policy = { lowResponse: "notify" };
    });
    const w = waterworks(site);
    expect(policyOfMain(w, 1)).toEqual({
      policy: { ...site.policy, highPercent: 40, persistenceS: 90, lowResponse: "notify" },
      from: { highPercent: "main", persistenceS: "poc", lowResponse: "branch" },
    });
    expect(policyOfSet(w, [0, 2]).lowResponse).toBe(site.policy.lowResponse);
    expect(policyOfSet(w, [2]).lowResponse).toBe("notify");
    Object.assign(site.stations[2] as object, { highPercent: 55 });
    expect(withInherited(site).stations.map((s) => s.highPercent)).toEqual([40, 40, 55]);
  });
  it("a site without overrides is untouched", () => {
    const site = branched();
    expect(withInherited(site)).toBe(site);
    expect(policyOfSet(waterworks(site), [0, 2])).toBe(site.policy);
  });
  it("judge on the bench, in what is seen, and in what is watched", () => {
    const wide = branched((s) => {
      (s.mainlines[0] as { policy?: object }).policy = { highPercent: 200, persistenceS: 595 };
    });
    const night = (site: SiteFile): string[] => {
      const n = simulate(site, {
        date: DATE,
        faults: [{ at: "+0", kind: "brokenLateral", subjectId: "s2", size: 60 }],
        exact: true,
      });
      return n.ok ? n.result.lockouts : ["refused"];
    };
    expect([night(branched()), night(wide)]).toEqual([["s2"], []]);
    expect(sightOf(wide, plan(wide, DATE).runs)[0]?.alone.highLpm).toBe(300);
    expect([watchedShare(branched(), plan(branched(), DATE).runs), watchedShare(wide, plan(wide, DATE).runs)]).toEqual([
      expect.closeTo(0.9, 6),
      0,
    ]);
    const told = branched((s) => {
      (s.mainlines[0] as { policy?: object }).policy = { highResponse: "notify" };
    });
    expect(night(told)).toEqual([]);
  });
});
