import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { randomSite } from "../../testing/random-site.ts";
import { smallSite } from "../../testing/small-site.ts";
import { plan } from "../dispatch/plan.ts";
import { INVENTED } from "../profiles/profile.ts";
import { roundSite } from "../profiles/round-site.ts";
import { parseSite } from "../site-file/parse-site.ts";
import type { Program, SiteFile } from "../site-file/schema.ts";
import { canonical, checksum } from "./checksum.ts";
import { compareSettings, settingsDifference } from "./compare.ts";
import { withItem } from "./item.ts";
import { settingsOf } from "./settings-of.ts";
import { takeSettings, type TakenItem } from "./take.ts";
import { withSettings } from "./with-settings.ts";

const DATE = "2026-07-14";
const two = (change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    s.controllers.push({ id: "other", name: "Other", powered: "battery" });
    s.stations.push({
      id: "s9",
      number: 9,
      name: "Far bed",
      controllerId: "other",
      mainlineId: "main",
      designFlowLpm: 20,
      notes: "behind the shed",
    });
    s.programs.push({
      ...(s.programs[0] as Program),
      id: "q",
      name: "Q",
      controllerId: "other",
      starts: ["01:00"],
      runs: [{ stationId: "s9", minutes: 4 }],
    });
    change(s);
  });

describe("settings of one controller", () => {
  it("are a site file with that controller alone, its ceilings and flows as one figure each, and nothing that people only read", () => {
    const settings = settingsOf(two(), "other");
    expect(parseSite(settings)).toMatchObject({ ok: true });
    expect(settings.controllers.map((c) => c.id)).toEqual(["other"]);
    expect(settings.stations).toEqual([
      { id: "s9", number: 9, name: "Far bed", controllerId: "other", mainlineId: "main", enteredFlowLpm: 20 },
    ]);
    expect(settings.programs.map((p) => p.id)).toEqual(["q"]);
    expect(settings.mainlines.map((m) => [m.id, m.ceilingLpm])).toEqual([["main", 150]]);
    expect(settings.pocs[0]?.ceilingLpm).toBe(1500);
  });
  it("hold the weather inputs that its programs and stations name, and no others", () => {
    const inputs = two((s) => {
      s.weatherInputs = ["rain", "wind", "frost"].map((id) => ({ id, name: id, kind: "switch" as const }));
      (s.stations[0] as { ignoresInputs?: string[] }).ignoresInputs = ["wind"];
      (s.programs[0] as Program).onInputs = [{ inputId: "rain", does: "pause", when: "above", limit: 0 }];
    });
    const settings = settingsOf(inputs, "ctl");
    expect(settings.weatherInputs?.map((i) => i.id)).toEqual(["rain", "wind"]);
    expect(parseSite(settings)).toMatchObject({ ok: true });
  });
  it("hold no lockout, so that sending frees nothing", () => {
    const locked = two((s) => {
      (s.stations[3] as { lockedOut?: boolean }).lockedOut = true;
    });
    expect(settingsOf(locked, "other")).toEqual(settingsOf(two(), "other"));
  });
  it("put together run the same night as the site itself, whatever the site", () => {
    fc.assert(
      fc.property(randomSite({ stations: { min: 1, max: 14 }, windows: true }), (site) => {
        const held = site.controllers.map((c) => settingsOf(site, c.id));
        for (const h of held) expect(parseSite(h)).toMatchObject({ ok: true });
        const again = withSettings(site, held);
        const night = plan(site, DATE);
        const same = plan(again, DATE);
        expect(same.runs.map((r) => [r.stationId, r.start, r.end])).toEqual(
          night.runs.map((r) => [r.stationId, r.start, r.end]),
        );
      }),
      { numRuns: 60, seed: 14 },
    );
  });
  it("of a site in use hold what is set there: a hold, percents, limits", () => {
    const site = two((s) => {
      Object.assign(s.site, { seasonalPercent: 50, holdUntil: "2026-07-20" });
    });
    const held = site.controllers.map((c) => settingsOf(site, c.id));
    const run = withSettings(two(), held, ["s1"]);
    expect(run.programs.map((p) => [p.holdUntil, p.seasonalPercent])).toEqual([
      ["2026-07-20", 50],
      ["2026-07-20", 50],
    ]);
    expect(run.stations.filter((s) => s.lockedOut).map((s) => s.id)).toEqual(["s1"]);
  });
});

describe("a checksum", () => {
  it("is the CRC-32 of the canonical spelling, whatever the order of keys", () => {
    expect(canonical({ b: [1, undefined], a: { d: null, c: "ü" }, e: undefined })).toBe(
      '{"a":{"c":"ü","d":null},"b":[1,null]}',
    );
    expect(checksum("123456789")).not.toBe(checksum("123456788"));
    expect(checksum({ a: 1, b: 2 })).toBe(checksum({ b: 2, a: 1 }));
    // Of the nine characters and their quotation marks, by another implementation of CRC-32.
    expect(checksum("123456789")).toBe("83593021");
  });
});

describe("what differs", () => {
  const ours = (change: (s: SiteFile) => void = () => {}): SiteFile => settingsOf(two(change), "ctl");
  const program = (s: SiteFile): Program => s.programs[0] as Program;
  it("is told item by item, with who moved since the last send", () => {
    const sent = ours();
    const holds = ours((s) => {
      program(s).starts = ["21:00"];
      (program(s).runs[1] as { minutes: number }).minutes = 12;
    });
    const now = ours((s) => {
      (program(s).runs[1] as { minutes: number }).minutes = 15;
      (s.stations[0] as { designFlowLpm?: number }).designFlowLpm = 104;
    });
    expect(compareSettings(now, sent, holds)).toEqual([
      {
        path: "stations[s1].enteredFlowLpm",
        what: "station 1 S1: expected flow",
        presa: "104 L/min",
        sent: "100 L/min",
        controller: "100 L/min",
        moved: "presa",
      },
      {
        path: "programs[p].starts",
        what: "program P: starts",
        presa: "22:00",
        sent: "22:00",
        controller: "21:00",
        moved: "controller",
      },
      {
        path: "programs[p].runs[s2]",
        what: "program P: 2 S2",
        presa: "15 min",
        sent: "10 min",
        controller: "12 min",
        moved: "both",
      },
    ]);
    expect(compareSettings(now, null, holds).map((d) => [d.sent, d.moved])).toEqual([
      [null, "unknown"],
      [null, "unknown"],
      [null, "unknown"],
    ]);
  });
  const CHANGES: ((s: SiteFile, p: Program | undefined) => void)[] = [
    (_, p) => Object.assign(p ?? {}, { starts: ["03:15"] }),
    (_, p) => Object.assign(p?.runs[0] ?? {}, { minutes: 7.5 }),
    (_, p) => p?.runs.pop(),
    (s) => Object.assign(s.policy, { highPercent: 33 }),
    (s) => Object.assign(s.site, { holdUntil: "indefinite" }),
    (s, p) => Object.assign(s, { programs: s.programs.filter((q) => q !== p) }),
  ];
  it("can be taken over one by one, until nothing differs: from any site to any other of the same shape", () => {
    fc.assert(
      fc.property(
        randomSite({ stations: { min: 2, max: 8 }, windows: true }),
        fc.array(fc.integer({ min: 0, max: 5 }), { minLength: 1, maxLength: 4 }),
        (site, kinds) => {
          const controller = site.controllers[0]?.id as string;
          const changed = structuredClone(site);
          const p = changed.programs.find((q) => q.controllerId === controller);
          for (const kind of kinds) CHANGES[kind]?.(changed, p);
          const theirs = settingsOf(changed, controller);
          let mine = site;
          for (const d of settingsDifference(settingsOf(site, controller), theirs))
            mine = withItem(mine, theirs, d.path) ?? mine;
          expect(parseSite(mine)).toMatchObject({ ok: true });
          expect(settingsDifference(settingsOf(mine, controller), theirs)).toEqual([]);
        },
      ),
      { numRuns: 80, seed: 15 },
    );
  });
  it("a path that leads nowhere changes nothing", () => {
    expect(withItem(two(), ours(), "stations[nobody].cycle")).toBeNull();
  });
});

describe("what a controller makes of what is sent", () => {
  const [plain, middle] = INVENTED;
  const holds = settingsOf(two(), "ctl");
  const brief = (items: TakenItem[]): string[][] => items.map((i) => [i.path, i.outcome, i.value]);
  const sent = (change: (s: SiteFile) => void): SiteFile => settingsOf(two(change), "ctl");
  it("takes all of it, or nothing where it did not come whole", () => {
    const next = sent((s) => {
      (s.programs[0] as Program).starts = ["21:30"];
    });
    const taken = takeSettings(holds, next, checksum(next), null);
    expect(taken).toMatchObject({ outcome: "taken", holds: next });
    expect(taken.outcome !== "refused" && brief(taken.items)).toEqual([["programs[p].starts", "taken", "21:30"]]);
    expect(takeSettings(holds, next, checksum(holds), null)).toMatchObject({
      outcome: "refused",
      reason: expect.stringContaining("did not come whole"),
    });
    const other = settingsOf(two(), "other");
    expect(takeSettings(holds, other, checksum(other), null)).toMatchObject({ outcome: "refused" });
    const broken = { ...next, programs: "none" };
    expect(takeSettings(holds, broken, checksum(broken), null)).toMatchObject({ outcome: "refused" });
  });
  it("takes what it has steps for in its own step, refuses what it cannot do and keeps what it held", () => {
    const next = sent((s) => {
      const p = s.programs[0] as Program;
      p.days = { type: "halfMonth", everyDays: Array.from({ length: 24 }, () => 2), anchor: "2026-01-01" };
      (p.runs[0] as { minutes: number }).minutes = 10.4;
      p.delayS = 11;
    });
    const taken = takeSettings(holds, next, checksum(next), plain ?? null);
    if (taken.outcome === "refused") throw new Error(taken.reason);
    expect(taken.outcome).toBe("partly");
    const outcomes = new Map(taken.items.map((i) => [i.path, i]));
    expect(outcomes.get("programs[p].days")).toMatchObject({
      outcome: "refused",
      reason: expect.stringMatching(/days/),
    });
    expect(outcomes.get("programs[p].runs[s1]")).toMatchObject({ outcome: "changed", value: "10 min" });
    expect(outcomes.get("programs[p].delayS")).toMatchObject({ outcome: "changed", value: "10 s" });
    expect(taken.holds.programs[0]?.days).toEqual(holds.programs[0]?.days);
    expect(taken.holds.programs[0]?.delayS).toBe(10);
  });
  it("takes without loss what was rounded to its profile before it was sent, and taking it twice changes nothing", () => {
    fc.assert(
      fc.property(randomSite({ stations: { min: 1, max: 10 }, windows: true }), (drawn) => {
        const profile = middle as (typeof INVENTED)[number];
        const site = { ...drawn, controllers: drawn.controllers.map((c) => ({ ...c, profileId: profile.id })) };
        const controller = site.controllers[0]?.id as string;
        const next = settingsOf(roundSite(site, INVENTED).site, controller);
        const before = settingsOf({ ...site, programs: [] }, controller);
        const first = takeSettings(before, next, checksum(next), profile);
        if (first.outcome === "refused") throw new Error(first.reason);
        expect(first.items.filter((i) => i.outcome === "changed")).toEqual([]);
        const again = takeSettings(first.holds, next, checksum(next), profile);
        expect(again.outcome === "refused" ? null : again.holds).toEqual(first.holds);
      }),
      { numRuns: 60, seed: 16 },
    );
  });
});
