import { describe, expect, it } from "vitest";
import { type InpNetwork, parseInp, type UnfitCode } from "./inp-parse.ts";

/** A small network in metric units: a reservoir, a pipe, a junction that draws 60 L/min. */
const BASE: Record<string, string[]> = {
  TITLE: ["Two nodes"],
  JUNCTIONS: ["J1 12 60"],
  RESERVOIRS: ["R1 52"],
  PIPES: ["P1 R1 J1 100 80 150 0 Open"],
  OPTIONS: ["Units LPM", "Headloss H-W"],
};
const text = (changed: Record<string, string[]>): string =>
  `${Object.entries({ ...BASE, ...changed })
    .map(([name, lines]) => `[${name}]\n${lines.join("\n")}`)
    .join("\n\n")}\n[END]\n`;
const codes = (network: InpNetwork): UnfitCode[] => network.unfit.map((u) => u.code);

describe("what of a network file does not fit", () => {
  const rows: [UnfitCode, string, string, Record<string, string[]>][] = [
    ["headloss", "OPTIONS", "D-W", { OPTIONS: ["Units LPM", "Headloss D-W"] }],
    ["section", "RULES", "RULE 1 IF TANK", { RULES: ["RULE 1 IF TANK"] }],
    ["emitter", "EMITTERS", "J1 0.5", { EMITTERS: ["J1 0.5"] }],
    ["closedLink", "PIPES", "P1", { STATUS: ["P1 Closed"] }],
    ["closedPipe", "PIPES", "P1", { PIPES: ["P1 R1 J1 100 80 150 0 Closed"] }],
    ["unknownNode", "PIPES", "P1", { PIPES: ["P1 R1 J9 100 80 150"] }],
    ["unknownNode", "DEMANDS", "J9", { DEMANDS: ["J9 10"] }],
    ["pattern", "JUNCTIONS", "J1", { JUNCTIONS: ["J1 12 60 nightly"] }],
    ["pattern", "RESERVOIRS", "R1", { RESERVOIRS: ["R1 52 tide"] }],
    ["pattern", "DEMANDS", "J1", { DEMANDS: ["J1 10 nightly"] }],
    ["inflow", "JUNCTIONS", "J1", { JUNCTIONS: ["J1 12 -60"] }],
    ["tankLevels", "TANKS", "T1", { TANKS: ["T1 40 2 0 4 10 0"] }],
    ["badLine", "PIPES", "P1 R1 J1 long 80 150", { PIPES: ["P1 R1 J1 long 80 150"] }],
    ["constantPower", "PUMPS", "U1", { PUMPS: ["U1 R1 J1 POWER 12"] }],
    ["unknownCurve", "PUMPS", "U1", { PUMPS: ["U1 R1 J1 HEAD C9"] }],
    ["pumpSpeed", "PUMPS", "U1", { PUMPS: ["U1 R1 J1 HEAD C1 SPEED 0.8"], CURVES: ["C1 200 40"] }],
    ["unknownCurve", "VALVES", "V1", { VALVES: ["V1 R1 J1 50 GPV C9"] }],
    ["valveKind", "VALVES", "V1 FCV", { VALVES: ["V1 R1 J1 50 FCV 30 2.5"] }],
  ];
  it.each(rows)("%s in %s names %s by its line", (code, section, subject, changed) => {
    const file = text(changed);
    const found = parseInp(file).unfit.find((u) => u.code === code && u.section === section);
    expect(found, JSON.stringify(parseInp(file).unfit)).toMatchObject({ subject });
    if (code !== "headloss") expect(file.split("\n")[(found?.line ?? 0) - 1]).toContain(subject.split(" ")[0]);
  });
  it("of what fits, nothing; nor of text, empty or foreign", () => {
    expect(codes(parseInp(text({})))).toEqual([]);
    for (const foreign of ["", "dear diary", "[JUNCTIONS]"]) {
      const network = parseInp(foreign);
      expect([network.nodes.size, network.links.length, network.unfit.length]).toEqual([0, 0, 0]);
    }
  });
});

describe("a network file", () => {
  it("means the same in every flow unit", () => {
    const litres: Record<string, number> = {
      LPM: 1,
      LPS: 60,
      CMH: 1000 / 60,
      CMD: 1000 / 1440,
      MLD: 1e6 / 1440,
      CMS: 60_000,
    };
    for (const [unit, lpm] of Object.entries(litres)) {
      const { nodes } = parseInp(text({ JUNCTIONS: [`J1 12 ${60 / lpm}`], OPTIONS: [`Units ${unit}`] }));
      expect(nodes.get("J1")).toMatchObject({ demandLpm: expect.closeTo(60, 6), elevationM: 12 });
      expect(nodes.get("R1")?.headM).toBe(52);
    }
    const gallons: Record<string, number> = {
      GPM: 3.785411784,
      MGD: (3.785411784 * 1e6) / 1440,
      IMGD: (4.54609 * 1e6) / 1440,
      AFD: 1_233_481.83754752 / 1440,
      CFS: 28.316846592 * 60,
    };
    for (const [unit, lpm] of Object.entries(gallons)) {
      const { nodes, links } = parseInp(
        text({
          JUNCTIONS: [`J1 ${12 / 0.3048} ${60 / lpm}`],
          PIPES: ["P1 R1 J1 328.0839895 4 140"],
          OPTIONS: [`Units ${unit}`],
        }),
      );
      expect(nodes.get("J1")).toMatchObject({ demandLpm: expect.closeTo(60, 5), elevationM: expect.closeTo(12, 9) });
      expect(links[0]).toMatchObject({ lengthM: expect.closeTo(100, 4), insideMm: expect.closeTo(101.6, 9), c: 140 });
    }
    // Without a unit it is US gallons a minute, as the format says.
    expect(parseInp(text({ OPTIONS: [] })).nodes.get("J1")?.demandLpm).toBeCloseTo(60 * 3.785411784, 9);
  });
  it("demands of their own section take the place of the junction's, and add up", () => {
    const { nodes } = parseInp(text({ DEMANDS: ["J1 20", "J1 15.5"] }));
    expect(nodes.get("J1")?.demandLpm).toBe(35.5);
  });
  it("comments, blank lines and cases do not matter", () => {
    const network = parseInp(
      "; a file\n[title]\n\nYard ;north\n[Junctions]\nJ1\t12\t60 ; gate\n[reservoirs]\n R1   52\n[pipes]\nP1 R1 J1 100 80 150 0 cv\n[options]\nunits lpm\n",
    );
    expect(network.title).toBe("Yard");
    expect(network.links[0]).toMatchObject({ kind: "pipe", check: true });
    expect(codes(network)).toEqual([]);
  });
  it("valves: a regulator's and a fixed loss's pressure, a throttle's coefficient, a curve of losses", () => {
    const valves = parseInp(
      text({
        VALVES: ["V1 R1 J1 50 PRV 40", "V2 R1 J1 50 PBV 5", "V3 R1 J1 50 TCV 2.5", "V4 R1 J1 50 GPV C1"],
        CURVES: ["C1 0 0", "C1 100 6"],
      }),
    ).links.filter((l) => l.kind !== "pipe");
    expect(valves).toMatchObject([
      { kind: "regulator", setKpa: expect.closeTo(40 * 9.80665, 6) },
      { kind: "fixedLoss", lossKpa: expect.closeTo(5 * 9.80665, 6) },
      { kind: "throttle", k: 2.5, insideMm: 50 },
      {
        kind: "lossCurve",
        points: [
          { flowLpm: 0, lossKpa: 0 },
          { flowLpm: 100, lossKpa: expect.closeTo(58.84, 2) },
        ],
      },
    ]);
  });
  it("a pump of one point has the usual curve; of three, the curve through them; of more, its own", () => {
    const curve = (...points: string[]) => {
      const pump = parseInp(text({ PUMPS: ["U1 R1 J1 HEAD C1"], CURVES: points.map((p) => `C1 ${p}`) })).links.find(
        (l) => l.kind === "pump",
      );
      return pump?.kind === "pump" ? pump.points : [];
    };
    const one = curve("200 45");
    expect(one[0]).toMatchObject({ flowLpm: 0, headM: expect.closeTo(60, 9) });
    expect(one.at(-1)).toMatchObject({ flowLpm: expect.closeTo(400, 6), headM: expect.closeTo(0, 6) });
    const three = curve("0 60", "100 52", "200 30");
    expect(three).toHaveLength(21);
    const at = (lpm: number): number => {
      const after = three.findIndex((p) => p.flowLpm >= lpm);
      const [a, b] = [three[after - 1], three[after]];
      return !a || !b ? 0 : a.headM + ((b.headM - a.headM) * (lpm - a.flowLpm)) / (b.flowLpm - a.flowLpm);
    };
    expect([at(100), at(200)]).toEqual([expect.closeTo(52, 0), expect.closeTo(30, 0)]);
    expect(curve("0 60", "50 58", "100 52", "200 30")).toHaveLength(4);
  });
});
