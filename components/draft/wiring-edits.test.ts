import { describe, expect, it } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { parseSite } from "@/core/site-file/parse-site";
import { smallSite } from "@/testing/small-site";
import {
  addReading,
  addToTray,
  addWirePath,
  assign,
  coilOf,
  removeWirePath,
  setWired,
  takeFromTray,
} from "./wiring-edits";
import { wiredThings } from "@/core/wiring/addresses";

const done = (o: ReturnType<typeof setWired>): SiteFile => {
  if (!o.ok) throw new Error(o.refusal.words);
  return o.file;
};

describe("assigning", () => {
  it("moves a serial number from the tray to a valve, and what was there back into the tray", () => {
    let file = addToTray(["K1", "K2"])(smallSite());
    file = done(assign(file, "s1", "K1"));
    expect([file.stations[0]?.serial, file.stations[0]?.address, file.tray]).toEqual(["K1", "1", [{ serial: "K2" }]]);
    file = done(assign(file, "s1", "K2"));
    expect([file.stations[0]?.serial, file.tray]).toEqual(["K2", [{ serial: "K1" }]]);
    file = done(assign(file, "fs", "K1"));
    expect(file.pocs[0]?.devices[1]).toMatchObject({ serial: "K1" });
    expect(takeFromTray("K2")(addToTray(["K2"])(file)).tray).toEqual([]);
    expect(parseSite(file)).toMatchObject({ ok: true });
  });
  it("refuses what is used already, in words, and changes nothing", () => {
    const file = done(setWired(smallSite(), "s1", { address: "7" }));
    expect(setWired(file, "s2", { address: "007" })).toEqual({
      ok: false,
      refusal: { words: "Address 007 is 1 S1's already; both would answer." },
    });
    expect(setWired(done(setWired(file, "s1", { serial: "K1" })), "fs", { serial: "k-1" })).toMatchObject({
      ok: false,
    });
    expect(setWired(file, "s1", { address: "7", coil: "ac24" })).toMatchObject({ ok: true });
  });
});

describe("wire paths and readings", () => {
  it("come and go with fresh ids, and stay valid", () => {
    let file = addWirePath(smallSite(), "ctl", "twoWire");
    const path = file.controllers[0]?.wirePaths?.[0]?.id as string;
    file = done(setWired(file, "s1", { wirePathId: path }));
    file = addReading(
      { subjectId: "s1", where: "coil", ohm: 31 },
      "Ann",
      "2026-05-01T08:00:00Z",
    )(addReading({ subjectId: "s1", ohm: 33 }, "Ann", "2026-05-01T08:05:00Z")(file));
    expect(new Set(file.wireReadings?.map((r) => r.id)).size).toBe(2);
    expect(parseSite(file)).toMatchObject({ ok: true });
    expect(
      removeWirePath(done(setWired(file, "s1", { wirePathId: undefined })), "ctl", path).controllers[0]?.wirePaths,
    ).toEqual([]);
  });
  it("a coil that is not recorded is what its controller must have", () => {
    const file = smallSite((s) => {
      (s.controllers[0] as { powered: string }).powered = "battery";
    });
    const thing = wiredThings(file)[0] as ReturnType<typeof wiredThings>[number];
    expect(coilOf(file, thing)).toBe("dcLatching");
    expect(coilOf(smallSite(), thing)).toBe("ac24");
    expect(coilOf(file, { ...thing, coil: "ac24" })).toBe("ac24");
  });
});
