import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { type Entered, type FieldEntry, fieldEntry } from "../../contracts/entries.ts";
import { PIECE_BYTES } from "../../contracts/kept-files.ts";
import type { FlowSensor } from "../../core/site-file/schema.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { InSession } from "../auth/session.ts";
import { closeDatabase } from "../db/connection.ts";
import { closeListening } from "../db/listen.ts";
import { insertUser } from "../db/users.ts";
import { endHeavy } from "../heavy/pool.ts";
import { actOnAlarm } from "./alarms.ts";
import { siteAlong } from "./along.ts";
import { meterLogs } from "./meters.ts";
import { takeEntry } from "./entries.ts";
import { arrived, keptFile, takePiece } from "./kept-files.ts";
import { latestLearning } from "./learning.ts";
import { logBook, takeBenchNight } from "./log-book.ts";
import { importSite, loadSite } from "./sites.ts";
import { timeline } from "./timeline.ts";
import { changeTodo } from "./todos.ts";

let maren: InSession;
let stranger: InSession;
let tolly: InSession;
let siteId: string;
let count = 0;
const NOW = new Date("2026-07-15T12:00:00Z");

beforeAll(async () => {
  [maren, stranger] = await twoPeople();
  const tollys = { name: "tolly", email: `tolly-${Date.now()}@presa.example`, role: "technician" as const };
  const { organisationId } = maren;
  tolly = { ...maren, ...tollys, userId: await insertUser({ organisationId, ...tollys, passwordHash: "" }) };
});
beforeEach(async () => {
  const file = smallSite((s) => {
    s.site.id = `field-${Date.now()}-${++count}`;
    s.pocs[0]?.devices.unshift({ id: "wm", kind: "meter" });
  });
  siteId = (await importSite(maren, JSON.stringify(file))).id;
});
afterAll(async () => {
  await endHeavy();
  await closeListening();
  await closeDatabase();
});

type Asked = Parameters<typeof fieldEntry.parse>[0];
const entry = (what: unknown, at = "2026-07-15T09:00:00Z", id = randomUUID()): FieldEntry =>
  fieldEntry.parse({ id, by: maren.userId, at, what } as Asked);
const take = (e: FieldEntry, who = maren) => takeEntry(who, siteId, { ...e, by: who.userId }, NOW);
const met = (work: Promise<unknown>) => work.then(() => null).catch((error) => error.details?.met ?? error.message);
const along = (who = maren) => siteAlong(who, siteId, NOW);
const look = (walkId: string, more: Partial<Extract<Entered, { kind: "walkLook" }>> = {}) => ({
  kind: "walkLook",
  walkId,
  stationId: "s1",
  state: "fine",
  ...more,
});
const JPEG = Buffer.concat([Buffer.from([0xff, 0xd8, 0xff, 0xe0]), Buffer.alloc(300_000, 5)]);
async function send(content: Buffer, fileId = randomUUID(), from = 0): Promise<string> {
  for (let at = from; at < content.length; at += PIECE_BYTES) {
    const piece = content.subarray(at, at + PIECE_BYTES);
    await takePiece(maren, { siteId, fileId }, async () => ({ from: at, of: content.length, piece }));
  }
  return fileId;
}

describe("a walk", () => {
  it("is taken in once however often it is sent, keeps the newest of each station, and makes its problems something to do", async () => {
    const walkId = randomUUID();
    const photoId = await send(JPEG);
    const problem = entry(
      look(walkId, {
        state: "problem",
        problem: "broken",
        note: "head by the gate",
        readLpm: 118,
        photoIds: [photoId],
      }),
      "2026-07-15T09:20:00Z",
    );
    const entries = [
      entry({ kind: "walkBegin", walkId, stationIds: ["s1", "s2"] }),
      entry(look(walkId, { readLpm: 97 }), "2026-07-15T09:10:00Z"),
      entry(look(walkId, { stationId: "s2", state: "skipped" })),
      problem,
      entry({ kind: "walkEnd", walkId, note: "dry" }, "2026-07-15T10:00:00Z"),
    ];
    for (const e of [...entries, ...entries]) await take(e);
    const { walks, todos } = await along();
    expect(walks).toHaveLength(1);
    expect(walks[0]).toMatchObject({
      id: walkId,
      by: "maren",
      mine: true,
      note: "dry",
      endedAt: "2026-07-15T10:00:00.000Z",
    });
    expect(walks[0]?.looked.map((l) => [l.stationId, l.state, l.problem, l.readLpm, l.photoIds])).toEqual([
      ["s1", "problem", "broken", 118, [photoId]],
      ["s2", "skipped", null, null, []],
    ]);
    const station = (await loadSite(maren, siteId)).file.stations[0];
    expect(todos.map((t) => [t.id, t.words, t.subjectId, t.photoIds])).toEqual([
      [problem.id, `${station?.number} ${station?.name}: broken head or pipe. head by the gate`, "s1", [photoId]],
    ]);
    const told = (await timeline(maren, siteId, { month: "2026-07", only: ["visits"] }, NOW)).entries;
    expect(told.find((e) => e.sort === "walk")?.told).toMatchObject({ stations: 2, fine: 0, problems: 1, open: false });
  });
  it("is its own walker's, of the organisation's own site", async () => {
    const walkId = randomUUID();
    await take(entry({ kind: "walkBegin", walkId, stationIds: ["s1"] }));
    expect(await refusal(take(entry(look(walkId)), tolly))).toMatchObject({ code: "notAllowed" });
    expect(await refusal(take(entry(look(walkId)), stranger))).toMatchObject({ code: "notFound" });
    expect(await refusal(along(stranger))).toMatchObject({ code: "notFound" });
    expect((await along(tolly)).walks[0]?.mine).toBe(false);
  });
  it("is never sent in the name of whoever signed in on the phone since", async () => {
    const begun = entry({ kind: "walkBegin", walkId: randomUUID(), stationIds: ["s1"] });
    expect(await refusal(takeEntry(tolly, siteId, begun, NOW))).toMatchObject({ code: "notSignedIn" });
    expect((await along()).walks).toEqual([]);
  });
  it("takes what a phone with a clock ahead enters as of now", async () => {
    const walkId = randomUUID();
    await take(entry({ kind: "walkBegin", walkId, stationIds: ["s1"] }, "2027-01-01T00:00:00Z"));
    expect((await along()).walks[0]?.begunAt).toBe(NOW.toISOString());
  });
});

describe("a visit from the field", () => {
  it("is begun, looked through and ended", async () => {
    const visitId = randomUUID();
    const entries = [
      entry({ kind: "visitBegin", visitId, checklistId: "monthly" }),
      entry({ kind: "visitLook", visitId, lineId: "clock", state: "ok" }),
      entry({
        kind: "visitLook",
        visitId,
        lineId: "pump",
        state: "problem",
        note: "hums",
        todo: { words: "Pump hums", ownerId: null, due: null },
      }),
      entry({ kind: "visitEnd", visitId }, "2026-07-15T11:00:00Z"),
    ];
    for (const e of [...entries, ...entries]) await take(e);
    const { visits, todos } = await along();
    expect(visits).toMatchObject([{ id: visitId, name: "Monthly", endedAt: "2026-07-15T11:00:00.000Z" }]);
    expect(visits[0]?.looked.map((l) => [l.lineId, l.state])).toEqual([
      ["clock", "ok"],
      ["pump", "problem"],
    ]);
    expect(todos.map((t) => t.words)).toEqual(["Pump hums"]);
  });
});

describe("an alarm from the field", () => {
  const alarmed = async (): Promise<string> => {
    const faults = [{ at: "+60", kind: "brokenLateral", subjectId: "s1", size: 90 }];
    await takeBenchNight(maren, siteId, { date: "2026-07-14", faults, seed: 1, exact: true });
    return (await logBook(maren, siteId)).alarms[0]?.id as string;
  };
  it("is acknowledged, pictured and cleared with its cause, each once", async () => {
    const alarmId = await alarmed();
    const photoId = await send(JPEG);
    const acts = [
      { action: "acknowledge" },
      { action: "photo", photoId, words: "split" },
      { action: "clear", cause: "lateral split", repaired: true },
    ].map((act) => entry({ kind: "alarm", alarmId, act }));
    for (const e of [...acts, ...acts]) await take(e);
    const { alarms, entries } = await along();
    expect(alarms[0]).toMatchObject({ state: "cleared", cause: "lateral split" });
    expect(entries.map((e) => [e.action, e.hasPhoto])).toEqual([
      ["acknowledged", false],
      ["photo", true],
      ["cleared", false],
    ]);
    expect((await loadSite(maren, siteId)).file.stations[0]?.repairedAt).toBeDefined();
  });
  it("that somebody cleared meanwhile says by whom, and takes a note all the same", async () => {
    const alarmId = await alarmed();
    await actOnAlarm(tolly, siteId, alarmId, { action: "clear", cause: "wrong size in the plan" });
    await take(entry({ kind: "alarm", alarmId, act: { action: "acknowledge" } }));
    const clear = entry({ kind: "alarm", alarmId, act: { action: "clear", cause: "lateral split" } });
    expect(await met(take(clear))).toEqual({ why: "cleared", by: "tolly" });
    expect((await along()).alarms[0]?.cause).toBe("wrong size in the plan");
    await take(entry({ kind: "alarm", alarmId, act: { action: "note", words: "lateral split" } }));
    expect((await along()).entries.map((e) => e.action)).toEqual(["cleared", "note"]);
  });
});

describe("what is to do", () => {
  it("is done once; what changed meanwhile is said with what stands", async () => {
    const walkId = randomUUID();
    await take(entry({ kind: "walkBegin", walkId, stationIds: ["s1"] }));
    const problem = entry(look(walkId, { state: "problem", problem: "leak" }));
    await take(problem);
    await changeTodo(tolly, siteId, problem.id, { version: 1, words: "Leak by the gate" }, NOW);
    const old = entry({ kind: "todoDone", todoId: problem.id, version: 1, words: "new seal" });
    expect(await met(take(old))).toEqual({ why: "todo", version: 2, words: "Leak by the gate", doneBy: null });
    const mine = entry({ kind: "todoDone", todoId: problem.id, version: 2, words: "new seal" });
    await take(mine);
    await take(mine);
    expect((await along()).todos).toEqual([]);
  });
});

describe("learning and proving from the field", () => {
  const sensorNow = async (): Promise<FlowSensor> =>
    (await loadSite(maren, siteId)).file.pocs[0]?.devices.find((d) => d.kind === "flowSensor") as FlowSensor;
  it("proposes what a stopwatch measured, once", async () => {
    const e = entry({ kind: "flow", stationId: "s1", readings: [{ litres: 200, seconds: 120 }] });
    await take(e);
    await take(e);
    const { results } = await latestLearning(maren, siteId);
    expect(results.map((r) => [r.elementId, r.meanLpm, r.how])).toEqual([["s1", 100, "stopwatch"]]);
  });
  it("proves a sensor against the constant that was seen, and says where another stands", async () => {
    const sensor = await sensorNow();
    const { output } = sensor;
    if (output.type !== "frequency") throw new Error("This test wants a sensor that gives a frequency.");
    const hzOf = (lpm: number): number => lpm / 3.785411784 / (output.kGpm * 1.02) - output.offsetHz;
    const rows = [60, 150].map((lpm) => ({ startL: 0, endL: lpm * 2, seconds: 120, hz: hzOf(lpm) }));
    const proof = entry({ kind: "proof", sensorId: sensor.id, against: output, rows });
    await take(proof);
    await take(proof);
    const now = await sensorNow();
    expect(now.provings).toHaveLength(1);
    expect(now.provings?.[0]).toMatchObject({ by: "maren", at: "2026-07-15T09:00:00.000Z" });
    expect(now.output.type === "frequency" && now.output.kGpm / output.kGpm).toBeCloseTo(1.02, 2);
    const again = entry({ kind: "proof", sensorId: sensor.id, against: output, rows });
    expect(await met(take(again))).toEqual({ why: "constant", now: now.output });
    const poor = { startL: 10, endL: 5, seconds: 60, hz: 10 };
    expect(
      await refusal(take(entry({ kind: "proof", sensorId: sensor.id, against: now.output, rows: [poor] }))),
    ).toMatchObject({ code: "badRequest" });
    expect((await sensorNow()).provings).toHaveLength(1);
  });
});

describe("a meter read in the field", () => {
  it("stands in the meter log, once, with its photograph; one that cannot be is refused with why", async () => {
    const photoId = await send(JPEG);
    const reading = (m3: number, at: string) => entry({ kind: "meter", meterId: "wm", m3, photoId }, at);
    const first = reading(100, "2026-07-14T09:00:00Z");
    await take(first);
    await take(first);
    await take(reading(104, "2026-07-15T09:00:00Z"));
    const [log] = await meterLogs(maren, siteId);
    expect(log?.readings.map((r) => [r.m3, r.photoId, r.by])).toEqual([
      [104, photoId, "maren"],
      [100, photoId, "maren"],
    ]);
    expect(await refusal(take(reading(90, "2026-07-15T10:00:00Z")))).toMatchObject({ code: "badRequest" });
  });
});

describe("a file in pieces", () => {
  it("goes on where it broke off, is kept once whole, and takes no piece out of its place", async () => {
    const fileId = randomUUID();
    const at = { siteId, fileId };
    const piece = (from: number, to: number) =>
      takePiece(maren, at, async () => ({ from, of: JPEG.length, piece: JPEG.subarray(from, to) }));
    expect(await arrived(maren, at)).toEqual({ has: 0, whole: false });
    expect(await piece(0, 100_000)).toEqual({ has: 100_000, whole: false });
    expect(await piece(0, 100_000)).toEqual({ has: 100_000, whole: false });
    expect(await piece(200_000, 300_000)).toEqual({ has: 100_000, whole: false });
    expect(await arrived(maren, at)).toEqual({ has: 100_000, whole: false });
    await send(JPEG, fileId, 100_000);
    expect(await arrived(maren, at)).toEqual({ has: JPEG.length, whole: true });
    expect((await keptFile(maren, at)).content.equals(JPEG)).toBe(true);
    expect(await piece(0, 100_000)).toEqual({ has: JPEG.length, whole: true });
    expect(await refusal(arrived(stranger, at))).toMatchObject({ code: "notFound" });
    const past = { from: 10, of: 5, piece: Buffer.alloc(4) };
    expect(await refusal(takePiece(maren, { siteId, fileId: randomUUID() }, async () => past))).toMatchObject({
      code: "badRequest",
    });
  });
});
