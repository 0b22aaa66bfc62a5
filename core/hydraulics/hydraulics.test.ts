import { LinkProperty, NodeProperty, Project, Workspace } from "epanet-js";
import { describe, expect, it } from "vitest";
import { demoSites } from "../../server/demo/sites.ts";
import { randomTree } from "../../testing/random-tree.ts";
import { smallSite } from "../../testing/small-site.ts";
import { ceilings, insideDiameterMm } from "../ceilings/ceilings.ts";
import { frictionLossM } from "../pipes/flow-in-pipe.ts";
import { pipeC } from "../pipes/pipe-table.ts";
import type { Pipe, SiteFile } from "../site-file/schema.ts";
import { deliverableLpm } from "./deliverable.ts";
import { afterDevice, lossFromPoints, pumpHeadM } from "./device-loss.ts";
import { writeInp } from "./inp-write.ts";
import { networkModel } from "./network-model.ts";
import { pressureStudy } from "./pressures.ts";
import { nodeKpa, solveSets } from "./solver.ts";

const flows = (site: SiteFile): number[] => site.stations.map((s) => s.designFlowLpm ?? 0);

/** Pressure at every station worked by hand: static less each loss along its only way from the source. */
function byHand(site: SiteFile, draws: number[]): number[] {
  const model = networkModel(site);
  const through = model.links.map(() => 0);
  const linkInto = new Map(model.links.map((l, i) => [l.to, i]));
  const way = (node: number): number[] => {
    const links: number[] = [];
    for (let at = node; linkInto.has(at); at = model.links[linkInto.get(at) as number]?.from as number)
      links.push(linkInto.get(at) as number);
    return links;
  };
  model.stationNode.forEach((n, s) => {
    for (const l of way(n)) through[l] = (through[l] as number) + (draws[s] as number);
  });
  return model.stationNode.map((n) => {
    let head = 0;
    for (const i of way(n)) {
      const l = model.links[i] as (typeof model.links)[number];
      const q = through[i] as number;
      if (model.nodes[l.from]?.kind === "reservoir") head += model.nodes[l.from]?.headM as number;
      if (l.kind === "pipe") {
        const v = q / 60_000 / ((Math.PI / 4) * (l.insideMm / 1000) ** 2);
        head -= frictionLossM(q, l.lengthM, l.insideMm, l.c) + (l.minorK * v * v) / (2 * 9.80665);
      }
    }
    return (head - (model.nodes[n]?.elevationM as number)) * 9.80665;
  });
}

describe("against the network solver", () => {
  it("our friction agrees within 0.5 % of what is lost, on 200 random trees", async () => {
    for (let seed = 1; seed <= 200; seed++) {
      const site = randomTree(seed);
      const model = networkModel(site);
      const [solved] = await solveSets(model, [{ stationLpm: flows(site), closedLinks: new Set() }]);
      const hand = byHand(site, flows(site));
      const still = (model.nodes.find((n) => n.kind === "reservoir")?.headM ?? 0) * 9.80665;
      model.stationNode.forEach((n, s) => {
        const kPa = nodeKpa(model, solved as NonNullable<typeof solved>, n);
        const lost = still - (model.nodes[n]?.elevationM as number) * 9.80665 - kPa;
        expect(Math.abs(kPa - (hand[s] as number)), `tree ${seed}, station ${s}`).toBeLessThan(0.005 * lost + 0.02);
      });
    }
  }, 60_000);

  it("a main that carries its ceiling runs at its largest velocity, within 0.5 %, on 200 random trees", async () => {
    const workspace = new Workspace();
    await workspace.loadModule();
    for (let seed = 201; seed <= 400; seed++) {
      const site = randomTree(seed, { mains: 1, stations: 1 });
      const bound = ceilings(site).find((c) => c.id === "m0");
      const model = networkModel(site);
      const { text, nodeIds, linkIds } = writeInp(model, "ceiling", { stationLpm: [bound?.ceilingLpm as number] });
      workspace.writeFile("t.inp", text);
      const project = new Project(workspace);
      project.open("t.inp", "t.rpt", "");
      project.solveH();
      const velocities = model.links.flatMap((l, i) =>
        l.kind === "pipe" && l.subjectId === "m0"
          ? [
              {
                id: l.deviceId,
                v: project.getLinkValue(project.getLinkIndex(linkIds[i] as string), LinkProperty.Velocity),
              },
            ]
          : [],
      );
      expect(Math.max(...velocities.map((x) => x.v)), `tree ${seed}`).toBeCloseTo(1.5, 2);
      expect(Math.abs((velocities.find((x) => x.id === bound?.boundBy?.deviceId)?.v ?? 0) / 1.5 - 1)).toBeLessThan(
        0.005,
      );
      expect(project.getNodeValue(project.getNodeIndex(nodeIds[0] as string), NodeProperty.Head)).toBeGreaterThan(0);
      project.close();
    }
  }, 60_000);

  it("device by device: what a chain takes is what the solver says", async () => {
    for (let seed = 1; seed <= 60; seed++) {
      const site = randomTree(seed, { mains: 1, stations: 3, devices: true });
      const draws = flows(site);
      const total = draws.reduce((a, b) => a + b, 0);
      const model = networkModel(site);
      const [solved] = await solveSets(model, [{ stationLpm: draws, closedLinks: new Set() }]);
      const source = site.sources[0] as SiteFile["sources"][number];
      const poc = site.pocs[0] as SiteFile["pocs"][number];
      let kPa =
        (source.staticPressureKpa as number) + ((source.elevationM as number) - (poc.elevationM as number)) * 9.80665;
      kPa -= (source.pressureDropKpaAt?.dropKpa ?? 0) * (total / (source.pressureDropKpaAt?.flowLpm ?? 1)) ** 1.852;
      for (const d of poc.devices) kPa = afterDevice(d, kPa, total);
      const out = model.links.findLastIndex((l) => l.subjectId === "poc");
      expect(
        Math.abs(nodeKpa(model, solved as NonNullable<typeof solved>, model.links[out]?.to as number) / kPa - 1),
        `seed ${seed}`,
      ).toBeLessThan(0.005);
    }
  }, 60_000);
});

describe("a pump", () => {
  const pump = {
    id: "booster",
    kind: "pump" as const,
    curve: [
      { flowLpm: 0, headM: 60 },
      { flowLpm: 200, headM: 45 },
      { flowLpm: 300, headM: 30 },
    ],
  };
  it("follows its curve, fades past it, and two side by side give twice the flow at one head", () => {
    expect(pumpHeadM(pump, 100)).toBeCloseTo(52.5, 9);
    expect(pumpHeadM(pump, 375)).toBeCloseTo(15, 3);
    expect(pumpHeadM({ ...pump, parallel: 2 }, 400)).toBeCloseTo(pumpHeadM(pump, 200), 9);
  });
  it("lifts water in the solver by its head at that flow, and standing still lets the supply's own pressure by", async () => {
    const site = smallSite((s) => {
      s.sources = [{ id: "src", name: "S", kind: "municipal", staticPressureKpa: 200 }];
      s.pocs[0]?.devices.unshift(pump);
    });
    const model = networkModel(site);
    const still = new Set(model.links.flatMap((l, i) => (l.kind === "pump" ? [i] : [])));
    const [on, off] = await solveSets(model, [
      { stationLpm: [100, 0, 0], closedLinks: new Set() },
      { stationLpm: [100, 0, 0], closedLinks: still },
    ]);
    expect(nodeKpa(model, on as NonNullable<typeof on>, model.stationNode[0] as number)).toBeCloseTo(
      200 + 52.5 * 9.80665,
      0,
    );
    expect(nodeKpa(model, off as NonNullable<typeof off>, model.stationNode[0] as number)).toBeCloseTo(200, 0);
  });
});

describe("losses from data sheets", () => {
  it("are linear between points and go on past the last", () => {
    const points = [
      { flowLpm: 0, lossKpa: 60 },
      { flowLpm: 200, lossKpa: 95 },
    ];
    expect([0, 100, 200, 400].map((q) => lossFromPoints(points, q))).toEqual([60, 77.5, 95, 130]);
    expect(lossFromPoints([], 100)).toBe(0);
    expect(lossFromPoints([{ flowLpm: 50, lossKpa: 20 }], 400)).toBe(20);
  });
});

describe("what a supply can deliver", () => {
  const site = (drop?: { flowLpm: number; dropKpa: number }) =>
    smallSite((s) => {
      s.sources = [
        {
          id: "src",
          name: "S",
          kind: "municipal",
          staticPressureKpa: 400,
          ...(drop ? { pressureDropKpaAt: drop } : {}),
        },
      ];
    });
  it("is the flow at which nothing is left of its pressure", () => {
    const s = site({ flowLpm: 300, dropKpa: 100 });
    expect(deliverableLpm(s, s.pocs[0] as SiteFile["pocs"][number])).toBeCloseTo(300 * 4 ** (1 / 1.852), 0);
  });
  it("is not told where the losses are not known", () => {
    expect(deliverableLpm(site(), site().pocs[0] as SiteFile["pocs"][number])).toBeNull();
  });
});

describe("the pressure study", () => {
  const site = () =>
    smallSite((s) => {
      s.sources = [{ id: "src", name: "S", kind: "municipal", staticPressureKpa: 400 }];
      const main = s.mainlines[0] as SiteFile["mainlines"][number];
      delete main.ceilingLpm;
      main.pipes = [{ id: "pipe", kind: "pipe", material: "PVC", series: "SCH40", nominal: "2 in", lengthM: 300 }];
      s.stations.forEach((x, i) => {
        x.alongM = 100 * (i + 1);
        x.requiredKpa = 300;
      });
    });
  it("names the station that is worst off: alone, in the design set and in every set of the night", async () => {
    const study = await pressureStudy(site(), "2026-07-14");
    expect(study.alone.map((a) => a.stationId)).toEqual(["s1", "s2", "s3"]);
    expect(study.unknown).toEqual([]);
    expect(study.night.length).toBeGreaterThan(0);
    for (const set of [...study.night, ...(study.design ? [study.design] : [])]) {
      const together = set.stations.find((x) => x.stationId === set.worst?.stationId);
      const alone = study.alone.find((x) => x.stationId === set.worst?.stationId);
      expect(together?.kPa).toBeLessThanOrEqual((alone?.kPa ?? 0) + 1e-6);
      for (const s of set.stations) expect(s.kPa).toBeGreaterThanOrEqual((set.worst?.kPa ?? 0) - 1e-9);
      expect(set.pocs.reduce((a, p) => a + p.lpm, 0)).toBeCloseTo(set.totalLpm, 1);
    }
    const pipe = site().mainlines[0]?.pipes[0] as Pipe;
    const hand = 400 - frictionLossM(50, 300, insideDiameterMm(pipe) as number, pipeC(pipe)) * 9.80665;
    expect(study.alone[2]?.kPa).toBeCloseTo(hand, 0);
  });
  it("finds a balance for every set of every demo site, whatever stands still beside it", async () => {
    for (const site of demoSites()) {
      const study = await pressureStudy(site, "2026-07-14");
      for (const set of [...study.night, ...(study.design ? [study.design] : [])]) {
        expect(set.unbalanced, `${site.site.name} at ${set.at}`).toBe(false);
        if (set.totalLpm > 0)
          expect(Math.abs(set.pocs.reduce((a, p) => a + p.lpm, 0) / set.totalLpm - 1), site.site.name).toBeLessThan(
            0.01,
          );
      }
    }
  }, 60_000);
  it("says for which stations no pressure can be told", async () => {
    const study = await pressureStudy(smallSite(), "2026-07-14");
    expect(study.unknown).toEqual(["s1", "s2", "s3"]);
    expect(study.assumptions.some((a) => a.code === "noStaticPressure")).toBe(true);
  });
});
