import { describe, expect, it } from "vitest";
import { parseSite } from "@/core/site-file/parse-site";
import type { SiteFile } from "@/core/site-file/schema";
import { demoSites } from "@/server/demo/sites";
import { smallSite } from "@/testing/small-site";
import { drawing, outline } from "./drawing-layout";
import { addDevice, addMainline, addPoc, addSource, deletionBlocks, moveDevice, patchDevice, patchPoc, remove } from "./edits";

describe("edits of the waterworks", () => {
  it("build a valid site from nothing", () => {
    let file: SiteFile = { ...smallSite(), sources: [], pocs: [], mainlines: [], controllers: [], stations: [], programs: [] };
    for (const add of [addSource, addPoc, addMainline]) file = add(file).file;
    for (const kind of ["meter", "backflow", "masterValve", "pump", "pipe", "flowSensor", "pressureSensor", "regulator", "fixedLoss"] as const) file = addDevice(file, file.pocs[0]?.id as string, kind).file;
    file = addDevice(addDevice(file, file.mainlines[0]?.id as string, "pipe").file, file.mainlines[0]?.id as string, "flowSensor").file;
    expect(parseSite(file)).toMatchObject({ ok: true });
    expect([file.pocs[0]?.devices.length, file.mainlines[0]?.pipes.length, file.mainlines[0]?.devices?.length]).toEqual([9, 1, 1]);
  });
  it("move, patch and delete pieces; a cleared field leaves no key behind", () => {
    const site = smallSite();
    expect(moveDevice("fs", -1)(site).pocs[0]?.devices.map((d) => d.id)).toEqual(["fs", "mv"]);
    expect(moveDevice("mv", -1)(site).pocs[0]?.devices.map((d) => d.id)).toEqual(["mv", "fs"]);
    expect(patchDevice("mv", { maxLpm: 90 })(site).pocs[0]?.devices[0]).toMatchObject({ maxLpm: 90 });
    expect("offScheduleLimitLpm" in (patchPoc("poc", { offScheduleLimitLpm: undefined })(site).pocs[0] as object)).toBe(false);
    expect(remove("poc")(site).mainlines[0]?.feedIds).toEqual([]);
  });
  it("say what would be left hanging before a mainline or controller goes", () => {
    expect(deletionBlocks(smallSite(), "main")).toHaveLength(3);
    expect(deletionBlocks(smallSite(), "ctl")).toEqual(["station 1 S1", "station 2 S2", "station 3 S3", "program P"]);
    expect(deletionBlocks(smallSite(), "src")).toEqual([]);
  });
});

describe("the drawing", () => {
  it.each(demoSites().map((s) => [s.site.name, s] as const))("of %s overlaps nothing, and is narrowest where it binds", (_, site) => {
    const d = drawing(site);
    const runs = [...d.sources, ...d.pocs, ...d.mainlines];
    for (const a of runs) for (const b of runs) if (a !== b && a.y === b.y) expect(a.end <= b.x || b.end <= a.x, `${a.name} and ${b.name}`).toBe(true);
    for (const run of [...d.pocs, ...d.mainlines]) {
      const binding = run.pieces.find((p) => p.binds);
      if (binding) for (const p of run.pieces) if (p.lpm !== null) expect(binding.half).toBeLessThanOrEqual(p.half + 1e-9);
      expect(outline(run).body).toMatch(/^M.*Z$/);
      expect(run.end).toBeLessThanOrEqual(d.width);
    }
    expect(d.links).toHaveLength(site.pocs.reduce((n, p) => n + p.sourceIds.length, 0) + site.mainlines.reduce((n, m) => n + m.feedIds.length, 0));
  });
});
