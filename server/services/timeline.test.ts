import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { type TimelineHead, timelineQuery } from "../../contracts/timeline.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { InSession } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { closeListening } from "../db/listen.ts";
import { endHeavy } from "../heavy/pool.ts";
import { actOnAlarm } from "./alarms.ts";
import { noteDutyDone, takeDutyOut } from "./duties.ts";
import { logBook, takeBenchNight } from "./log-book.ts";
import { enterMeterReading, resetCounter, takeMeterReadingOut } from "./meters.ts";
import { deleteSite } from "./site-end.ts";
import { importSite, loadSite, saveSite } from "./sites.ts";
import { timeline } from "./timeline.ts";
import { makeTodo } from "./todos.ts";
import { keepValveCheck } from "./valve-checks.ts";
import { beginVisit } from "./visits.ts";

let maren: InSession;
let stranger: InSession;
let siteId: string;
const NOW = new Date();
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
  const file = smallSite((s) => {
    s.site.id = `timeline-${Date.now()}`;
    s.pocs[0]?.devices.unshift({ id: "wm", kind: "meter" });
  });
  siteId = (await importSite(maren, JSON.stringify(file))).id;
});
afterAll(async () => {
  await endHeavy();
  await closeListening();
  await closeDatabase();
});
const page = (more: { only?: TimelineHead[]; before?: string; month?: string } = {}) =>
  timeline(maren, siteId, { ...timelineQuery.parse({}), ...more }, NOW);
const sorts = async (...only: TimelineHead[]): Promise<string[]> => (await page({ only })).entries.map((e) => e.sort);
const id = (): string => crypto.randomUUID();

describe("the timeline of a site", () => {
  it("has everything that happened once, each with what tells it, found by its head", async () => {
    await takeBenchNight(maren, siteId, {
      date: "2026-07-14",
      faults: [{ at: "+60", kind: "brokenLateral", subjectId: "s1", size: 90 }],
      seed: 1,
      exact: true,
    });
    const [alarm] = (await logBook(maren, siteId)).alarms;
    // The night that was rehearsed is of its own date.
    await db()("happening").where({ siteId, sort: "alarm" }).update({ at: NOW });
    await actOnAlarm(maren, siteId, alarm?.id as string, { action: "note", words: "drove out" });
    const { file, version } = await loadSite(maren, siteId);
    const off = { ...file, site: { ...file.site, holdUntil: "2026-09-01" } };
    await saveSite(maren, siteId, { baseVersion: version, file: off, note: "off" });
    await beginVisit(maren, siteId, { id: id(), checklistId: "monthly", begunAt: NOW.toISOString() }, NOW);
    await makeTodo(
      maren,
      siteId,
      { id: id(), words: "Lid", ownerId: null, due: null, subjectId: null, photoIds: [] },
      NOW,
    );
    const due = { id: id(), duty: "battery" as const, subjectId: "ctl", on: "2026-07-01", words: "" };
    await noteDutyDone(maren, siteId, due, NOW);
    const reading = { id: id(), meterId: "wm", at: NOW.toISOString(), m3: 5, begins: false, note: "", photoId: null };
    await enterMeterReading(maren, siteId, reading, NOW);
    await resetCounter(maren, siteId, { id: id(), sensorId: "fs", counter: 1, reason: "new month" }, NOW);
    const check = { id: id(), controllerId: "ctl", at: NOW.toISOString(), how: "typed" as const, unit: "ohm" as const };
    await keepValveCheck(maren, siteId, { ...check, readings: [{ stationId: "s1", value: 40 }] }, NOW);

    expect((await sorts()).sort()).toEqual(
      ["alarm", "counter", "deed", "due", "meter", "save", "save", "save", "todo", "visit", "wire"].sort(),
    );
    expect(await sorts("holds")).toEqual(["save"]);
    expect((await sorts("lockouts")).sort()).toEqual(["alarm", "save"]);
    expect((await sorts("visits", "wire")).sort()).toEqual(["due", "todo", "visit", "wire"]);
    const told = Object.fromEntries((await page()).entries.map((e) => [e.sort, e.told]));
    expect(told).toMatchObject({
      deed: { who: "maren", action: "note", words: "drove out", alarmId: alarm?.id },
      alarm: { kind: "stationHigh", subjectId: "s1", rehearsed: true },
      due: { duty: "battery", subjectId: "ctl", on: "2026-07-01" },
      meter: { meterId: "wm", m3: 5 },
      wire: { stations: 1 },
    });
    await takeMeterReadingOut(maren, siteId, reading.id);
    await takeDutyOut(maren, siteId, due.id);
    expect(await sorts("meters")).toEqual(["counter"]);
    expect((await sorts("visits")).sort()).toEqual(["todo", "visit"]);
  });
  it("comes a page at a time, nothing twice and nothing missing, though many things are of one instant", async () => {
    const one = { organisationId: maren.organisationId, siteId, meterId: "wm", begins: false, byName: "maren" };
    await db()("meter_reading").insert(
      Array.from({ length: 250 }, (_, i) => ({
        ...one,
        id: id(),
        m3: i,
        at: db().raw("date_trunc('second', now()) + ? * interval '1 microsecond'", [i]),
      })),
    );
    const seen: string[] = [];
    let before: string | undefined;
    for (let i = 0; i < 5; i++) {
      const { entries, next } = await page({ only: ["meters"], ...(before ? { before } : {}) });
      seen.push(...entries.map((e) => e.told.ref));
      if (next === null) break;
      before = next;
    }
    expect(seen).toHaveLength(251);
    expect(new Set(seen).size).toBe(251);
  });
  it("begins with the month in which the site came here; an earlier one is empty, another's is nobody's", async () => {
    const { first, month } = await page();
    expect(first).toBe(month);
    expect((await page({ month: "2020-02" })).entries).toEqual([]);
    expect((await refusal(timeline(stranger, siteId, timelineQuery.parse({}), NOW))).code).toBe("notFound");
    expect((await refusal(page({ before: "nonsense" }))).code).toBe("badRequest");
  });
  it("goes with its site", async () => {
    const { file } = await loadSite(maren, siteId);
    await db()("site").where({ id: siteId }).update({ archivedAt: new Date() });
    await deleteSite(maren, siteId, file.site.name);
    expect(await db()("happening").where({ siteId })).toEqual([]);
  });
});
