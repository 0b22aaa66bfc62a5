import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { parseSite } from "@/core/site-file/parse-site";
import type { Device, SiteFile } from "@/core/site-file/schema";
import { randomSite } from "@/testing/random-site";
import { smallSite } from "@/testing/small-site";
import { addProgram, copyProgram, placeRun, removeProgram, setMinutes } from "./program-edits";
import {
  addController,
  addDevice,
  addMainline,
  addPoc,
  addSource,
  addStandard,
  connect,
  deletionBlocks,
  disconnect,
  isFedBy,
  mayFeed,
  moveDevice,
  patchDevice,
  place,
  remove,
} from "./waterworks-edits";

const anySite = randomSite({ stations: { min: 1, max: 12 }, windows: true });
const devices = (file: SiteFile): string[] => file.pocs[0]?.devices.map((d) => d.id) ?? [];
const allIds = (file: SiteFile): string[] => [
  ...file.sources.map((s) => s.id),
  ...file.pocs.flatMap((p) => [p.id, ...p.devices.map((d) => d.id)]),
  ...file.mainlines.flatMap((m) => [m.id, ...(m.devices ?? []).map((d) => d.id), ...m.pipes.map((d) => d.id)]),
  ...file.controllers.map((c) => c.id),
];
const KINDS: Device["kind"][] = [
  "meter",
  "backflow",
  "masterValve",
  "pump",
  "flowSensor",
  "pressureSensor",
  "regulator",
  "fixedLoss",
  "pipe",
];

describe("what is added to the waterworks", () => {
  it("hangs on what is there, under a name and an id of its own", () => {
    const one = addSource(smallSite());
    const two = addPoc(one.file);
    const three = addMainline(two.file);
    const four = addController(three.file);
    expect(four.file.sources.at(-1)).toMatchObject({ id: one.id, name: "Source 2", kind: "municipal" });
    expect(four.file.pocs.at(-1)).toMatchObject({ id: two.id, name: "Connection 2", sourceIds: ["src"] });
    expect(four.file.mainlines.at(-1)).toMatchObject({ id: three.id, name: "Main 2", feedIds: [two.id] });
    expect(four.file.controllers.at(-1)).toMatchObject({ id: four.id, name: "Controller 2" });
    expect(new Set(allIds(four.file)).size).toBe(allIds(four.file).length);
  });
  it("of every kind of piece is a file that can be read again, at its place along the flow", () => {
    for (const kind of KINDS) {
      if (kind === "pipe") continue;
      const { file, id } = addDevice(smallSite(), "poc", kind, 1);
      expect(devices(file), kind).toEqual(["mv", id, "fs"]);
      expect(parseSite(JSON.parse(JSON.stringify(file))).ok, kind).toBe(true);
    }
  });
  it("on a main, a pipe goes among its pipes and anything else before them", () => {
    const piped = addDevice(smallSite(), "main", "pipe");
    const valve = addDevice(piped.file, "main", "masterValve");
    const second = addDevice(valve.file, "main", "pipe", 1);
    const main = second.file.mainlines[0];
    expect(main?.devices?.map((d) => d.id)).toEqual([valve.id]);
    // The place counts all pieces: right after the valve is before the first pipe.
    expect(main?.pipes.map((d) => d.id)).toEqual([second.id, piped.id]);
  });
  it("as a standard connection is meter, backflow, master valve and sensor, in flow order", () => {
    const bare = smallSite((s) => {
      (s.pocs[0] as SiteFile["pocs"][number]).devices = [];
    });
    expect(addStandard(bare, "poc").pocs[0]?.devices.map((d) => d.kind)).toEqual([
      "meter",
      "backflow",
      "masterValve",
      "flowSensor",
    ]);
  });
});

describe("what feeds what", () => {
  const chain = (): SiteFile => {
    const two = addMainline(smallSite());
    const three = addMainline(two.file);
    return connect(two.id, three.id)(connect("main", two.id)(three.file));
  };
  it("is joined once, from source to connection to main, and never in a circle", () => {
    const file = chain();
    const [, second, third] = file.mainlines.map((m) => m.id) as [string, string, string];
    expect(isFedBy(file, third, "main")).toBe(true);
    expect(mayFeed(file, third, "main")).toBe(false);
    expect(mayFeed(file, second, second)).toBe(false);
    expect(mayFeed(file, "src", "main")).toBe(false);
    expect(mayFeed(file, "src", "poc")).toBe(false);
    expect(mayFeed(file, "main", "poc")).toBe(false);
    expect(connect(third, "main")(file)).toBe(file);
  });
  it("is cut where it was joined, and nowhere else", () => {
    const file = chain();
    const second = file.mainlines[1]?.id as string;
    const cut = disconnect("main", second)(file);
    expect(cut.mainlines[1]?.feedIds).toEqual(["poc"]);
    expect(cut.mainlines[0]?.feedIds).toEqual(["poc"]);
    expect(mayFeed(cut, "main", second)).toBe(true);
  });
  it("stays without a circle, whatever is joined and cut", () => {
    fc.assert(
      fc.property(anySite, fc.array(fc.tuple(fc.nat(11), fc.nat(11), fc.boolean())), (drawn, acts) => {
        let file = drawn;
        const ids = [...file.sources, ...file.pocs, ...file.mainlines].map((e) => e.id);
        for (const [a, b, joins] of acts) {
          const [from, to] = [ids[a % ids.length] as string, ids[b % ids.length] as string];
          file = joins ? connect(from, to)(file) : disconnect(from, to)(file);
        }
        for (const m of file.mainlines) expect(m.feedIds.some((f) => f === m.id || isFedBy(file, f, m.id))).toBe(false);
      }),
      { numRuns: 60 },
    );
  });
});

describe("what is moved and taken out", () => {
  it("goes one place along the flow, and stops at the ends", () => {
    expect(devices(moveDevice("fs", -1)(smallSite()))).toEqual(["fs", "mv"]);
    expect(devices(moveDevice("fs", 1)(smallSite()))).toEqual(["mv", "fs"]);
    expect(devices(moveDevice("mv", -1)(smallSite()))).toEqual(["mv", "fs"]);
  });
  it("is not deleted while stations or programs hang on it, and they are named", () => {
    expect(deletionBlocks(smallSite(), "main")).toEqual(["station 1 S1", "station 2 S2", "station 3 S3"]);
    expect(deletionBlocks(smallSite(), "ctl")).toContain("program P");
    expect(deletionBlocks(smallSite(), "src")).toEqual([]);
  });
  it("leaves nothing behind that points to it", () => {
    const placed = place([{ id: "src", x: 10.4, y: 3.6 }])({
      ...smallSite(),
      wireReadings: [{ subjectId: "src", ohms: 30, at: "2026-07-01T08:00:00Z" }] as never,
    });
    expect(placed.positions).toEqual([{ id: "src", x: 10, y: 4 }]);
    const gone = remove("src")(placed);
    expect(JSON.stringify(gone)).not.toContain('"src"');
    expect(parseSite(JSON.parse(JSON.stringify(gone))).ok).toBe(true);
  });
  it("of any piece of a random site leaves a file that can be read", () => {
    fc.assert(
      fc.property(anySite, fc.nat(40), (file, at) => {
        const free = allIds(file).filter((id) => deletionBlocks(file, id).length === 0);
        const id = free[at % Math.max(1, free.length)];
        if (id === undefined) return;
        const read = parseSite(JSON.parse(JSON.stringify(remove(id)(file))));
        expect(read.ok ? [] : read.problems).toEqual([]);
        expect(JSON.stringify(remove(id)(file))).not.toContain(`"${id}"`);
      }),
      { numRuns: 60 },
    );
  });
  it("stands where it was put on the drawing, until all is arranged again", () => {
    const one = place([{ id: "src", x: 1, y: 2 }])(smallSite());
    const two = place([
      { id: "src", x: 5, y: 6 },
      { id: "poc", x: 7, y: 8 },
    ])(one);
    expect(two.positions).toHaveLength(2);
    expect(two.positions?.find((p) => p.id === "src")).toMatchObject({ x: 5, y: 6 });
    expect(place(null)(two)).not.toHaveProperty("positions");
  });
  it("a figure that is emptied is no figure, of one device only", () => {
    const set = patchDevice("fs", { minLpm: 12 })(smallSite());
    expect(set.pocs[0]?.devices[1]).toMatchObject({ minLpm: 12 });
    const emptied = patchDevice("fs", { minLpm: undefined })(set);
    expect(emptied.pocs[0]?.devices[1]).not.toHaveProperty("minLpm");
    expect(emptied.pocs[0]?.devices[0]).toBe(set.pocs[0]?.devices[0]);
  });
});

describe("programs", () => {
  it("one is added to run every day, without stations, and taken out again", () => {
    const { file, id } = addProgram(smallSite());
    const added = file.programs.at(-1);
    expect(added).toMatchObject({ id, name: "Program 2", controllerId: "ctl", starts: ["22:00"], runs: [] });
    expect(removeProgram(id)(file)).toEqual(smallSite());
  });
  it("minutes are set, changed and taken out; another program keeps its own", () => {
    const { file, id } = copyProgram(smallSite(), "p", "ctl");
    const minutes = (f: SiteFile, p: string): number[] =>
      f.programs.find((x) => x.id === p)?.runs.map((r) => r.minutes) ?? [];
    const set = setMinutes(id, "s2", 25)(file);
    expect(minutes(set, id)).toEqual([10, 25, 10]);
    expect(minutes(set, "p")).toEqual([10, 10, 10]);
    const out = setMinutes(id, "s1", undefined)(set);
    expect(minutes(out, id)).toEqual([25, 10]);
    expect(minutes(setMinutes(id, "s1", 7)(out), id)).toEqual([25, 10, 7]);
    expect(setMinutes("none", "s1", 7)(out)).toBe(out);
  });
  it("the order of stations changes by one move, and keeps them all", () => {
    const order = (f: SiteFile): string[] => f.programs[0]?.runs.map((r) => r.stationId) ?? [];
    expect(order(placeRun("p", "s3", 0)(smallSite()))).toEqual(["s3", "s1", "s2"]);
    expect(order(placeRun("p", "s1", 2)(smallSite()))).toEqual(["s2", "s3", "s1"]);
    expect(placeRun("p", "none", 0)(smallSite())).toEqual(smallSite());
  });
  it("a copy has a name of its own, beside its source; on another controller no stations", () => {
    const once = copyProgram(smallSite(), "p", "ctl");
    const twice = copyProgram(once.file, "p", "ctl");
    expect(twice.file.programs.map((p) => p.name)).toEqual(["P", "P copy 2", "P copy"]);
    expect(twice.file.programs[1]?.runs).toHaveLength(3);
    const two = addController(smallSite());
    expect(copyProgram(two.file, "p", two.id).file.programs[1]).toMatchObject({ controllerId: two.id, runs: [] });
    expect(copyProgram(smallSite(), "none", "ctl")).toEqual({ file: smallSite(), id: "none" });
  });
});
