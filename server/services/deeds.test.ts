import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { InSession } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { endHeavy } from "../heavy/pool.ts";
import { beginDeed, deedList, doDeed, previewMany, undoDeed } from "./deeds.ts";
import { amendSite, importSite, loadSite } from "./sites.ts";

const NOW = new Date("2026-07-14T10:00:00Z");
const HOLD = { kind: "holdDays", days: 3 } as const;
let maren: InSession;
let stranger: InSession;
const ids: string[] = [];
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
  for (const id of ["a", "b", "c"]) {
    const file = smallSite((s) => Object.assign(s.site, { id: `deed-${id}`, name: `Site ${id}` }));
    ids.push((await importSite(maren, JSON.stringify(file))).id);
  }
});
afterAll(async () => {
  await endHeavy();
  await closeDatabase();
});

const now = async (i: number) => loadSite(maren, ids[i] as string);
const held = async (): Promise<(string | undefined)[]> =>
  Promise.all(ids.map(async (_, i) => (await now(i)).file.site.holdUntil));
const seen = async () => Promise.all(ids.map(async (siteId, i) => ({ siteId, version: (await now(i)).version })));
async function done(change: Parameters<typeof beginDeed>[1]["change"], sites: { siteId: string; version: number }[]) {
  const id = crypto.randomUUID();
  await beginDeed(maren, { id, change });
  return { id, outcome: await doDeed(maren, id, sites, NOW) };
}

describe("one change on many sites", () => {
  it("is looked at before it is made: settings, tonight and findings of each, and nothing is saved", async () => {
    const before = await seen();
    const [first, ...others] = await previewMany(maren, { siteIds: ids, change: HOLD }, NOW);
    expect(others).toHaveLength(2);
    expect(first).toMatchObject({ siteId: ids[0], version: 1, problem: null, localDate: "2026-07-14" });
    expect(first?.changes.join()).toContain("2026-07-17");
    expect(first?.before?.finish).not.toBeNull();
    expect(first?.after?.finish).toBeNull();
    expect(await seen()).toEqual(before);
    expect((await refusal(previewMany(stranger, { siteIds: ids, change: HOLD }, NOW))).code).toBe("notFound");
  });
  it("is called by no more words than are kept, however long the names in them are", async () => {
    const change = { kind: "controllersAs", from: "x".repeat(200), settings: { powered: "mains" } } as const;
    const { id, outcome } = await done(change, (await seen()).slice(0, 1));
    // They are so already: nothing is saved, and no deed stands.
    expect(outcome).toEqual({ asked: 1, not: [] });
    const row = await db()("deed").where({ id }).first("name");
    expect(row.name).toHaveLength(200);
  });
  it("is a revision of each under one name, and undone as one", async () => {
    const sites = await seen();
    const { id, outcome } = await done(HOLD, sites.slice(0, 2));
    expect(outcome).toEqual({ asked: 2, not: [] });
    expect(await held()).toEqual(["2026-07-17", "2026-07-17", undefined]);
    const [deed] = await deedList(maren);
    expect(deed).toMatchObject({ id, name: "off for 3 days", madeBy: "maren", undone: 0 });
    expect(deed?.standing.map((s) => s.name)).toEqual(["Site a", "Site b"]);
    const { note } = await db()("revision").where({ siteId: ids[0], version: 2 }).first();
    expect(note).toBe("off for 3 days");
    expect(await undoDeed(maren, id, ids)).toEqual({ asked: 2, not: [] });
    expect(await held()).toEqual([undefined, undefined, undefined]);
    expect((await deedList(maren))[0]).toMatchObject({ standing: [], undone: 2 });
    expect(await undoDeed(maren, id, ids)).toEqual({ asked: 0, not: [] });
  });
  it("asked twice under one id is done once", async () => {
    const sites = (await seen()).slice(2);
    const { id } = await done(HOLD, sites);
    await beginDeed(maren, { id, change: HOLD });
    expect(await doDeed(maren, id, sites, NOW)).toEqual({ asked: 1, not: [] });
    expect((await now(2)).version).toBe((sites[0]?.version ?? 0) + 1);
    await undoDeed(maren, id, ids);
  });
  it("leaves a site that somebody saved meanwhile, and says so; one saved since keeps what was saved", async () => {
    const sites = await seen();
    await amendSite(maren, ids[1] as string, "by somebody", (f) => ({
      ...f,
      site: { ...f.site, seasonalPercent: 70 },
    }));
    const { id, outcome } = await done({ kind: "percent", percent: 90 }, sites);
    expect(outcome).toEqual({ asked: 2, not: ["Site b: somebody saved it meanwhile; look at it again"] });
    expect((await now(1)).file.site.seasonalPercent).toBe(70);
    await amendSite(maren, ids[0] as string, "later", (f) => ({ ...f, site: { ...f.site, name: "Site a, later" } }));
    const back = await undoDeed(maren, id, ids);
    expect(back.asked).toBe(1);
    expect(back.not).toEqual([expect.stringMatching(/^Site a, later: somebody saved it since/)]);
    expect((await now(0)).file.site).toMatchObject({ seasonalPercent: 90, name: "Site a, later" });
    expect((await now(2)).file.site.seasonalPercent).toBeUndefined();
  });
  it("that changes nothing on a site makes no revision there", async () => {
    const sites = await seen();
    const { outcome } = await done({ kind: "resume" }, sites);
    expect(outcome.not).toEqual([]);
    expect(await seen()).toEqual(sites);
  });
  it("of another organisation is none of ours", async () => {
    const { id } = await done(HOLD, (await seen()).slice(2));
    expect((await refusal(undoDeed(stranger, id, ids))).code).toBe("notFound");
    expect((await refusal(doDeed(stranger, id, await seen(), NOW))).code).toBe("notFound");
    expect((await refusal(beginDeed(stranger, { id, change: HOLD }))).code).toBe("conflict");
    expect(await deedList(stranger)).toEqual([]);
  });
});
