import { describe, expect, it } from "vitest";
import { nightLog, probed, reckonedSite } from "../../testing/reckoned-nights.ts";
import { waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { Finding } from "./findings.ts";
import { isUndecided, type Probe } from "./probe.ts";
import { reckon } from "./reckon.ts";
import type { Log } from "./stretches.ts";

const NIGHT = "2026-07-01";
const { ground, known } = reckonedSite(1, 12);

/** s3 and s9 always together, with the same minutes. */
function paired(site: SiteFile): SiteFile {
  const next = structuredClone(site);
  for (const p of next.programs) p.runs = p.runs.filter((r) => r.stationId !== "s3" && r.stationId !== "s9");
  next.stations[9] = { ...next.stations[9], cycle: undefined, soakMin: undefined } as SiteFile["stations"][number];
  next.programs.push({
    id: "pair",
    name: "Pair",
    controllerId: "c",
    starts: ["03:30"],
    days: { type: "interval", everyDays: 1, anchor: "2026-01-01" },
    maxStationsAtOnce: 2,
    runs: ["s3", "s9"].map((stationId) => ({ stationId, minutes: 15 })),
  });
  return JSON.parse(JSON.stringify(next)) as SiteFile;
}

const outlet = (id: string, size: number): unknown => ({ kind: "brokenOutlet", subjectId: id, at: "00:00:00", size });
const foundIn = (site: SiteFile, logs: Log[]): Finding[] => reckon(waterworks(site), logs)?.found ?? [];

describe("what would settle where a change is", () => {
  const [inGround, asKnown] = [paired(ground), paired(known)];
  const first = (id: string) => nightLog(inGround, NIGHT, [outlet(id, 45)], 7);
  it("is one run of two that never run apart, the one that takes fewer litres; and on the bench it does settle it, whichever broke", () => {
    for (const id of ["s3", "s9"]) {
      const [one, ...none] = foundIn(asKnown, [first(id)]);
      expect(none).toEqual([]);
      expect(one?.subjectIds).toEqual(["s3", "s9"]);
      const probe = one?.probe as Probe;
      expect(probe.runs).toHaveLength(1);
      const flow = (s: string): number => known.stations.find((x) => x.id === s)?.learned?.meanLpm as number;
      expect(probe.runs[0]?.stationId).toBe(flow("s3") < flow("s9") ? "s3" : "s9");
      expect(probe.litres).toBeCloseTo(probe.runs.reduce((sum, r) => sum + r.litres, 0));
      const second = nightLog(probed(inGround, probe), "2026-07-02", [outlet(id, 45)], 8);
      const [told] = foundIn(asKnown, [first(id), second]);
      expect(told).toMatchObject({ subjectIds: [id], certain: true });
      expect(told).not.toHaveProperty("probe");
    }
  });
  it("is every one whose figure is only the design's", () => {
    const design = structuredClone(asKnown);
    for (const n of [3, 9]) {
      const s = design.stations[n] as SiteFile["stations"][number];
      s.designFlowLpm = s.learned?.meanLpm as number;
      for (const of of ["learned", "enteredFlowLpm"] as const) delete s[of];
    }
    const [one] = foundIn(design, [nightLog(inGround, NIGHT, [outlet("s3", 120)], 7)]);
    expect(one?.subjectIds).toEqual(["s3", "s9"]);
    expect(one?.probe?.runs.map((r) => r.stationId).sort()).toEqual(["s3", "s9"]);
  });
  it("is not said of what is settled", () => {
    const [one] = foundIn(known, [nightLog(ground, NIGHT, [outlet("s3", 20)], 50)]);
    expect(isUndecided(one as Finding)).toBe(false);
    expect(one).not.toHaveProperty("probe");
  });
});
