import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { waterworks } from "../network/waterworks.ts";
import type { FlowSensor, SiteFile, Station } from "../site-file/schema.ts";
import { type Basis, basisOf, type NightMarks, staleQueue, staleReasons } from "./basis.ts";

const AT = "2026-03-01T02:00:00Z";
const NOW = "2026-07-01T00:00:00Z";
const learned = (): SiteFile => {
  const s = smallSite();
  return {
    ...s,
    stations: s.stations.map((x) => ({
      ...x,
      learned: { meanLpm: x.designFlowLpm as number, sdLpm: 1, at: AT, basis: basisOf(waterworks(s), x.id) as Basis },
    })),
  };
};
const reasons = (change: (s: SiteFile) => void, now = NOW): string[][] => {
  const s = structuredClone(learned());
  change(s);
  return s.stations.map((x) => staleReasons(waterworks(s), x, now));
};

describe("a learned figure is stale", () => {
  it("when something it rests on has changed, and says what", () => {
    expect(reasons(() => {})).toEqual([[], [], []]);
    expect(
      reasons((s) => {
        const sensor = s.pocs[0]?.devices[1] as FlowSensor;
        sensor.output = { ...sensor.output, kGpm: 1.7 } as FlowSensor["output"];
      }),
    ).toEqual([["sensor"], ["sensor"], ["sensor"]]);
    expect(
      reasons((s) => {
        s.mainlines[0]?.pipes.push({
          id: "p1",
          kind: "pipe",
          material: "PVC",
          series: "SDR21",
          nominal: "3 in",
          lengthM: 90,
        });
      })[0],
    ).toEqual(["mainline"]);
    expect(
      reasons((s) => {
        (s.sources[0] as { staticPressureKpa?: number }).staticPressureKpa = 380;
      })[1],
    ).toEqual(["pressure"]);
    expect(
      reasons((s) => {
        Object.assign(s.stations[2] as object, { emitter: "drip" });
      }),
    ).toEqual([[], [], ["station"]]);
  });
  it("at once where its nights contradict it, unless it was learned since", () => {
    const s = learned();
    const w = waterworks(s);
    const marks: NightMarks = {
      night: "2026-06-29",
      workedAt: "2026-06-30T04:00:00Z",
      contradicted: ["s2"],
      confirmed: ["s1"],
    };
    const of = (nights: NightMarks, now = NOW) => s.stations.map((x) => staleReasons(w, x, now, nights));
    expect(of(marks)).toEqual([[], ["nights"], []]);
    expect(of({ ...marks, workedAt: "2026-02-01T04:00:00Z" })).toEqual([[], [], []]);
    expect(staleQueue(w, NOW, marks).map((q) => q.stationId)).toEqual(["s2"]);
    // What nights confirmed does not turn stale with the years; what they confirmed long ago does.
    const years = "2028-07-01T00:00:00Z";
    const lately = { ...marks, contradicted: [], night: "2028-06-20" };
    expect(of(lately, years)).toEqual([[], ["year"], ["year"]]);
    expect(of({ ...marks, contradicted: [] }, years)).toEqual([["year"], ["year"], ["year"]]);
  });
  it("after a repair, and after a year; not for what does not touch its flow", () => {
    expect(
      reasons((s) => {
        Object.assign(s.stations[1] as object, { repairedAt: "2026-04-02T00:00:00Z" });
      }),
    ).toEqual([[], ["repair"], []]);
    expect(
      reasons((s) => {
        Object.assign(s.stations[1] as object, { repairedAt: "2026-02-02T00:00:00Z" });
      }),
    ).toEqual([[], [], []]);
    expect(reasons(() => {}, "2027-03-02T00:00:00Z")).toEqual([["year"], ["year"], ["year"]]);
    expect(
      reasons((s) => {
        Object.assign(s.stations[0] as object, { name: "Lawn", soakMin: 5 });
        Object.assign(s.pocs[0]?.devices[0] as object, { name: "Valve", address: "7" });
        s.policy.persistenceS = 90;
      }),
    ).toEqual([[], [], []]);
  });
  it("the queue puts first what most water is watched by, and leaves out the excluded", () => {
    const s = structuredClone(learned());
    const [a, b, c] = s.stations as [Station, Station, Station];
    delete a.learned;
    Object.assign(b, { repairedAt: "2026-04-02T00:00:00Z" });
    (s.programs[0] as SiteFile["programs"][number]).runs[1] = { stationId: "s2", minutes: 40 };
    expect(staleQueue(waterworks(s), NOW).map((q) => [q.stationId, q.reasons])).toEqual([
      ["s2", ["repair"]],
      ["s1", ["never"]],
    ]);
    a.monitored = false;
    expect(staleQueue(waterworks(s), NOW).map((q) => q.stationId)).toEqual(["s2"]);
    expect(c.learned).toBeDefined();
  });
});
