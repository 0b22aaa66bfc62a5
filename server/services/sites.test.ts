import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { writeSiteText } from "../../core/site-file/parse-site.ts";
import { INVENTED } from "../../core/profiles/profile.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { roundsMade } from "../../testing/rounds-made.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import { hashPassword, passwordMatches } from "../auth/password.ts";
import type { AppError } from "../app-error.ts";
import type { SignedIn } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { revisionHeads } from "../db/revisions.ts";
import { dropDevice, exportLibrary, importLibrary, keepDevice, library } from "./library.ts";
import { describeProfile, forgetProfile, profiles } from "./profiles.ts";
import { actOnAlarm } from "./alarms.ts";
import { logBook, takeBenchNight } from "./log-book.ts";
import { amendSite, createSite, exportSite, importSite, loadSite, restoreRevision, saveSite } from "./sites.ts";

let maren: SignedIn;
let stranger: SignedIn;
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
afterAll(closeDatabase);

let count = 0;
const fresh = (change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    s.site.id = `t${++count}`;
    change(s);
  });

describe("configurations", () => {
  it("come back byte for byte as they went in, and every save is a revision in words", async () => {
    const file = fresh();
    const site = await importSite(maren, JSON.stringify(file));
    expect((await exportSite(maren, site.id)).text).toBe(writeSiteText(file));
    const changed = structuredClone(file);
    (changed.stations[0] as { designFlowLpm: number }).designFlowLpm = 88;
    const saved = await saveSite(maren, site.id, { baseVersion: 1, file: changed, note: "measured" });
    expect(saved).toMatchObject({ version: 2, changes: [{ words: "station 1 S1: design flow 100 L/min → 88 L/min" }] });
    expect((await revisionHeads(site.id, 9)).map((r) => [r.version, r.note, r.madeByName])).toEqual([
      [2, "measured", "maren"],
      [1, "Imported from a site file", "maren"],
    ]);
    const element = await db()("element").where({ siteId: site.id, elementId: "s1" }).first();
    expect(element).toMatchObject({ expectedLpm: 88, number: 1, present: true });
  });

  it("a second writer on an old version is told, sees the difference, and nothing is overwritten", async () => {
    const file = fresh();
    const site = await importSite(maren, JSON.stringify(file));
    const mine = structuredClone(file);
    mine.site.notes = "mine";
    const theirs = structuredClone(file);
    theirs.site.notes = "theirs";
    const both = await Promise.allSettled([
      saveSite(maren, site.id, { baseVersion: 1, file: mine, note: "" }),
      saveSite(maren, site.id, { baseVersion: 1, file: theirs, note: "" }),
    ]);
    expect(both.map((r) => r.status).sort()).toEqual(["fulfilled", "rejected"]);
    const refused = both.find((r) => r.status === "rejected")?.reason as AppError;
    expect(refused.code).toBe("staleVersion");
    expect(refused.details["theirs"]).toEqual([{ path: "site.notes", words: expect.stringContaining("notes none →") }]);
    expect((await loadSite(maren, site.id)).version).toBe(2);
  });

  it("refuse what is wrong as a whole: nothing is half-saved", async () => {
    const file = fresh();
    const site = await importSite(maren, JSON.stringify(file));
    const broken = structuredClone(file) as unknown as { stations: { mainlineId: string }[] };
    (broken.stations[0] as { mainlineId: string }).mainlineId = "gone";
    expect((await refusal(saveSite(maren, site.id, { baseVersion: 1, file: broken, note: "" }))).code).toBe("badFile");
    const twice = structuredClone(file);
    (twice.stations[1] as { number: number }).number = 1;
    expect((await refusal(saveSite(maren, site.id, { baseVersion: 1, file: twice, note: "" }))).message).toContain(
      "number 1 is already used",
    );
    expect((await loadSite(maren, site.id)).file).toEqual(file);
    expect((await refusal(importSite(maren, '{"format":"presa-site"'))).code).toBe("badFile");
    expect((await refusal(importSite(maren, JSON.stringify(file)))).code).toBe("conflict");
  });

  it("put back an earlier revision as a new one", async () => {
    const file = fresh();
    const site = await importSite(maren, JSON.stringify(file));
    await amendSite(maren, site.id, "", (f) => ({ ...f, stations: [], programs: [] }));
    const back = await restoreRevision(maren, site.id, 1, 2);
    expect(back.version).toBe(3);
    expect(back.file.stations).toHaveLength(3);
    expect(await db()("revision").where({ siteId: site.id }).count({ n: "*" }).first()).toMatchObject({ n: 3 });
  });

  it("are never seen by another organisation", async () => {
    const site = await createSite(maren, { name: "Own", timeZone: "Europe/Vienna", units: "us" });
    const works = [
      () => loadSite(stranger, site.id),
      () => exportSite(stranger, site.id),
      () => logBook(stranger, site.id),
      () => takeBenchNight(stranger, site.id, { date: "2026-07-14", faults: [], seed: 1, exact: true }),
      () => saveSite(stranger, site.id, { baseVersion: 1, file: site.file, note: "" }),
    ];
    for (const work of works) expect((await refusal(work())).code).toBe("notFound");
    expect((await roundsMade(stranger, new Date("2026-07-14T12:00:00Z"))).map((r) => r.name)).not.toContain("Own");
  });
});

describe("the log", () => {
  it("takes a night, locks out what the controller locked, and frees it when someone gives the cause", async () => {
    const site = await importSite(maren, JSON.stringify(fresh()));
    const taken = await takeBenchNight(maren, site.id, {
      date: "2026-07-14",
      faults: [{ at: "+60", kind: "brokenLateral", subjectId: "s1", size: 90 }],
      seed: 1,
      exact: true,
    });
    expect(taken).toEqual({ alarms: 1, version: 2 });
    const [alarm] = (await logBook(maren, site.id)).alarms;
    expect(alarm).toMatchObject({ kind: "stationHigh", subjectId: "s1", locked: ["s1"], state: "open" });
    expect((await loadSite(maren, site.id)).file.stations[0]?.lockedOut).toBe(true);
    expect((await roundsMade(maren, new Date("2026-07-14T12:00:00Z"))).find((r) => r.id === site.id)).toMatchObject({
      openAlarms: 1,
      lockedOut: 1,
    });
    expect(Number((await db()("site_event").where({ siteId: site.id }).count({ n: "*" }).first())?.n)).toBeGreaterThan(
      5,
    );
    const id = alarm?.id as string;
    await actOnAlarm(maren, site.id, id, { action: "acknowledge" });
    const cleared = await actOnAlarm(maren, site.id, id, { action: "clear", cause: "lateral split by a root" });
    expect(cleared.alarm).toMatchObject({
      state: "cleared",
      clearedByName: "maren",
      cause: "lateral split by a root",
    });
    expect(cleared.site.file.stations[0]?.lockedOut).toBeUndefined();
    expect((await refusal(actOnAlarm(maren, site.id, id, { action: "acknowledge" }))).code).toBe("conflict");
  });
});

it("passwords are kept as argon2id and compared as such", async () => {
  const hash = await hashPassword("right");
  expect(hash).toMatch(/^\$argon2id\$/);
  expect([
    await passwordMatches(hash, "right"),
    await passwordMatches(hash, "wrong"),
    await passwordMatches(undefined, "right"),
  ]).toEqual([true, false, false]);
});

describe("records and wiring", () => {
  const device = (s: SiteFile) => s.pocs[0]?.devices[1] as SiteFile["pocs"][number]["devices"][number];
  it("a saved check says who and when by the server's own word", async () => {
    const site = await importSite(maren, writeSiteText(fresh()));
    const file = structuredClone(site.file);
    device(file).checks = [{ check: "polarity", ok: true, by: "Nobody", at: "1999-01-01T00:00:00Z" }];
    const begun = Date.now();
    const saved = await saveSite(maren, site.id, { baseVersion: site.version, file, note: "" });
    const [check] = device(saved.file).checks ?? [];
    expect(check?.by).toBe("maren");
    expect(Date.parse(check?.at ?? "")).toBeGreaterThanOrEqual(begun - 1000);
    expect(device((await loadSite(maren, site.id)).file).checks).toEqual(device(saved.file).checks);
  });
  it("an address used twice is refused, and nothing is written", async () => {
    const site = await importSite(maren, writeSiteText(fresh()));
    const file = structuredClone(site.file);
    for (const s of file.stations) s.address = "3";
    const refused = await refusal(saveSite(maren, site.id, { baseVersion: site.version, file, note: "" }));
    expect([refused.code, refused.message]).toEqual([
      "badFile",
      expect.stringContaining("Address 3 is on 1 S1 and again on 2 S2"),
    ]);
    expect((await loadSite(maren, site.id)).version).toBe(site.version);
  });
});

describe("the organisation's library", () => {
  it("keeps, replaces by name, goes out and in as CSV, and is nobody else's", async () => {
    const body = { kind: "meter", continuousMaxLpm: 190, safeMaxLpm: 240 };
    const [before] = await keepDevice(maren, { name: "Vault meter", note: "", body });
    const anew = { name: "vault METER", note: "new sheet", body: { ...body, safeMaxLpm: 250 } };
    const items = await keepDevice(maren, anew, before?.keptAt);
    expect(items).toMatchObject([
      { name: "vault METER", note: "new sheet", body: { ...body, safeMaxLpm: 250 }, keptBy: "maren" },
    ]);
    expect((await refusal(keepDevice(maren, { name: "x", note: "", body: { kind: "meter", colour: 1 } }))).code).toBe(
      "badRequest",
    );
    const csv = await exportLibrary(maren);
    const taken = await importLibrary(
      stranger,
      `${csv}Broken,regulator,,,,,,,,,,,,,,,,,,,,,,,lots,,,,,,,,,,,\n`,
      false,
    );
    expect([taken.kept, taken.refused.map((r) => r.line)]).toEqual([1, [3]]);
    expect((await library(stranger)).map((i) => i.name)).toEqual(["vault METER"]);
    expect((await refusal(dropDevice(stranger, items[0]?.id as string))).code).toBe("notFound");
    expect(await dropDevice(maren, items[0]?.id as string)).toEqual([]);
    expect((await refusal(dropDevice(maren, "no id"))).code).toBe("notFound");
  });
});

describe("controller profiles", () => {
  it("keep their id when described anew, and are nobody else's", async () => {
    const { id: _, ...plain } = INVENTED[0] as (typeof INVENTED)[number];
    const [first] = await describeProfile(maren, { ...plain, name: "Wall box" });
    const [again] = await describeProfile(maren, { ...plain, name: "wall BOX", atOnce: 2 }, first?.keptAt);
    expect([again?.id, again?.name, again?.atOnce]).toEqual([first?.id, "wall BOX", 2]);
    expect(await profiles(stranger)).toEqual([]);
    expect((await refusal(forgetProfile(stranger, first?.id as string))).code).toBe("notFound");
    expect(await forgetProfile(maren, first?.id as string)).toEqual([]);
  });
});
