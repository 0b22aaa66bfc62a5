import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { demoSites } from "../../server/demo/sites.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { networkModel } from "./network-model.ts";
import { OpenNetwork } from "./open-network.ts";
import { nodeKpa, solveSets } from "./solver.ts";

const modelOf = (site: SiteFile) => {
  const model = networkModel(site);
  return { model, network: new OpenNetwork(model) };
};

describe("the network of what is open", () => {
  it.each(demoSites().map((s) => [s.site.name, s] as const))(
    "%s: outlets by pressure, held to the network solver with the same draws",
    async (_, site) => {
      const { model, network } = modelOf(site);
      const stations = site.stations.flatMap((s, i) => {
        const e = expectedFlow(s);
        return e && (model.stationNode[i] ?? -1) >= 0 ? [{ i, lpm: e.lpm }] : [];
      });
      const picks = fc.sample(
        fc.shuffledSubarray(stations, { minLength: 1, maxLength: Math.min(12, stations.length) }),
        { numRuns: 12, seed: 5 },
      );
      const ours = picks.map((set) =>
        network.solve({
          outlets: set.map(({ i, lpm }) => ({
            node: model.stationNode[i] as number,
            coefficient: lpm / Math.sqrt(30),
          })),
          shut: new Set(),
        }),
      );
      expect(ours.every((o) => o.balanced)).toBe(true);
      const theirs = await solveSets(
        model,
        picks.map((set, k) => {
          const stationLpm = site.stations.map(() => 0);
          set.forEach(({ i }, n) => {
            stationLpm[i] = ours[k]?.outletLpm[n] as number;
          });
          return { stationLpm, closedLinks: new Set<number>() };
        }),
      );
      picks.forEach((set, k) => {
        const [a, b] = [ours[k], theirs[k]];
        if (!a || !b) throw new Error("unsolved");
        set.forEach(({ i, lpm }, n) => {
          const kPa = nodeKpa(model, b, model.stationNode[i] as number);
          expect(
            Math.abs((a.outletKpa[n] as number) - kPa),
            `${site.site.name} ${site.stations[i]?.name} ours ${a.outletKpa[n]} theirs ${kPa}`,
          ).toBeLessThan(1 + 0.01 * Math.abs(kPa));
          // By pressure: q = c·√P.
          expect(a.outletLpm[n]).toBeCloseTo(
            (lpm / Math.sqrt(30)) * Math.sqrt(Math.max(0, (a.outletKpa[n] as number) / 9.80665)),
            1,
          );
        });
      });
    },
  );

  it("what flows in flows out at every node, and what no water reaches gives nothing", () => {
    const [site] = demoSites();
    const { model, network } = modelOf(site as SiteFile);
    const outlets = model.stationNode.slice(0, 5).map((node) => ({ node, coefficient: 12 }));
    const flows = network.solve({ outlets, shut: new Set() });
    const balance = model.nodes.map(() => 0);
    model.links.forEach((l, i) => {
      balance[l.from] = (balance[l.from] as number) - (flows.linkLpm[i] as number);
      balance[l.to] = (balance[l.to] as number) + (flows.linkLpm[i] as number);
    });
    outlets.forEach((o, i) => {
      balance[o.node] = (balance[o.node] as number) - (flows.outletLpm[i] as number);
    });
    model.nodes.forEach((n, i) => {
      if (n.kind === "junction") expect(Math.abs(balance[i] as number)).toBeLessThan(0.01);
    });
    const shut = new Set(model.links.flatMap((l, i) => (model.nodes[l.from]?.kind === "reservoir" ? [i] : [])));
    expect(network.solve({ outlets, shut }).outletLpm).toEqual([0, 0, 0, 0, 0]);
  });

  it("more open gives more in sum and less each; a fixed draw is met as asked", () => {
    for (const site of demoSites()) {
      const { model, network } = modelOf(site);
      const nodes = model.stationNode.filter((n) => n >= 0).slice(0, 8);
      let before = { sum: 0, first: Number.POSITIVE_INFINITY };
      for (let n = 1; n <= nodes.length; n++) {
        const { outletLpm } = network.solve({
          outlets: nodes.slice(0, n).map((node) => ({ node, coefficient: 10 })),
          shut: new Set(),
        });
        const now = { sum: outletLpm.reduce((a, b) => a + b, 0), first: outletLpm[0] as number };
        expect(now.sum).toBeGreaterThanOrEqual(before.sum - 1e-3);
        expect(now.first).toBeLessThanOrEqual(before.first + 1e-3);
        before = now;
      }
      expect(network.solve({ outlets: [{ node: nodes[0] as number, lpm: 25 }], shut: new Set() }).outletLpm[0]).toBe(
        25,
      );
    }
  });
});
