import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import type { VisitEntry } from "../../contracts/visits.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import { asUser, type InSession } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { closeListening } from "../db/listen.ts";
import { insertUser } from "../db/users.ts";
import { endHeavy } from "../heavy/pool.ts";
import { calendar, calendarFeed, endAddress, makeAddress } from "./calendar.ts";
import { changeVisitSetup, noteDutyDone, siteDue, takeDutyOut, visitSetup } from "./duties.ts";
import { workOutAhead } from "./nights-ahead.ts";
import { makeDueRounds } from "./rounds-ahead.ts";
import { importSite } from "./sites.ts";
import { changeTodo, makeTodo, siteTodos } from "./todos.ts";
import { beginVisit, enterVisit, visitBook } from "./visits.ts";

let maren: InSession;
let stranger: InSession;
let siteId: string;
let count = 0;
const NOW = new Date("2026-07-15T12:00:00Z");
const NOBODY = crypto.randomUUID();

beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
beforeEach(async () => {
  const file = smallSite((s) => {
    s.site.id = `visits-${Date.now()}-${++count}`;
    s.pocs[0]?.devices.push({ id: "rp", kind: "backflow", name: "Vault", lossPoints: [{ flowLpm: 0, lossKpa: 40 }] });
    s.programs[0] = { ...(s.programs[0] as (typeof s.programs)[number]), from: "2026-07-01", until: "2026-07-20" };
  });
  siteId = (await importSite(maren, JSON.stringify(file))).id;
  await db()("site")
    .where({ id: siteId })
    .update({ createdAt: new Date("2025-03-05T12:00:00Z") });
});
afterAll(async () => {
  await endHeavy();
  await closeListening();
  await closeDatabase();
});

const begun = (checklistId = "spring") => ({ id: crypto.randomUUID(), checklistId, begunAt: "2026-07-15T09:00:00Z" });
const looked = (lineId: string, more: Partial<VisitEntry> = {}): VisitEntry => ({
  id: crypto.randomUUID(),
  lineId,
  state: "ok",
  note: "",
  photoIds: [],
  at: "2026-07-15T09:10:00Z",
  doneOf: [],
  todo: null,
  ...more,
});
const enter = (visitId: string, entries: VisitEntry[], more: { endedAt?: string; note?: string } = {}, who = maren) =>
  enterVisit(who, siteId, visitId, { entries, endedAt: null, ...more }, NOW);
const reasons = async (): Promise<string[]> => {
  await makeDueRounds(NOW);
  const row: { reasons: { words: string }[] } = await db()("site_round").where({ siteId }).first("reasons");
  return row.reasons.map((r) => r.words);
};

describe("a visit", () => {
  it("is begun once, keeps the newest of each line and none less, and ends", async () => {
    const visit = begun();
    await beginVisit(maren, siteId, visit, NOW);
    await beginVisit(maren, siteId, visit, NOW);
    const first = looked("clock");
    await enter(visit.id, [first, looked("pump", { state: "left" })]);
    await enter(visit.id, [
      first,
      looked("clock", { state: "problem", note: "an hour slow", at: "2026-07-15T09:20:00Z" }),
    ]);
    // Sent late by a phone: older than what is there.
    await enter(visit.id, [looked("clock", { at: "2026-07-15T09:15:00Z" })], {
      endedAt: "2026-07-15T10:00:00Z",
      note: "dry",
    });
    const { visits } = await visitBook(maren, siteId);
    expect(visits).toHaveLength(1);
    expect(visits[0]).toMatchObject({
      name: "Spring start",
      mine: true,
      by: "maren",
      note: "dry",
      endedAt: "2026-07-15T10:00:00.000Z",
    });
    expect(visits[0]?.looked.map((l) => [l.lineId, l.state, l.note]).sort()).toEqual([
      ["clock", "problem", "an hour slow"],
      ["pump", "left", ""],
    ]);
    expect(await db()("visit_entry").where({ visitId: visit.id })).toHaveLength(4);
  });
  it("what is not in order is to do, once, until it is done; Rounds says so, and by its day that it is overdue", async () => {
    const visit = begun("monthly");
    await beginVisit(maren, siteId, visit, NOW);
    const bad = looked("boxes", {
      state: "problem",
      todo: { words: "Lid of box 4", ownerId: maren.userId, due: "2026-07-14" },
    });
    await enter(visit.id, [bad]);
    await enter(visit.id, [bad]);
    const [todo, ...none] = await siteTodos(maren, siteId);
    expect(none).toEqual([]);
    expect(todo).toMatchObject({
      words: "Lid of box 4",
      owner: "maren",
      due: "2026-07-14",
      visitId: visit.id,
      madeAt: "2026-07-15T09:10:00.000Z",
      done: null,
    });
    expect(await reasons()).toContain("to do, overdue: Lid of box 4");
    await changeTodo(maren, siteId, todo?.id as string, { version: 1, due: "2026-07-30" }, NOW);
    expect(await reasons()).toContain("1 to do");
    const late = await refusal(changeTodo(maren, siteId, todo?.id as string, { version: 1, done: { words: "" } }, NOW));
    expect([late.code, late.message]).toEqual([
      "conflict",
      expect.stringMatching(/has changed meanwhile: Lid of box 4/),
    ]);
    await changeTodo(maren, siteId, todo?.id as string, { version: 2, done: { words: "new lid" } }, NOW);
    expect((await siteTodos(maren, siteId))[0]?.done).toEqual({ at: NOW.toISOString(), by: "maren", words: "new lid" });
    expect((await reasons()).filter((r) => /to do/.test(r))).toEqual([]);
  });
  it("what was done anew counts from that day, of what it was done", async () => {
    const due = async (): Promise<[string, string | null, string][]> =>
      (await siteDue(maren, siteId)).due.map((d) => [d.duty, d.last, d.on]);
    expect(await due()).toEqual([
      ["battery", null, "2026-03-05"],
      ["backflow", null, "2026-03-05"],
    ]);
    expect(await reasons()).toEqual(
      expect.arrayContaining([
        `backflow test overdue since 2026-03-05: ${smallSite().pocs[0]?.name}`,
        expect.stringMatching(/^backup battery overdue since 2026-03-05: /),
      ]),
    );
    const visit = begun();
    await beginVisit(maren, siteId, visit, NOW);
    const renewed = looked("battery", { state: "done", doneOf: ["ctl"], at: "2026-07-14T23:00:00Z" });
    await enter(visit.id, [renewed, looked("backflow")]);
    await enter(visit.id, [renewed]);
    expect(await due()).toEqual([
      ["backflow", null, "2026-03-05"],
      ["battery", "2026-07-15", "2027-07-15"],
    ]);
    const noted = {
      id: crypto.randomUUID(),
      duty: "backflow" as const,
      subjectId: "rp",
      on: "2026-06-30",
      words: "passed",
    };
    await noteDutyDone(maren, siteId, noted, NOW);
    await noteDutyDone(maren, siteId, noted, NOW);
    expect((await due()).at(-1)).toEqual(["battery", "2026-07-15", "2027-07-15"]);
    expect((await siteDue(maren, siteId)).done).toHaveLength(2);
    expect((await reasons()).join()).not.toMatch(/overdue/);
    await takeDutyOut(maren, siteId, noted.id);
    expect((await due())[0]).toEqual(["backflow", null, "2026-03-05"]);
  });
  it("is refused in words: of another's visit, of lines and days that are not, of people that are not here", async () => {
    const visit = begun();
    await beginVisit(maren, siteId, visit, NOW);
    const code = async (work: Promise<unknown>): Promise<string> => (await refusal(work)).code;
    expect(await code(visitBook(stranger, siteId))).toBe("notFound");
    expect(await code(enter(visit.id, [], {}, stranger))).toBe("notFound");
    expect(await code(enter(NOBODY, []))).toBe("notFound");
    expect(await code(enter(visit.id, [looked("nothing")]))).toBe("badRequest");
    expect(await code(enter(visit.id, [looked("clock", { at: "2026-07-16T09:00:00Z" })]))).toBe("badRequest");
    expect(await code(enter(visit.id, [], { endedAt: "2026-07-15T08:00:00Z" }))).toBe("badRequest");
    // An instant, however its zone is written.
    expect(await code(enter(visit.id, [], { endedAt: "2026-07-15T10:30:00+02:00" }))).toBe("badRequest");
    await enter(visit.id, [], { endedAt: "2026-07-15T08:30:00-02:00" });
    expect((await visitBook(maren, siteId)).visits[0]?.endedAt).toBe("2026-07-15T10:30:00.000Z");
    const theirs = { words: "x", ownerId: stranger.userId, due: null };
    expect(await code(enter(visit.id, [looked("clock", { state: "problem", todo: theirs })]))).toBe("badRequest");
    expect((await visitBook(maren, siteId)).visits[0]?.looked).toEqual([]);
    expect(await code(beginVisit(maren, siteId, begun("none"), NOW))).toBe("badRequest");
    const noted = { id: crypto.randomUUID(), words: "" };
    for (const no of [
      { duty: "sensorProof" as const, subjectId: "fs", on: "2026-07-01" },
      { duty: "backflow" as const, subjectId: "none", on: "2026-07-01" },
      { duty: "backflow" as const, subjectId: "rp", on: "2026-07-16" },
    ])
      expect(await code(noteDutyDone(maren, siteId, { ...noted, ...no }, NOW))).toBe("badRequest");
    const passwordHash = "none";
    const tolly = { ...maren, name: "tolly", role: "technician" as const };
    const email = `tolly-${crypto.randomUUID()}@test.example`;
    tolly.userId = await insertUser({ ...tolly, email, passwordHash });
    expect((await refusal(enter(visit.id, [], {}, tolly))).message).toBe(
      "This visit is maren's. Begin one of your own.",
    );
  });
});

describe("what an organisation looks at and asks for", () => {
  it("is the usual until it writes its own; of two who write at once the second is told", async () => {
    const usual = await visitSetup(stranger);
    expect([usual.version, usual.checklists.length]).toEqual([0, 4]);
    const duties = { ...usual.duties, winter: { asked: true, onDay: "10-31" }, battery: { asked: false, months: 12 } };
    const own = { ...usual, duties, checklists: usual.checklists.slice(0, 1) };
    const kept = await changeVisitSetup(stranger, own);
    expect(kept).toMatchObject({ version: 1, duties });
    expect((await refusal(changeVisitSetup(stranger, own))).code).toBe("conflict");
    expect((await changeVisitSetup(stranger, { ...kept, checklists: usual.checklists })).version).toBe(2);
    expect((await visitSetup(maren)).version).toBe(0);
    const file = smallSite((s) => Object.assign(s.site, { id: `asked-${Date.now()}` }));
    const { id } = await importSite(stranger, JSON.stringify(file));
    expect((await siteDue(stranger, id)).due.map((d) => d.duty)).toEqual(["winter"]);
    // What is asked of every site is asked of Rounds anew.
    await makeDueRounds(NOW);
    await changeVisitSetup(stranger, { ...(await visitSetup(stranger)), duties: usual.duties });
    expect(await db()("round_due").where({ siteId: id })).toHaveLength(1);
  });
});

describe("the calendar", () => {
  const month = { from: "2026-07-01", to: "2026-07-31" };
  const mine = async (who = maren): Promise<string[]> =>
    (await calendar(who, month, NOW)).entries.filter((e) => e.siteId === siteId).map((e) => `${e.on} ${e.words}`);
  it("has every site's visits, things to do, due days and dates; read from outside by a secret address, until another is made", async () => {
    await beginVisit(maren, siteId, { ...begun("monthly"), begunAt: "2026-07-14T22:30:00Z" }, NOW);
    await makeTodo(
      maren,
      siteId,
      {
        id: crypto.randomUUID(),
        words: "Lid; of box 4",
        ownerId: maren.userId,
        due: "2026-07-20",
        subjectId: null,
        photoIds: [],
      },
      NOW,
    );
    await makeDueRounds(NOW);
    const name = smallSite().programs[0]?.name;
    expect(await mine()).toEqual([
      `2026-07-01 ${name} begins`,
      "2026-07-15 Monthly, maren",
      `2026-07-20 ${name}: last day`,
      "2026-07-20 Lid; of box 4 (maren)",
    ]);
    expect(await asUser(stranger, () => mine(stranger))).toEqual([]);
    const { path } = await makeAddress(maren);
    const secret = path.split("/").at(-1) as string;
    const feed = await calendarFeed(secret, NOW);
    expect(feed).toMatch(/^BEGIN:VCALENDAR/);
    expect(feed).toContain("DTSTART;VALUE=DATE:20260720");
    expect(feed.replace(/\r\n /g, "")).toContain("Lid\\; of box 4 (maren)");
    const events = feed.match(/BEGIN:VEVENT/g)?.length ?? 0;
    expect(new Set(feed.match(/^UID:.*$/gm)).size).toBe(events);
    const { path: other } = await makeAddress(maren);
    expect((await refusal(calendarFeed(secret, NOW))).code).toBe("notFound");
    const now = other.split("/").at(-1) as string;
    expect(await calendarFeed(now, NOW)).toContain("BEGIN:VEVENT");
    await endAddress(maren);
    expect((await refusal(calendarFeed(now, NOW))).code).toBe("notFound");
  });
  it("tells whoever sees some sites only of those alone, from outside too", async () => {
    await makeDueRounds(NOW);
    const email = `own-${crypto.randomUUID()}@test.example`;
    const limited = { ...maren, name: "own", email, role: "technician" as const, ownSitesOnly: true };
    limited.userId = await insertUser({ ...limited, passwordHash: "none" });
    await db()("app_user").where({ id: limited.userId }).update({ ownSitesOnly: true });
    const { path } = await makeAddress(limited);
    expect(await calendarFeed(path.split("/").at(-1) as string, NOW)).not.toContain("BEGIN:VEVENT");
    expect((await asUser(limited, () => calendar(limited, month, NOW))).entries).toEqual([]);
  });
});

describe("the nights ahead", () => {
  it("are worked out once a day and revision, and stand in the calendar where they are full", async () => {
    const short = smallSite((s) => {
      s.site.id = `ahead-${Date.now()}`;
      s.programs[0] = {
        ...(s.programs[0] as (typeof s.programs)[number]),
        days: { type: "weekdays", days: ["mon", "tue", "wed", "thu", "fri", "sat", "sun"] },
        windows: [{ from: "22:00", to: "22:15" }],
      };
    });
    const id = (await importSite(maren, JSON.stringify(short))).id;
    await makeDueRounds(NOW);
    while ((await workOutAhead()) > 0);
    expect(await workOutAhead()).toBe(0);
    const { entries } = await calendar(maren, { from: "2026-07-15", to: "2026-07-31" }, NOW);
    const full = entries.filter((e) => e.what === "night" && e.siteId === id);
    expect(full.map((e) => e.on)).toEqual([
      "2026-07-15",
      "2026-07-16",
      "2026-07-17",
      "2026-07-18",
      "2026-07-19",
      "2026-07-20",
      "2026-07-21",
    ]);
    expect(full[0]?.words).toMatch(/^full night, \d+ min short$/);
    const strange = await calendar(stranger, { from: "2026-07-15", to: "2026-07-31" }, NOW);
    expect(strange.entries.some((e) => e.siteId === id)).toBe(false);
  });
});
