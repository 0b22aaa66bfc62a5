import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { DeedChange, OfficeChange } from "../../contracts/office-change.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import { hashPassword } from "../auth/password.ts";
import type { InSession } from "../auth/session.ts";
import { closeDatabase } from "../db/connection.ts";
import { closeListening } from "../db/listen.ts";
import { insertUser } from "../db/users.ts";
import { endHeavy } from "../heavy/pool.ts";
import { beginDeed, deedList, doDeed, previewMany, undoDeed } from "./deeds.ts";
import { groupsView, sortSite } from "./groups.ts";
import { actOnPerson, sitesOfPerson } from "./people.ts";
import { importSite } from "./sites.ts";

const NOW = new Date("2026-07-14T10:00:00Z");
let maren: InSession;
let stranger: InSession;
let personId: string;
const ids: string[] = [];
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
  for (const id of ["a", "b", "c"]) {
    const file = smallSite((s) => Object.assign(s.site, { id: `office-${id}`, name: `Site ${id}` }));
    ids.push((await importSite(maren, JSON.stringify(file))).id);
  }
  const { organisationId } = maren;
  const email = `tam-${organisationId}@test.example`;
  const passwordHash = await hashPassword("a password for tests");
  personId = await insertUser({ organisationId, email, name: "Tam", role: "technician", passwordHash });
});
afterAll(async () => {
  await endHeavy();
  await closeListening();
  await closeDatabase();
});

const done = async (change: DeedChange, siteIds = ids, user = maren) => {
  const id = crypto.randomUUID();
  await beginDeed(user, { id, change });
  return {
    id,
    outcome: await doDeed(
      user,
      id,
      siteIds.map((siteId) => ({ siteId, version: 1 })),
      NOW,
    ),
  };
};
const clients = async () => (await groupsView(maren)).sites.map((s) => s.client);

describe("one change of the office's on many sites", () => {
  it("sorts them, from what each was before, and is taken back as one; what somebody sorted since stays", async () => {
    await sortSite(maren, ids[0] as string, { client: "Verge Parish" });
    const change: OfficeChange = { kind: "group", group: "client", name: "Mill Trust" };
    const previews = await previewMany(maren, { siteIds: ids, change }, NOW);
    expect(previews.map((p) => p.changes)).toEqual([
      ["client: Verge Parish → Mill Trust"],
      ["client: none → Mill Trust"],
      ["client: none → Mill Trust"],
    ]);
    expect(previews[0]).toMatchObject({ before: null, after: null, problem: null, version: 1 });
    const { id, outcome } = await done(change);
    expect(outcome).toEqual({ asked: 3, not: [] });
    expect(await clients()).toEqual(["Mill Trust", "Mill Trust", "Mill Trust"]);
    expect((await deedList(maren))[0]).toMatchObject({ name: "client Mill Trust", undone: 0 });
    expect(
      (await previewMany(maren, { siteIds: ids, change: { ...change, name: "mill trust" } }, NOW))[0]?.changes,
    ).toEqual([]);
    await sortSite(maren, ids[2] as string, { client: "Others" });
    const back = await undoDeed(maren, id, ids);
    expect(back).toEqual({ asked: 2, not: ["Site c: somebody changed it since"] });
    expect(await clients()).toEqual(["Verge Parish", null, "Others"]);
  });
  it("gives sites to somebody who sees some only, and takes them again", async () => {
    const change: OfficeChange = { kind: "person", personId, name: "Tam", sees: true };
    expect((await refusal(previewMany(maren, { siteIds: ids, change }, NOW))).message).toMatch(/sees every site/);
    await actOnPerson(maren, personId, { action: "sites", siteIds: [ids[0] as string] }, NOW);
    const misnamed = { ...change, name: "Somebody else" };
    expect((await refusal(previewMany(maren, { siteIds: ids, change: misnamed }, NOW))).message).toMatch(/called Tam/);
    const previews = await previewMany(maren, { siteIds: ids, change }, NOW);
    expect(previews.map((p) => p.changes.length)).toEqual([0, 1, 1]);
    const { id } = await done(change, ids.slice(1));
    expect((await sitesOfPerson(maren, personId)).siteIds?.sort()).toEqual([...ids].sort());
    expect(await undoDeed(maren, id, ids)).toEqual({ asked: 2, not: [] });
    expect((await sitesOfPerson(maren, personId)).siteIds).toEqual([ids[0]]);
  });
  it("is a manager's, and nobody's of another organisation", async () => {
    const technician = { ...maren, role: "technician" as const };
    const change: OfficeChange = { kind: "group", group: "area", name: "North" };
    expect((await refusal(previewMany(technician, { siteIds: ids, change }, NOW))).code).toBe("notAllowed");
    expect((await refusal(done(change, ids, technician))).code).toBe("notAllowed");
    expect((await refusal(previewMany(stranger, { siteIds: ids, change }, NOW))).code).toBe("notFound");
    const theirs: OfficeChange = { kind: "person", personId, name: "Tam", sees: true };
    expect((await refusal(done(theirs, ids, stranger))).code).toBe("notFound");
    const { id } = await done(change);
    expect((await undoDeed(technician, id, ids)).asked).toBe(0);
  });
});
