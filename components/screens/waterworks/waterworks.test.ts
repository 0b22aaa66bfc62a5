import Elk from "elkjs/lib/elk.bundled.js";
import { patchMainline, patchPoc } from "@/components/draft/patch-element";
import { describe, expect, it } from "vitest";
import { parseSite } from "@/core/site-file/parse-site";
import type { SiteFile } from "@/core/site-file/schema";
import { demoSites } from "@/server/demo/sites";
import { smallSite } from "@/testing/small-site";
import { arrange } from "../../pictures/drawing/arrange";
import {
  addDevice,
  addMainline,
  addPoc,
  addSource,
  connect,
  deletionBlocks,
  disconnect,
  mayFeed,
  moveDevice,
  patchDevice,
  place,
  remove,
} from "../../draft/waterworks-edits";
import { outline, rows, type Shape, shapes } from "../../pictures/drawing/shapes";

describe("edits of the waterworks", () => {
  it("build a valid site from nothing", () => {
    let file: SiteFile = {
      ...smallSite(),
      sources: [],
      pocs: [],
      mainlines: [],
      controllers: [],
      stations: [],
      programs: [],
    };
    for (const add of [addSource, addPoc, addMainline]) file = add(file).file;
    for (const kind of [
      "meter",
      "backflow",
      "masterValve",
      "pump",
      "pipe",
      "flowSensor",
      "pressureSensor",
      "regulator",
      "fixedLoss",
    ] as const)
      file = addDevice(file, file.pocs[0]?.id as string, kind).file;
    file = addDevice(
      addDevice(file, file.mainlines[0]?.id as string, "pipe").file,
      file.mainlines[0]?.id as string,
      "flowSensor",
    ).file;
    expect(parseSite(file)).toMatchObject({ ok: true });
    expect([file.pocs[0]?.devices.length, file.mainlines[0]?.pipes.length, file.mainlines[0]?.devices?.length]).toEqual(
      [9, 1, 1],
    );
  });
  it("move, patch and delete pieces; a cleared field leaves no key behind", () => {
    const site = smallSite();
    expect(moveDevice("fs", -1)(site).pocs[0]?.devices.map((d) => d.id)).toEqual(["fs", "mv"]);
    expect(moveDevice("mv", -1)(site).pocs[0]?.devices.map((d) => d.id)).toEqual(["mv", "fs"]);
    expect(patchDevice("mv", { maxLpm: 90 })(site).pocs[0]?.devices[0]).toMatchObject({ maxLpm: 90 });
    expect("offScheduleLimitLpm" in (patchPoc("poc", { offScheduleLimitLpm: undefined })(site).pocs[0] as object)).toBe(
      false,
    );
    expect(remove("poc")(site).mainlines[0]?.feedIds).toEqual([]);
  });
  it("say what would be left hanging before a mainline or controller goes", () => {
    expect(deletionBlocks(smallSite(), "main")).toHaveLength(3);
    expect(deletionBlocks(smallSite(), "ctl")).toEqual(["station 1 S1", "station 2 S2", "station 3 S3", "program P"]);
    expect(deletionBlocks(smallSite(), "src")).toEqual([]);
  });
});

describe("joining by drawing", () => {
  it("lets a source feed a connection, a connection or main a main, and never a circle", () => {
    let site = smallSite();
    const sub = addMainline(site);
    site = patchMainline(sub.id, { feedIds: ["main"] })(sub.file);
    expect([
      mayFeed(site, "src", "poc"),
      mayFeed(site, "src", sub.id),
      mayFeed(site, sub.id, "main"),
      mayFeed(site, "main", "main"),
      mayFeed(site, "poc", sub.id),
    ]).toEqual([false, false, false, false, true]);
    expect(connect(sub.id, "main")(site)).toBe(site);
    const joined = connect("poc", sub.id)(site);
    expect(joined.mainlines[1]?.feedIds).toEqual(["main", "poc"]);
    expect(disconnect("main", sub.id)(joined).mainlines[1]?.feedIds).toEqual(["poc"]);
    expect(disconnect("src", "poc")(site).pocs[0]?.sourceIds).toEqual([]);
  });
  it("puts a piece where it is dropped, and remembers where things stand until they are arranged again", () => {
    expect(addDevice(smallSite(), "poc", "meter", 1).file.pocs[0]?.devices.map((d) => d.kind)).toEqual([
      "masterValve",
      "meter",
      "flowSensor",
    ]);
    const main = addDevice(addDevice(smallSite(), "main", "pipe").file, "main", "masterValve", 5).file;
    expect([main.mainlines[0]?.devices?.length, main.mainlines[0]?.pipes.length]).toEqual([1, 1]);
    const moved = place([{ id: "poc", x: 10.4, y: 3 }])(smallSite());
    expect(moved.positions).toEqual([{ id: "poc", x: 10, y: 3 }]);
    expect(place([{ id: "poc", x: 1, y: 1 }])(moved).positions).toHaveLength(1);
    expect("positions" in place(null)(moved)).toBe(false);
    expect(remove("poc")(moved).positions).toEqual([]);
  });
});

describe("the drawing", () => {
  const elk = new Elk();
  const overlap = (a: { x: number; y: number }, b: { x: number; y: number }, s: Shape, t: Shape): boolean =>
    a.x < b.x + t.width && b.x < a.x + s.width && a.y < b.y + t.height && b.y < a.y + s.height;
  it.each(demoSites().map((s) => [s.site.name, s] as const))(
    "of %s overlaps nothing, folded or open, and is narrowest where it binds",
    async (_, site) => {
      for (const open of [new Set<string>(), new Set(site.mainlines.map((m) => m.id))]) {
        const drawn = shapes(site, { open });
        for (const at of [rows(site, drawn), await arrange(drawn, elk)])
          for (const s of drawn.list)
            for (const t of drawn.list)
              if (s.id < t.id)
                expect(
                  overlap(at.get(s.id) as { x: number; y: number }, at.get(t.id) as { x: number; y: number }, s, t),
                  `${s.name} and ${t.name}`,
                ).toBe(false);
        for (const s of drawn.list) {
          const binding = s.pieces.find((p) => p.binds);
          if (binding)
            for (const p of s.pieces) if (p.lpm !== null) expect(binding.half).toBeLessThanOrEqual(p.half + 1e-9);
          expect(outline(s).body).toMatch(/^M.*Z$/);
          for (const p of s.pieces) expect(p.x).toBeLessThan(s.end);
          expect(s.end).toBeLessThanOrEqual(s.width);
        }
        expect(drawn.joints).toHaveLength(
          site.pocs.reduce((n, p) => n + p.sourceIds.length, 0) +
            site.mainlines.reduce((n, m) => n + m.feedIds.length, 0),
        );
      }
    },
  );
  it("water flows left to right once arranged", async () => {
    const site = demoSites().find((s) => s.site.id === "lakeside-park") as SiteFile;
    const drawn = shapes(site);
    const at = await arrange(drawn, elk);
    for (const j of drawn.joints) expect(at.get(j.from)?.x).toBeLessThan(at.get(j.to)?.x ?? 0);
  });
});
