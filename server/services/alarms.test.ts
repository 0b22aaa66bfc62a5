import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { SignedIn } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { actOnAlarm, alarmList, alarmPhoto, alarmsCsv, clearMany } from "./alarms.ts";
import { logBook, takeBenchNight } from "./log-book.ts";
import { importSite, loadSite } from "./sites.ts";

let maren: SignedIn;
let stranger: SignedIn;
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
afterAll(closeDatabase);

let count = 0;
async function alarmed(): Promise<{ siteId: string; alarmId: string }> {
  const site = await importSite(
    maren,
    JSON.stringify(
      smallSite((s) => {
        s.site.id = `alarm${++count}`;
        s.site.name = `Alarm site ${count}`;
      }),
    ),
  );
  await takeBenchNight(maren, site.id, {
    date: "2026-07-14",
    faults: [{ at: "+60", kind: "brokenLateral", subjectId: "s1", size: 90 }],
    seed: 1,
    exact: true,
  });
  return { siteId: site.id, alarmId: (await logBook(maren, site.id)).alarms[0]?.id as string };
}
const PNG = Buffer.from("89504e470d0a1a0a0000000d49484452", "hex").toString("base64");

describe("an alarm", () => {
  it("is assigned, noted, pictured, cleared and opened again; every step stays with who did it", async () => {
    const { siteId, alarmId } = await alarmed();
    await actOnAlarm(maren, siteId, alarmId, { action: "assign", to: maren.userId });
    await actOnAlarm(maren, siteId, alarmId, { action: "note", words: "wet ground by the gate" });
    await actOnAlarm(maren, siteId, alarmId, { action: "photo", type: "image/png", data: PNG });
    await actOnAlarm(maren, siteId, alarmId, { action: "clear", cause: "lateral split" });
    expect((await loadSite(maren, siteId)).file.stations[0]?.lockedOut).toBeUndefined();
    const { alarm, site } = await actOnAlarm(maren, siteId, alarmId, { action: "reopen", words: "it leaks again" });
    expect([alarm.state, alarm.assignedToName, alarm.cause, site.file.stations[0]?.lockedOut]).toEqual([
      "open",
      "maren",
      "lateral split",
      true,
    ]);
    const { entries } = await logBook(maren, siteId);
    expect(entries.map((e) => [e.action, e.words, e.madeByName, e.hasPhoto])).toEqual([
      ["assigned", "maren", "maren", false],
      ["note", "wet ground by the gate", "maren", false],
      ["photo", "", "maren", true],
      ["cleared", "lateral split", "maren", false],
      ["reopened", "it leaks again", "maren", false],
    ]);
    const photo = entries.find((e) => e.hasPhoto);
    expect((await alarmPhoto(maren, photo?.id as string)).photoType).toBe("image/png");
    expect((await refusal(alarmPhoto(stranger, photo?.id as string))).code).toBe("notFound");
    expect(alarm.nightLostL).toBeGreaterThan(0);
  });
  it("refuses what does not fit its state, its people or its pictures", async () => {
    const { siteId, alarmId } = await alarmed();
    expect((await refusal(actOnAlarm(maren, siteId, alarmId, { action: "reopen", words: "why" }))).code).toBe(
      "conflict",
    );
    expect((await refusal(actOnAlarm(maren, siteId, alarmId, { action: "assign", to: stranger.userId }))).code).toBe(
      "badRequest",
    );
    expect(
      (await refusal(actOnAlarm(maren, siteId, alarmId, { action: "photo", type: "image/jpeg", data: PNG }))).code,
    ).toBe("badRequest");
    expect((await refusal(actOnAlarm(stranger, siteId, alarmId, { action: "note", words: "x" }))).code).toBe(
      "notFound",
    );
    await expect(db()("alarm_entry").where({ alarmId: alarmId }).count({ n: "*" }).first()).resolves.toEqual({ n: 0 });
  });
  it("is found over all sites by state, kind, person and words, and goes out as CSV", async () => {
    const { siteId, alarmId } = await alarmed();
    const other = await alarmed();
    await actOnAlarm(maren, siteId, alarmId, { action: "assign", to: maren.userId });
    await actOnAlarm(maren, other.siteId, other.alarmId, { action: "clear", cause: "100 % a mole" });
    const ids = async (filter: Parameters<typeof alarmList>[1]): Promise<string[]> =>
      (await alarmList(maren, filter)).alarms.map((a) => a.id);
    expect(await ids({ siteId })).toEqual([alarmId]);
    expect(await ids({ state: "cleared", siteId: other.siteId })).toEqual([other.alarmId]);
    expect(await ids({ assignedTo: maren.userId, siteId })).toEqual([alarmId]);
    expect(await ids({ find: "100 % a" })).toEqual([other.alarmId]);
    expect(await ids({ find: "100 _ a" })).toEqual([]);
    expect(await ids({ kind: "burst", siteId })).toEqual([]);
    expect((await alarmList(stranger, {})).alarms).toEqual([]);
    expect(await alarmsCsv(maren, { siteId })).toMatch(
      /^site,at,kind.*\nAlarm site \d+,2026-07-14T22:\d\d:\d\d\+02:00,stationHigh,station 1 S1,/,
    );
  });
  it("of more than a thousand no more are counted than the pages that were gone through", async () => {
    const { siteId, alarmId } = await alarmed();
    const copies = (many: number) =>
      db().raw(
        `insert into alarm (organisation_id, site_id, at, kind, subject_id, measured_lpm, expected_lpm, message)
         select organisation_id, site_id, at - n * interval '1 minute', kind, subject_id, measured_lpm, expected_lpm, message
         from alarm, generate_series(1, ?) n where id = ?`,
        [many, alarmId],
      );
    const counted = async (page: number) => {
      const { alarms, found, more } = await alarmList(maren, { siteId }, page);
      return { there: alarms.length, found, more };
    };
    await copies(899);
    expect(await counted(1)).toEqual({ there: 50, found: 900, more: false });
    expect(await counted(18)).toEqual({ there: 50, found: 900, more: false });
    expect(await counted(40)).toEqual({ there: 0, found: 900, more: false });
    await copies(131);
    expect(await counted(1)).toEqual({ there: 50, found: 1000, more: true });
    expect(await counted(20)).toEqual({ there: 50, found: 1000, more: true });
    expect(await counted(21)).toEqual({ there: 31, found: 1031, more: false });
  });
  it("of one cause is cleared with others, each freed; one that was cleared already, or is another's, is told and left", async () => {
    const [a, b] = [await alarmed(), await alarmed()];
    await actOnAlarm(maren, b.siteId, b.alarmId, { action: "clear", cause: "a mole" });
    const asked = { alarms: [a, b], cause: "frozen main", repaired: true };
    expect((await clearMany(stranger, asked)).asked).toBe(0);
    const answer = await clearMany(maren, asked);
    expect(answer.asked).toBe(1);
    expect(answer.not).toEqual([expect.stringContaining("cleared by maren already")]);
    const [cleared] = (await alarmList(maren, { siteId: a.siteId })).alarms;
    expect(cleared).toMatchObject({ state: "cleared", cause: "frozen main" });
    const [station] = (await loadSite(maren, a.siteId)).file.stations;
    expect(station?.lockedOut).toBeUndefined();
    expect(station?.repairedAt).toBeDefined();
  });
});
