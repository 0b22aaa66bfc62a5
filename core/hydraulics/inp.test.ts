import { Project, NodeProperty, Workspace } from "epanet-js";
import { describe, expect, it } from "vitest";
import { demoSites } from "../../server/demo/sites.ts";
import { randomTree } from "../../testing/random-tree.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { parseInp } from "./inp-parse.ts";
import { waterworksFromInp } from "./inp-waterworks.ts";
import { exportInp } from "./inp-write.ts";
import { networkModel } from "./network-model.ts";
import { nodeKpa, solveSets } from "./solver.ts";

const empty = (): SiteFile => ({
  ...randomTree(1),
  site: { id: "empty", name: "Empty", timeZone: "Europe/Vienna", units: "metric" },
  sources: [],
  pocs: [],
  mainlines: [],
  controllers: [],
  stations: [],
  programs: [],
});
const untagged = (text: string): string => text.replace(/\[TAGS\][\s\S]*?\n\n/, "");

/** Pressure at every station with one set running, by the name that the station keeps through the file. */
async function pressures(
  site: SiteFile,
  key: (s: SiteFile["stations"][number]) => string,
  draws: Map<string, number>,
): Promise<Map<string, number>> {
  const model = networkModel(site);
  const [solved] = await solveSets(model, [
    { stationLpm: site.stations.map((s) => draws.get(key(s)) ?? 0), closedLinks: new Set() },
  ]);
  return new Map(
    site.stations.map((s, i) => [
      key(s),
      nodeKpa(model, solved as NonNullable<typeof solved>, model.stationNode[i] as number),
    ]),
  );
}

async function expectSame(
  before: SiteFile,
  after: SiteFile,
  key: (s: SiteFile["stations"][number]) => string,
  draws: Map<string, number>,
): Promise<void> {
  const [a, b] = [await pressures(before, (s) => s.id, draws), await pressures(after, key, draws)];
  for (const [id, kPa] of a)
    expect(Math.abs(kPa - (b.get(id) ?? Number.NaN)), `${before.site.name} ${id}`).toBeLessThan(
      0.05 + 1e-4 * Math.abs(kPa),
    );
}
const drawsOf = (site: SiteFile, every = 1): Map<string, number> =>
  new Map(site.stations.map((s, i) => [s.id, i % every === 0 ? (expectedFlow(s)?.lpm ?? 0) : 0]));

describe("the waterworks as an EPANET input file", () => {
  it("read back onto the site it came from leaves the same pressures and loses no piece", async () => {
    for (const site of [
      ...demoSites(),
      ...Array.from({ length: 30 }, (_, i) => randomTree(i + 1, { mains: 4, stations: 9, devices: true })),
    ]) {
      const back = waterworksFromInp(exportInp(site), site);
      if (!back.ok) throw new Error(back.problems[0]?.message);
      expect(back.value.added, site.site.name).toEqual([]);
      expect(back.value.unfit, site.site.name).toEqual([]);
      for (const list of ["sources", "pocs", "mainlines", "stations"] as const)
        expect(back.value.site[list].map((e) => e.id)).toEqual(site[list].map((e) => e.id));
      for (const [i, p] of site.pocs.entries())
        expect(
          back.value.site.pocs[i]?.devices.map((d) => d.id),
          site.site.name,
        ).toEqual(p.devices.map((d) => d.id));
      await expectSame(site, back.value.site, (s) => s.id, drawsOf(site, Math.ceil(site.stations.length / 6)));
    }
  }, 60_000);

  it("read into an empty site gives the same pressures, names and structure", async () => {
    for (const site of [
      ...demoSites(),
      ...Array.from({ length: 30 }, (_, i) => randomTree(i + 50, { mains: 4, stations: 9, devices: true })),
    ]) {
      const back = waterworksFromInp(exportInp(site), empty());
      if (!back.ok) throw new Error(back.problems[0]?.message);
      expect(back.value.site.mainlines.map((m) => [m.id, m.name, m.feedIds])).toEqual(
        site.mainlines.map((m) => [m.id, m.name, m.feedIds]),
      );
      expect(back.value.site.pocs.map((p) => [p.id, p.name, p.sourceIds])).toEqual(
        site.pocs.map((p) => [p.id, p.name, p.sourceIds]),
      );
      await expectSame(site, back.value.site, (s) => s.id, drawsOf(site, Math.ceil(site.stations.length / 6)));
    }
  }, 60_000);

  it("without its tags, as another program would write it, still gives the same pressures", async () => {
    for (let seed = 100; seed < 140; seed++) {
      const site = randomTree(seed, { mains: 4, stations: 9, devices: true });
      const back = waterworksFromInp(untagged(exportInp(site)), empty());
      if (!back.ok) throw new Error(back.problems[0]?.message);
      expect(
        back.value.unfit.filter((u) => u.code !== "pattern"),
        site.site.name,
      ).toEqual([]);
      await expectSame(site, back.value.site, (s) => s.id, drawsOf(site, 2));
    }
  }, 60_000);

  it("the solver reads the file itself to the pressures that Presa shows for the design set", async () => {
    const workspace = new Workspace();
    await workspace.loadModule();
    for (const site of demoSites()) {
      const running = new Set([0, Math.floor(site.stations.length / 2)]);
      workspace.writeFile("x.inp", exportInp(site, running));
      const project = new Project(workspace);
      project.open("x.inp", "x.rpt", "");
      project.solveH();
      const model = networkModel(site);
      const [solved] = await solveSets(model, [
        {
          stationLpm: site.stations.map((s, i) => (running.has(i) ? (expectedFlow(s)?.lpm ?? 0) : 0)),
          closedLinks: new Set(),
        },
      ]);
      for (const i of running) {
        const id = parseInpStation(exportInp(site), site.stations[i]?.id as string);
        const m = project.getNodeValue(project.getNodeIndex(id), NodeProperty.Pressure);
        expect(m * 9.80665, `${site.site.name} station ${i}`).toBeCloseTo(
          nodeKpa(model, solved as NonNullable<typeof solved>, model.stationNode[i] as number),
          0,
        );
      }
      project.close();
    }
  }, 60_000);
});

function parseInpStation(text: string, stationId: string): string {
  return [...parseInp(text).nodes.values()].find((n) => n.tag?.[0] === "station" && n.tag[1] === stationId)?.id ?? "";
}

describe("a file of another program", () => {
  const gpm = `[TITLE]\nOrchard\n[JUNCTIONS]\n J1 100 0\n J2 90 20 ; valve box\n J3 80 10 day\n J4 70\n J5 60 5\n[RESERVOIRS]\n R1 250\n[TANKS]\n T1 120 30 0 40 50 0\n[PIPES]\n P1 J1 J2 328.084 4 150 0 Open\n P2 J2 J3 200 4 150 0 Open\n P3 J3 J4 100 3 150\n P4 J4 J2 100 3 150 0 Open\n P5 J4 J5 50 2 150 2 Open\n P6 J1 J5 10 2 150 0 Closed\n[PUMPS]\n U1 R1 J1 HEAD 1\n U2 T1 J1 POWER 5\n[VALVES]\n V1 J9 J1 4 PRV 50 0\n[CURVES]\n 1 100 150\n[EMITTERS]\n J4 3\n[RULES]\n RULE 1\n[OPTIONS]\n UNITS GPM\n HEADLOSS H-W\n[END]\n`;
  it("is taken in its own units; a one-point pump curve becomes the curve it stands for", () => {
    const n = parseInp(gpm);
    expect(n.nodes.get("J2")?.demandLpm).toBeCloseTo(75.708, 2);
    expect(n.nodes.get("J1")?.elevationM).toBeCloseTo(30.48, 6);
    expect(n.links.find((l) => l.id === "P1")).toMatchObject({
      lengthM: expect.closeTo(100, 3),
      insideMm: expect.closeTo(101.6, 6),
      minorK: 0,
    });
    const pump = n.links.find((l) => l.id === "U1");
    expect(pump?.kind === "pump" && [pump.points[0]?.headM, pump.points[10]?.flowLpm, pump.points[10]?.headM]).toEqual([
      expect.closeTo(60.96, 4),
      expect.closeTo(378.54, 1),
      expect.closeTo(45.72, 4),
    ]);
  });
  it("what does not fit is listed with its line, not lost silently", () => {
    const back = waterworksFromInp(gpm, empty());
    if (!back.ok) throw new Error(back.problems[0]?.message);
    expect(new Set(back.value.unfit.map((u) => u.code))).toEqual(
      new Set(
        [
          "pattern",
          "tankLevels",
          "closedPipe",
          "constantPower",
          "unknownNode",
          "emitter",
          "section",
          "loop",
          "unreached",
        ].filter((c) => c !== "unreached"),
      ),
    );
    for (const u of back.value.unfit) expect(u.line, u.code).toBeGreaterThan(0);
    expect(back.value.site.stations.map((s) => [s.name, Math.round(s.designFlowLpm ?? 0)])).toEqual(
      expect.arrayContaining([
        ["Station J2", 76],
        ["Station J3", 38],
        ["Station J5", 19],
      ]),
    );
    expect(back.value.site.sources.map((s) => s.kind).sort()).toEqual(["municipal", "tank"]);
  });
  it("without a network is refused in words", () => {
    for (const text of ["", "hello", "[JUNCTIONS]\n J1 5\n"])
      expect(waterworksFromInp(text, empty())).toMatchObject({ ok: false });
  });
});
