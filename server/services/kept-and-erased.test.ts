import { gunzipSync } from "node:zlib";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { learningRequest } from "../../contracts/learning.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import { beginSecondStep } from "../auth/second-step.ts";
import type { InSession } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { insertReadings } from "../db/field.ts";
import { closeListening } from "../db/listen.ts";
import { ensureMonths } from "../db/months.ts";
import { inOrganisation } from "../db/reach.ts";
import { userOfSession } from "../db/users.ts";
import { endHeavy } from "../heavy/pool.ts";
import { tidy } from "../jobs/house.ts";
import { runLearning } from "../jobs/learning-run.ts";
import { actOnAlarm } from "./alarms.ts";
import { setField } from "./field.ts";
import { startLearning } from "./learning.ts";
import { keepDevice } from "./library.ts";
import { logBook, takeBenchNight } from "./log-book.ts";
import { auditCsv, auditList, erase, exportEverything, keepFor, organisationView } from "./organisation.ts";
import { describeProfile } from "./profiles.ts";
import { exportSite, importSite } from "./sites.ts";
import { INVENTED } from "../../core/profiles/profile.ts";
import { invite } from "./people.ts";

let maren: InSession;
let stranger: InSession;
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
afterAll(async () => {
  await endHeavy();
  await closeListening();
  await closeDatabase();
});

const DAY_MS = 86_400_000;
const NOW = Date.parse("2026-11-20T12:00:00Z");
const ago = (days: number): string => new Date(NOW - days * DAY_MS).toISOString();
let count = 0;
const siteOf = (user: InSession) =>
  importSite(user, JSON.stringify(smallSite((s) => Object.assign(s.site, { id: `kept-${++count}` }))));
/** One reading and one event so many days ago, at noon and a second after. */
async function lived(user: InSession, siteId: string, days: number): Promise<void> {
  const of = { organisationId: user.organisationId, siteId };
  const at = [ago(days), new Date(Date.parse(ago(days)) + 1000).toISOString()];
  await insertReadings(
    { ...of, stream: "s" },
    at.map((t, i) => ({ at: t, seq: days * 2 + i, open: [], valves: [], pumps: [] })),
    at.map((t, i) => ({ at: t, seq: days * 2 + i, sensorId: "fs", quantity: "flow", value: 10 + 20 * i })),
  );
  await ensureMonths("site_event", at);
  await db()("site_event").insert({
    ...of,
    at: at[0],
    type: "open",
    subjectId: "s1",
    reason: "",
    stream: "s",
    seq: days,
  });
}
const daysLeft = async (table: string, siteId: string): Promise<number[]> => {
  const rows: { at: Date }[] = await db()(table).where({ siteId }).orderBy("at", "desc").select("at");
  return [...new Set(rows.map((r) => Math.round((NOW - r.at.getTime()) / DAY_MS)))];
};

describe("what an organisation no longer wants kept", () => {
  it("is rolled up by hours and days and goes; another's stays, and nothing goes while nobody says so", async () => {
    const [mine, theirs] = [await siteOf(maren), await siteOf(stranger)];
    for (const days of [1, 40, 100, 400])
      for (const [u, s] of [
        [maren, mine],
        [stranger, theirs],
      ] as const)
        await lived(u, s.id, days);
    await tidy(new Date(NOW));
    expect(await daysLeft("reading", mine.id)).toEqual([1, 40, 100, 400]);
    await keepFor(maren, { readingsDays: 60, eventsDays: 200, photosDays: 31 });
    expect((await organisationView(maren)).keeping).toEqual({ readingsDays: 60, eventsDays: 200, photosDays: 31 });
    await tidy(new Date(NOW));
    await tidy(new Date(NOW));
    expect(await daysLeft("reading", mine.id)).toEqual([1, 40]);
    expect(await daysLeft("field_instant", mine.id)).toEqual([1, 40]);
    expect(await daysLeft("site_event", mine.id)).toEqual([1, 40, 100]);
    for (const table of ["reading", "field_instant", "site_event"])
      expect(await daysLeft(table, theirs.id)).toEqual([1, 40, 100, 400]);
    const hours = await db()("reading_hour").where({ siteId: mine.id }).orderBy("hour");
    expect(hours.map((h) => [h.count, h.mean, h.least, h.most])).toEqual([
      [2, 20, 10, 30],
      [2, 20, 10, 30],
    ]);
    expect(await db()("event_day").where({ siteId: mine.id })).toMatchObject([
      { type: "open", subjectId: "s1", count: 1 },
    ]);
  });
  it("is a photograph of an old alarm, whose entry stays", async () => {
    const site = await siteOf(maren);
    const faults = [{ at: "+60", kind: "brokenLateral", subjectId: "s1", size: 90 }];
    await takeBenchNight(maren, site.id, { date: "2026-07-14", faults, seed: 1, exact: true });
    const [alarm] = (await logBook(maren, site.id)).alarms;
    const png = "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg==";
    await actOnAlarm(maren, site.id, alarm?.id as string, { action: "photo", data: png, type: "image/png", words: "" });
    const entry = { alarmId: alarm?.id, action: "photo" };
    await db()("alarm_entry")
      .where(entry)
      .update({ at: ago(40) });
    await tidy(new Date(NOW));
    expect(await db()("alarm_entry").where(entry).select("photo", "photo_type")).toEqual([
      { photo: null, photoType: "image/png" },
    ]);
  });
});

const everything = async (user: InSession): Promise<{ table: string; row: Record<string, unknown> }[]> => {
  const packed = new Uint8Array(await new Response(await exportEverything(user)).arrayBuffer());
  return gunzipSync(packed)
    .toString()
    .trim()
    .split("\n")
    .map((line) => JSON.parse(line));
};

describe("everything of an organisation", () => {
  it("goes out whole, without passwords and other keys to the door, and without a row of another's", async () => {
    await invite(maren, { email: `kept-${maren.organisationId}@test.example`, role: "viewer" }, new Date());
    await beginSecondStep({ ...maren, id: maren.userId });
    const rows = await everything(maren);
    const of = (table: string) => rows.filter((r) => r.table === table).map((r) => r.row);
    expect(of("organisation")).toMatchObject([{ id: maren.organisationId }]);
    expect(of("app_user")).toMatchObject([{ email: maren.email }]);
    expect(of("revision").length).toBeGreaterThan(1);
    expect(of("reading")).toHaveLength(4);
    for (const { row } of rows.slice(1)) expect(row["organisation_id"]).toBe(maren.organisationId);
    const text = JSON.stringify(rows);
    expect(text).not.toContain("password_hash");
    for (const key of ["invitation", "two_factor", "recovery_code", "session"]) expect(of(key), key).toEqual([]);
    expect(text).not.toContain(stranger.organisationId);
  });
  it("goes out once at a time; one that nobody takes is let go", async () => {
    const held = await exportEverything(stranger);
    expect((await refusal(exportEverything(stranger))).code).toBe("busy");
    await held.cancel();
    await expect
      .poll(() =>
        exportEverything(stranger).then(
          (s) => s.cancel(),
          (e) => e.code,
        ),
      )
      .toBeUndefined();
  });
});

describe("the audit", () => {
  it("says who did what, filtered, and as CSV; it is the organisation's own and cannot be changed from within", async () => {
    const site = await siteOf(maren);
    await exportSite(maren, site.id);
    await setField(maren, site.id);
    const { rows } = await auditList(maren, {});
    expect(rows.slice(0, 2).map((r) => [r.what, r.who, r.about])).toEqual([
      ["gatewayOpened", "maren", site.file.site.name],
      ["exportedSite", "maren", site.file.site.name],
    ]);
    const only = await auditList(maren, { what: "keepingChanged" });
    expect(only.rows.map((r) => r.about)).toEqual(["readings 60 days, events 200 days, photographs 31 days"]);
    expect((await auditList(stranger, { what: "keepingChanged" })).rows).toEqual([]);
    expect(await auditCsv(maren, { who: "maren" })).toContain("gave a gateway its account");
    for (const attempt of [() => db()("audit").delete(), () => db()("audit").update({ who: "nobody" })])
      await expect(inOrganisation(maren.organisationId, attempt)).rejects.toThrow(/permission denied/);
  });
});

describe("an organisation that is erased", () => {
  it("is gone from every table, its people are signed out, and only that it was done is noted; others keep all", async () => {
    const site = await siteOf(maren);
    await keepDevice(maren, {
      name: "Meter 40",
      note: "",
      body: { kind: "meter", continuousMaxLpm: 400, safeMaxLpm: 600 },
    });
    const { id: _, ...profile } = INVENTED[1] as (typeof INVENTED)[number];
    await describeProfile(maren, { ...profile, name: "Ours" });
    const ask = learningRequest.parse({ stationIds: null, faults: [], seed: 2, pace: 0, date: "2026-07-14" });
    await runLearning((await startLearning(maren, site.id, ask)).runId);
    const before = await everything(stranger);
    const name = (await organisationView(maren)).name;
    const password = "a password for tests";
    expect((await refusal(erase(maren, { name: "Another", password }))).message).toContain(`it is ${name}`);
    expect((await refusal(erase(maren, { name, password: "wrong" }))).message).toContain("not your password");
    expect(await userOfSession(maren.sessionId)).not.toBeNull();
    await erase(maren, { name, password });
    expect(await userOfSession(maren.sessionId)).toBeNull();
    const { rows: tables } = await db().raw(
      "select table_name as name from information_schema.columns where column_name = 'organisation_id' and table_schema = 'public' and table_name <> 'erasure'",
    );
    for (const { name: table } of tables as { name: string }[])
      expect([table, await db()(table).where({ organisationId: maren.organisationId })]).toEqual([table, []]);
    expect(await db()("erasure").where({ organisationId: maren.organisationId })).toMatchObject([
      { organisation: name, askedBy: `maren, ${maren.email}` },
    ]);
    const after = await everything(stranger);
    expect(after.filter((r) => r.table !== "audit")).toEqual(before.filter((r) => r.table !== "audit"));
  });
});
