import { afterAll, beforeAll, describe, expect, it, vi } from "vitest";
import { roundsMade } from "../../testing/rounds-made.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import { asUser, type InSession } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { closeListening } from "../db/listen.ts";
import { asOperator } from "../db/reach.ts";
import { userOfSession } from "../db/users.ts";
import { endHeavy } from "../heavy/pool.ts";
import { actOnAlarm, alarmList } from "./alarms.ts";
import { giveGroupName, groupsView, sortSite } from "./groups.ts";
import { takeBenchNight } from "./log-book.ts";
import { actOnPerson, invite, joinBy, peopleView, sitesOfPerson } from "./people.ts";
import { nowOfOwnSites, siteList } from "./rounds.ts";
import { createSite, importSite, loadSite } from "./sites.ts";

const jar = vi.hoisted(() => new Map<string, string>());
vi.mock("next/headers", () => ({
  cookies: async () => ({
    get: (name: string) => (jar.has(name) ? { name, value: jar.get(name) } : undefined),
    set: (name: string, value: string) => void (value === "" ? jar.delete(name) : jar.set(name, value)),
  }),
}));

const NOW = new Date("2026-07-14T10:00:00Z");
let maren: InSession;
let stranger: InSession;
let tolly: InSession;
const sites: string[] = [];
beforeAll(async () => {
  process.env["SESSION_SECRET"] ??= "0123456789abcdef0123456789abcdef";
  [maren, stranger] = await twoPeople();
  for (const id of ["a", "b", "c"]) {
    const file = smallSite((s) => Object.assign(s.site, { id: `grouped-${id}`, name: `Site ${id}` }));
    sites.push((await importSite(maren, JSON.stringify(file))).id);
    const night = { date: "2026-07-14", seed: 1, exact: true };
    const faults = [{ at: "+60", kind: "brokenLateral" as const, subjectId: "s1", size: 90 }];
    await takeBenchNight(maren, sites.at(-1) as string, { ...night, faults });
  }
  const { token } = await invite(maren, { email: `t-${maren.organisationId}@test.example`, role: "technician" }, NOW);
  tolly = await joinBy(token, { name: "Tolly", password: "four words and more" }, { address: "x", agent: null }, NOW);
});
afterAll(async () => {
  await endHeavy();
  await closeListening();
  await closeDatabase();
});
const [A, B, C] = [0, 1, 2] as const;
const site = (i: number): string => sites[i] as string;

describe("sites in groups", () => {
  it("are put there by name; the same name, whatever its capitals, is the same group", async () => {
    await sortSite(maren, site(A), { client: "Verge Parish", crew: "North" });
    const { groups, sites: sorted } = await sortSite(maren, site(B), { client: "verge parish", area: "Hill" });
    expect(groups.map((g) => [g.kind, g.name, g.sites])).toEqual([
      ["area", "Hill", 1],
      ["client", "Verge Parish", 2],
      ["crew", "North", 1],
    ]);
    expect(sorted.find((s) => s.id === site(B))).toMatchObject({ client: "Verge Parish", area: "Hill", crew: null });
    expect((await groupsView(stranger)).groups).toEqual([]);
    expect((await refusal(sortSite(stranger, site(A), { client: null }))).code).toBe("notFound");
  });
  it("leave what was not asked about; a group that is left empty goes", async () => {
    const { groups, sites: sorted } = await sortSite(maren, site(B), { area: null });
    expect(groups.map((g) => g.kind)).toEqual(["client", "crew"]);
    expect(sorted.find((s) => s.id === site(B))).toMatchObject({ client: "Verge Parish", area: null });
  });
  it("keep their group under another name; a name that is there already is refused", async () => {
    const client = (await groupsView(maren)).groups.find((g) => g.kind === "client")?.id ?? "";
    expect((await giveGroupName(maren, client, "Verge Town")).sites[0]?.client).toBe("Verge Town");
    await sortSite(maren, site(C), { client: "Another" });
    await expect(giveGroupName(maren, client, "another")).rejects.toMatchObject({ code: "23505" });
    expect((await refusal(giveGroupName(stranger, client, "Mine"))).code).toBe("notFound");
  });
});

describe("somebody who sees some sites only", () => {
  const asTolly = async <T>(work: (user: InSession) => Promise<T>): Promise<T> => {
    const row = await userOfSession(tolly.sessionId);
    const user = { ...tolly, ownSitesOnly: row?.ownSitesOnly ?? false };
    return asUser(user, () => work(user));
  };
  it("is given them by a manager, and sees them, their alarms and their groups, and nothing of others", async () => {
    expect(await sitesOfPerson(maren, tolly.userId)).toEqual({ siteIds: null });
    expect((await refusal(sitesOfPerson(stranger, tolly.userId))).code).toBe("notFound");
    expect((await asTolly(siteList)).sites).toHaveLength(3);
    await actOnPerson(maren, tolly.userId, { action: "sites", siteIds: [site(A), site(C), site(A)] }, NOW);
    expect((await peopleView(maren, NOW)).people.find((p) => p.id === tolly.userId)?.sites).toBe(2);
    expect(new Set((await sitesOfPerson(maren, tolly.userId)).siteIds)).toEqual(new Set([site(A), site(C)]));
    expect((await asTolly(siteList)).sites.map((s) => s.name)).toEqual(["Site a", "Site c"]);
    expect((await asTolly((u) => roundsMade(u, NOW))).map((r) => r.name).sort()).toEqual(["Site a", "Site c"]);
    const alarms = await asTolly((u) => alarmList(u, {}));
    expect(new Set(alarms.alarms.map((a) => a.siteId))).toEqual(new Set([site(A), site(C)]));
    expect((await asTolly(groupsView)).groups.map((g) => [g.name, g.sites])).toEqual([
      ["Another", 1],
      ["Verge Town", 1],
      ["North", 1],
    ]);
    await asTolly(async (u) => expect((await refusal(loadSite(u, site(B)))).code).toBe("notFound"));
    await asTolly(async (u) => expect((await loadSite(u, site(A))).id).toBe(site(A)));
  });
  it("is shown no row of another site by any table, whatever is asked; nor writes one", async () => {
    for (const i of [A, B]) {
      const alarm = (await alarmList(maren, {})).alarms.find((a) => a.siteId === site(i));
      await actOnAlarm(maren, site(i), alarm?.id ?? "", { action: "acknowledge" });
    }
    const { rows } = await asOperator(() =>
      db().raw(`select c.relname as name from pg_class c join pg_attribute a on a.attrelid = c.oid
        where c.relnamespace = 'public'::regnamespace and c.relkind in ('r', 'p') and not c.relispartition
        and a.attname = 'site_id' and not a.attisdropped and c.relname <> 'site_person'`),
    );
    expect(rows.length).toBeGreaterThan(15);
    await asTolly(async () => {
      for (const { name } of rows as { name: string }[])
        expect(
          await db()(name)
            .where({ siteId: site(B) })
            .select("siteId"),
          name,
        ).toEqual([]);
      expect(
        await db()("element")
          .where({ siteId: site(A) })
          .select("siteId"),
      ).not.toEqual([]);
      expect(
        await db()("site")
          .where({ id: site(B) })
          .update({ name: "mine" }),
      ).toBe(0);
      const entries = await db()("alarm_entry as e").join("alarm as a", "a.id", "e.alarmId").select("a.siteId");
      expect(new Set(entries.map((e) => e.siteId))).toEqual(new Set([site(A)]));
      expect(await db()("alarm_entry").select("alarmId")).toHaveLength(entries.length);
    });
    const row = {
      organisationId: maren.organisationId,
      siteId: site(B),
      version: 9,
      date: "2026-07-14",
      summary: "{}",
    };
    await expect(asTolly(() => db()("site_summary").insert(row))).rejects.toThrow(/row-level security/);
  });
  it("hears of its own sites only", async () => {
    const word = (...ids: string[]): string =>
      JSON.stringify({ type: "now", sites: ids.map((siteId) => ({ siteId })) });
    const shown = await asTolly((u) => nowOfOwnSites(u));
    expect(shown(word(site(A), site(B)))).toBe(word(site(A)));
    expect(shown(word(site(B)))).toBeNull();
    expect(shown('{"end":true}')).toBe('{"end":true}');
  });
  it("begins no new sites; sees all again when a manager says so, or makes them one", async () => {
    const asked = { name: "New", timeZone: "Europe/Vienna", units: "metric" as const };
    await asTolly(async (u) => expect((await refusal(createSite(u, asked))).code).toBe("notAllowed"));
    const other = actOnPerson(maren, tolly.userId, { action: "sites", siteIds: [stranger.userId] }, NOW);
    expect((await refusal(other)).code).toBe("notFound");
    await actOnPerson(maren, tolly.userId, { action: "sites", siteIds: null }, NOW);
    expect((await asTolly(siteList)).sites).toHaveLength(3);
    await actOnPerson(maren, tolly.userId, { action: "sites", siteIds: [] }, NOW);
    expect((await asTolly(siteList)).sites).toEqual([]);
    await actOnPerson(maren, tolly.userId, { action: "role", role: "manager" }, NOW);
    expect((await asTolly(siteList)).sites).toHaveLength(3);
    const limited = actOnPerson(maren, tolly.userId, { action: "sites", siteIds: [site(A)] }, NOW);
    expect((await refusal(limited)).code).toBe("conflict");
  });
});
