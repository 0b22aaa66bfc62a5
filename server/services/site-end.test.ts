import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { roundsMade } from "../../testing/rounds-made.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import { asUser, type InSession } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { actOnAlarm, alarmList } from "./alarms.ts";
import { compareRevisions, compareSites } from "./comparison.ts";
import { takeBenchNight } from "./log-book.ts";
import { archive, archiveView, deleteSite, fileOfDeletedSite, sitesDeleted } from "./site-end.ts";
import { amendSite, createFrom, importSite, loadSite, saveSite } from "./sites.ts";

let maren: InSession;
let stranger: InSession;
let count = 0;
const site = async (name: string): Promise<string> => {
  const file = smallSite((s) => {
    s.site.id = `end${++count}`;
    s.site.name = name;
    Object.assign(s.stations[0] as object, { learned: { meanLpm: 99, sdLpm: 1, at: "2026-05-02T10:00:00.000Z" } });
  });
  return (await importSite(maren, JSON.stringify(file))).id;
};
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
afterAll(closeDatabase);
const now = new Date();

describe("a site begun from another", () => {
  it("has what is built and set there under a name of its own, and nothing that was learned", async () => {
    const from = await site("Pattern");
    const made = await createFrom(maren, { from, name: " Thistle Court ", timeZone: "Europe/Oslo" }, "begun-once");
    expect(made.file.site).toMatchObject({ name: "Thistle Court", timeZone: "Europe/Oslo" });
    expect(made.file.stations).toHaveLength(3);
    expect(made.file.stations[0]?.learned).toBeUndefined();
    expect((await createFrom(maren, { from, name: "Thistle Court", timeZone: "Europe/Oslo" }, "begun-once")).id).toBe(
      made.id,
    );
    const [revision] = await db()("revision").where({ siteId: made.id }).select("note");
    expect(revision.note).toBe("Begun from Pattern");
  });
  it("is begun from no other organisation's", async () => {
    const from = await site("Ours");
    const asked = createFrom(stranger, { from, name: "Theirs", timeZone: "Europe/Oslo" });
    expect((await refusal(asked)).code).toBe("notFound");
  });
});

describe("a comparison in words", () => {
  it("is of any two revisions, either way, and of two sites by what is called alike", async () => {
    const id = await site("Compared");
    const { file } = await loadSite(maren, id);
    const changed = { ...file, policy: { ...file.policy, highPercent: 33 } };
    await saveSite(maren, id, { baseVersion: 1, file: changed, note: "" });
    const [forward, back] = [await compareRevisions(maren, id, 1, 2), await compareRevisions(maren, id, 2, 1)];
    expect(forward.changes).toHaveLength(1);
    expect(back.changes[0]?.words).not.toBe(forward.changes[0]?.words);
    expect((await refusal(compareRevisions(maren, id, 1, 9))).message).toContain("no revision 9");
    const { id: other } = await createFrom(maren, { from: id, name: "Its like", timeZone: "Europe/Vienna" });
    const { from, to, changes } = await compareSites(maren, id, other);
    expect([from, to]).toEqual(["Compared", "Its like"]);
    expect(changes.map((c) => c.words).join("\n")).toContain("learned");
    expect(changes.some((c) => c.words.includes("removed"))).toBe(false);
  });
  it("is not made with another organisation's site, nor of it", async () => {
    const id = await site("Private");
    expect((await refusal(compareSites(stranger, id, id))).code).toBe("notFound");
    expect((await refusal(compareRevisions(stranger, id, 1, 1))).code).toBe("notFound");
  });
});

describe("a site that is archived", () => {
  it("is kept, changed by nobody, and found among the archived only; brought back it is as before", async () => {
    const id = await site("Old Yard");
    expect(await archive(maren, id, true)).toEqual({ archived: true });
    const names = async (query: object) => (await roundsMade(maren, now, query)).map((r) => r.name);
    expect(await names({ find: "Old Yard" })).toEqual([]);
    expect(await names({ only: "archived" })).toEqual(["Old Yard"]);
    const { file } = await loadSite(maren, id);
    const changed = { ...file, site: { ...file.site, description: "x" } };
    expect((await refusal(saveSite(maren, id, { baseVersion: 1, file: changed, note: "" }))).message).toContain(
      "archived",
    );
    // What the server itself enters is a change like any other.
    expect((await refusal(amendSite(maren, id, "learned", () => changed))).message).toContain("archived");
    await archive(maren, id, false);
    expect(await archiveView(maren, id)).toEqual({ archived: false });
    expect(await names({ find: "Old Yard" })).toEqual(["Old Yard"]);
    expect((await saveSite(maren, id, { baseVersion: 1, file: changed, note: "" })).version).toBe(2);
  });
  it("is not another organisation's to archive", async () => {
    expect((await refusal(archive(stranger, await site("Mine"), true))).code).toBe("notFound");
  });
});

describe("a site that is deleted", () => {
  it("goes with everything of it, whoever deletes it behind the fence; its file is kept", async () => {
    const id = await site("Gone Field");
    const other = await site("Stays");
    for (const of of [id, other])
      await takeBenchNight(maren, of, {
        date: "2026-07-14",
        faults: [{ at: "+60", kind: "brokenLateral", subjectId: "s1", size: 90 }],
        seed: 1,
        exact: true,
      });
    const [alarm] = (await alarmList(maren, {})).alarms.filter((a) => a.siteId === id);
    await actOnAlarm(maren, id, alarm?.id as string, { action: "note", words: "seen" });
    await roundsMade(maren, now);
    expect((await refusal(deleteSite(maren, id, "Gone"))).message).toContain("it is Gone Field");
    expect((await refusal(deleteSite(stranger, id, "Gone Field"))).code).toBe("notFound");
    await asUser(maren, () => deleteSite(maren, id, "Gone Field"));
    const { rows } = await db().raw(
      `select table_name as name from information_schema.columns where column_name = 'site_id' and table_schema = 'public'`,
    );
    for (const { name } of rows) expect([name, await db()(name).where({ siteId: id }).limit(1)]).toEqual([name, []]);
    expect((await refusal(loadSite(maren, id))).code).toBe("notFound");
    expect((await loadSite(maren, other)).file.site.name).toBe("Stays");
    const [deleted] = (await sitesDeleted(maren)).sites;
    expect(deleted).toMatchObject({ name: "Gone Field", deletedBy: "maren" });
    const { name, text } = await fileOfDeletedSite(maren, deleted?.id as string);
    expect(name).toBe("Gone_Field.presa.json");
    expect((await importSite(maren, text)).file.site.name).toBe("Gone Field");
    expect((await sitesDeleted(stranger)).sites).toEqual([]);
    expect((await refusal(fileOfDeletedSite(stranger, deleted?.id as string))).code).toBe("notFound");
  });
});
