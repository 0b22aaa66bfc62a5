import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { difference } from "./difference.ts";
import { stampRecords } from "./records.ts";
import type { Device, SiteFile } from "./schema.ts";

const NOW = "2026-11-25T10:00:00.000Z";
const CHECK = { check: "polarity", ok: true, by: "Ann", at: "2026-05-01T08:00:00Z" };
const reading = (id: string, ohm: number) => ({ id, subjectId: "s1", ohm, by: "Ann", at: "2026-05-01T08:00:00Z" });
const sensor = (s: SiteFile): Device => s.pocs[0]?.devices[1] as Device;

describe("records in the file", () => {
  it("new ones get who and when from the server, whatever they claim; old ones stay word for word", () => {
    const before = smallSite((s) => {
      sensor(s).checks = [CHECK];
      s.wireReadings = [reading("r1", 30)];
    });
    const after = structuredClone(before);
    sensor(after).checks = [CHECK, { ...CHECK, check: "drain", by: "Somebody else", at: "1999-01-01T00:00:00Z" }];
    (sensor(after) as { provings?: unknown }).provings = [
      { at: "1999-01-01T00:00:00Z", by: "x", worstPercent: 1, tests: [{ hz: 1, litres: 2, seconds: 3 }] },
    ];
    after.wireReadings = [reading("r1", 30), reading("r2", 40)];
    const kept = stampRecords(before, after, "Tolly", NOW);
    expect(sensor(kept).checks).toEqual([CHECK, { ...CHECK, check: "drain", by: "Tolly", at: NOW }]);
    expect(sensor(kept)).toMatchObject({ provings: [{ by: "Tolly", at: NOW }] });
    expect(kept.wireReadings).toEqual([reading("r1", 30), { ...reading("r2", 40), by: "Tolly", at: NOW }]);
    expect(stampRecords(kept, kept, "Another", NOW)).toEqual(kept);
  });
  it("a record that was changed afterwards is a new record of whoever changed it", () => {
    const before = smallSite((s) => {
      sensor(s).checks = [CHECK];
    });
    const after = structuredClone(before);
    sensor(after).checks = [{ ...CHECK, ok: false }];
    expect(sensor(stampRecords(before, after, "Tolly", NOW)).checks).toEqual([
      { ...CHECK, ok: false, by: "Tolly", at: NOW },
    ]);
  });
  it("are differences in words, like what stands on the drawing and in the tray", () => {
    const before = smallSite((s) => {
      s.tray = [{ serial: "K1" }];
      s.positions = [{ id: "poc", x: 1, y: 1 }];
    });
    const after = structuredClone(before);
    sensor(after).checks = [{ ...CHECK, check: "ownInput", ok: false }];
    after.wireReadings = [{ ...reading("r1", 31), where: "coil" }];
    after.tray = [{ serial: "K2" }];
    after.positions = [
      { id: "poc", x: 5, y: 1 },
      { id: "main", x: 9, y: 9 },
    ];
    after.wireThresholds = { openOverOhm: 900 };
    expect(difference(before, after).map((c) => c.words)).toEqual([
      "point of connection Poc: device fs: check: own input NOT in order",
      "wire readings: open over ohm none → 900",
      "wire reading: 1 S1: 31 Ω at the coil",
      "tray: K2",
      "tray: K1 removed",
      "drawing: 2 pieces moved",
    ]);
    expect(difference(after, { ...after, positions: [] }).map((c) => c.words)).toEqual([
      "drawing: arranged by itself again",
    ]);
  });
});
