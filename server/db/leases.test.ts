import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { randomUUID } from "node:crypto";
import { twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import { importSite } from "../services/sites.ts";
import { closeDatabase, db } from "./connection.ts";
import { setGateway } from "./field.ts";
import { endLeases, renewLeases } from "./leases.ts";

beforeAll(async () => {
  const [maren] = await twoPeople();
  await db()("field_gateway").delete();
  for (const n of [1, 2, 3, 4, 5]) {
    const file = smallSite((s) => Object.assign(s.site, { id: `leased-${n}` }));
    const { id } = await importSite(maren, JSON.stringify(file));
    await setGateway({ siteId: id, ...maren, account: `leased-account-${n}` });
  }
});
afterAll(closeDatabase);
const count = async (recorder: string): Promise<number> => (await renewLeases(recorder)).length;

describe("gateways and their recorders", () => {
  it("one recorder listens to all; with a second they divide, and no gateway has two", async () => {
    const [a, b] = [randomUUID(), randomUUID()];
    expect(await count(a)).toBe(5);
    expect(await count(b)).toBe(0);
    expect(await count(a)).toBe(3);
    expect(await count(b)).toBe(2);
    const [ofA, ofB] = [await renewLeases(a), await renewLeases(b)];
    expect(new Set([...ofA, ...ofB].map((g) => g.siteId)).size).toBe(5);
    await endLeases(a);
    expect(await count(b)).toBe(5);
    await endLeases(b);
  });
  it("what one held that says nothing any more goes to the others", async () => {
    const [dead, alive] = [randomUUID(), randomUUID()];
    expect(await count(dead)).toBe(5);
    expect(await count(alive)).toBe(0);
    const ago = db().raw("now() - interval '7 seconds'");
    await db()("recorder").where({ id: dead }).update({ seenAt: ago });
    await db()("field_gateway").where({ leasedBy: dead }).update({ leasedUntil: ago });
    expect(await count(alive)).toBe(5);
    expect(await count(dead)).toBe(0);
    await endLeases(alive);
  });
  it("both asking at once never give one gateway to two", async () => {
    const recorders = Array.from({ length: 6 }, () => randomUUID());
    for (let round = 0; round < 4; round++) {
      const held = await Promise.all(recorders.map(renewLeases));
      const all = held.flat().map((g) => g.siteId);
      if (round === 3) expect(all).toHaveLength(5);
      expect(new Set(all).size).toBe(all.length);
    }
  });
});
