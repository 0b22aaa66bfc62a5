import { describe, expect, it } from "vitest";
import { demoSites } from "../../server/demo/sites.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { bestStep, rate, type Step, stillPossible } from "./advice.ts";
import { adviseDrill, afterTheNight, beginDrill, type Drill, judgeDrill, tell, tellAll } from "./drill.ts";
import { type Check, DrillBench, type Standing } from "./drill-bench.ts";

const DATE = "2026-11-25";
const SHUT: Standing = { open: [], valves: [], pumps: [] };
const site = (id: string): SiteFile => demoSites().find((s) => s.site.id === id) as SiteFile;
const begun = (id: string, seed: number): Drill => beginDrill(site(id), DATE, seed) as Drill;
/** The first of many seeds that hides such a thing. */
const hiding = (id: string, kind: string): Drill => {
  for (let seed = 1; seed < 2000; seed += 31) {
    const drill = begun(id, seed);
    if (drill.hidden.kind === kind) return drill;
  }
  throw new Error(`no seed hides ${kind}`);
};

describe("a drill", () => {
  it("is the same for a seed, and different ones hide different things", () => {
    expect(begun("tidewell-meadow", 3).hidden).toEqual(begun("tidewell-meadow", 3).hidden);
    expect(
      new Set([1, 2, 3, 4, 5, 6, 7, 8].map((n) => JSON.stringify(begun("tidewell-meadow", n * 7919).hidden))).size,
    ).toBeGreaterThan(4);
  });
  it("what was hidden stays possible after whatever was tried, and the short way ends at it alone or at what nothing tells from it", () => {
    for (const id of ["larkspur-clinic", "hollin-bank", "tidewell-meadow", "sallow-court"])
      for (let seed = 1; seed <= 12; seed++) {
        const drill = begun(id, seed * 104_729);
        const { bench, hidden } = drill;
        let left = afterTheNight(drill);
        const steps: Step[] = bench.stations.slice(0, 4).map((s) => ({
          standing: { open: [s.id], valves: bench.masterValves, pumps: bench.pumps },
          check: { type: "read" },
        }));
        tellAll(drill, steps).forEach((t, i) => {
          left = stillPossible(bench, left, steps[i] as Step, t.result);
        });
        expect(left, `${id} ${seed} ${JSON.stringify(hidden)}`).toContainEqual(hidden);
        const short = adviseDrill(drill, [])?.short;
        const last = short?.steps.at(-1)?.left ?? 1;
        if (last > 1) {
          let rest = afterTheNight(drill);
          for (const s of short?.steps ?? []) rest = stillPossible(bench, rest, s.step, s.result);
          expect(
            bestStep(
              bench,
              rest,
              SHUT,
              short?.steps.map((s) => s.step),
            ),
            `${id} ${seed} ${JSON.stringify([hidden, rest])}`,
          ).toBeNull();
        }
      }
  }, 120_000);
  it("costs what the fault loses while things stand open: a main break nothing with the valves shut", () => {
    const drill = hiding("tidewell-meadow", "mainlineBreak");
    const read: Check = { type: "read" };
    const shut = tell(drill, { standing: SHUT, check: read }, SHUT, 0);
    expect([shut.seconds, shut.lostL]).toEqual([60, 0]);
    const open = tell(
      drill,
      {
        standing: { ...SHUT, valves: drill.bench.masterValves },
        check: { type: "look", subjectId: drill.hidden.subjectId },
      },
      SHUT,
      1,
    );
    expect(open.seconds).toBe(440);
    expect(open.lostL).toBeGreaterThan(1000);
    expect(open.result).toEqual({ type: "look", look: "wetGround" });
  }, 60_000);
  it("naming it is right, naming another wrong, naming what nothing tells apart right too", () => {
    const drill = begun("hollin-bank", 11);
    const other = drill.bench.causes().find((c) => c.kind !== drill.hidden.kind) as Drill["hidden"];
    expect(judgeDrill(drill, [], drill.hidden)).toMatchObject({ right: true, alike: false, seconds: 0 });
    expect(judgeDrill(drill, [], other)).toMatchObject({ right: false });
  });
  it("advice: a check that tells nothing is named, with one that would have told more", () => {
    const drill = hiding("hollin-bank", "brokenLateral");
    const nothing: Step = { standing: SHUT, check: { type: "look", subjectId: drill.bench.pocs[0] as string } };
    const advice = adviseDrill(drill, [nothing]);
    expect(advice?.possible[1]).toBe(advice?.possible[0]);
    expect(advice?.better?.index).toBe(0);
    expect(advice?.better?.best.bits).toBeGreaterThan(0.5);
    expect(adviseDrill(drill, [nothing], () => false)).toBeNull();
  });
});

describe("what a check tells", () => {
  const bench = new DrillBench(site("tidewell-meadow"), DATE, Date.parse("2026-11-25T22:10:00-08:00") / 1000, 0);
  const alone = (id: string): Standing => ({ open: [id], valves: bench.masterValves, pumps: bench.pumps });
  const id = bench.stations[0]?.id as string;
  it("looks tell what one would see", () => {
    const look = (kind: Parameters<DrillBench["result"]>[0], standing: Standing): unknown =>
      bench.result(kind, standing, { type: "look", subjectId: id });
    expect(look({ kind: "brokenOutlet", subjectId: id }, alone(id))).toEqual({ type: "look", look: "jet" });
    expect(look({ kind: "stuckClosed", subjectId: id }, alone(id))).toEqual({ type: "look", look: "nothingComes" });
    expect(look({ kind: "clogged", subjectId: id }, alone(id))).toEqual({ type: "look", look: "weak" });
    expect(look({ kind: "stuckOpen", subjectId: id }, { open: [], valves: bench.masterValves, pumps: [] })).toEqual({
      type: "look",
      look: "runsUncalled",
    });
    expect(
      look(
        { kind: "masterValveStuckOpen", subjectId: bench.masterValves[0] as string },
        { open: [id], valves: [], pumps: [] },
      ),
    ).toEqual({ type: "look", look: "asItShould" });
    expect(look(null, { open: [id], valves: [], pumps: [] })).toEqual({ type: "look", look: "nothingComes" });
  });
  it("a meter tells a wrong constant from more water; a read does not", () => {
    const sensor = bench.devices().find((d) => d.kind === "flowSensor")?.id as string;
    const pair = [{ kind: "wrongK", subjectId: sensor } as const, { kind: "brokenLateral", subjectId: id } as const];
    const meter = rate(
      bench,
      pair,
      { standing: alone(bench.stations[1]?.id as string), check: { type: "meter", pocId: bench.pocs[0] as string } },
      SHUT,
    );
    expect(meter.bits).toBe(0);
    const other = rate(
      bench,
      pair,
      { standing: alone(bench.stations[1]?.id as string), check: { type: "read" } },
      SHUT,
    );
    expect(other.bits).toBeCloseTo(1);
    const steady = bench.result({ kind: "wrongK", subjectId: sensor }, alone(id), {
      type: "meter",
      pocId: bench.pocs[0] as string,
    });
    expect(steady).toEqual(bench.result(null, alone(id), { type: "meter", pocId: bench.pocs[0] as string }));
  });
});
