import pg from "pg";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { twoPeople } from "../../testing/server-people.ts";
import type { SignedIn } from "../auth/session.ts";
import { closeDatabase, databaseUrl, db, inTransaction } from "./connection.ts";
import { oneAtATime } from "./one-at-a-time.ts";
import { colleagues, insertUser, organisationCount, userByEmail } from "./users.ts";

let maren: SignedIn;
let stranger: SignedIn;
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
afterAll(closeDatabase);

const join = (name: string): Promise<string> =>
  insertUser({
    organisationId: maren.organisationId,
    email: `${name}-${maren.organisationId}@test.example`,
    name,
    role: "technician",
    passwordHash: "none",
  });

describe("rows", () => {
  it("are camelCase in the code, snake_case in the database, and JSON inside them is left as it is", async () => {
    const { rows } = await db().raw(
      `select 1 as one_thing, '{"snake_key": {"in_side": 1}}'::jsonb as some_json, null as no_thing`,
    );
    expect(rows).toEqual([{ oneThing: 1, someJson: { snake_key: { in_side: 1 } }, noThing: null }]);
    const found = await db()("app_user").where({ organisationId: maren.organisationId }).first();
    expect(found).toMatchObject({ organisationId: maren.organisationId, name: "maren" });
    expect(Object.keys(found)).not.toContain("organisation_id");
  });
  it("give counts and numbers as numbers", async () => {
    const { rows } = await db().raw("select count(*) as n, 1.25::numeric as share from app_user");
    expect(typeof rows[0].n).toBe("number");
    expect(rows[0].share).toBe(1.25);
  });
});

describe("a transaction", () => {
  it("is joined by every query made within it, and leaves nothing behind when it fails", async () => {
    const before = (await colleagues(maren.organisationId)).length;
    const failed = inTransaction(async () => {
      await join("tamsin");
      expect(await colleagues(maren.organisationId)).toHaveLength(before + 1);
      throw new Error("half-way");
    });
    await expect(failed).rejects.toThrow("half-way");
    expect(await colleagues(maren.organisationId)).toHaveLength(before);
  });
  it("within another is part of it: what the inner did falls with the outer", async () => {
    const before = (await colleagues(maren.organisationId)).length;
    const failed = inTransaction(async () => {
      await inTransaction(() => join("oskar"));
      throw new Error("after the inner one");
    });
    await expect(failed).rejects.toThrow("after the inner one");
    expect(await colleagues(maren.organisationId)).toHaveLength(before);
  });
});

describe("people", () => {
  it("are found by e-mail however it is written, and colleagues are one's own organisation's only", async () => {
    await join("birgit");
    expect((await userByEmail(`  BIRGIT-${maren.organisationId}@Test.Example `))?.name).toBe("birgit");
    expect(await userByEmail("nobody@test.example")).toBeNull();
    expect((await colleagues(maren.organisationId)).map((c) => c.name)).toContain("birgit");
    expect((await colleagues(stranger.organisationId)).map((c) => c.name)).toEqual(["stranger"]);
    expect(await organisationCount()).toBeGreaterThanOrEqual(2);
  });
});

describe("one connection", () => {
  const client = new pg.Client({ connectionString: databaseUrl() });
  afterAll(() => client.end());
  it("is asked one thing at a time, in order; one refused question does not keep the next from being asked", async () => {
    const warned: string[] = [];
    const hear = (w: Error): unknown => warned.push(w.message);
    process.on("warning", hear);
    const ask = oneAtATime(client, client.connect());
    const answers = await Promise.allSettled([
      ask("select pg_sleep(0.05), 1 as n"),
      ask("select nonsense from nowhere"),
      ask("select $1::int as n", [3]),
    ]);
    process.off("warning", hear);
    expect(answers.map((a) => a.status)).toEqual(["fulfilled", "rejected", "fulfilled"]);
    const last = answers[2];
    expect(last?.status === "fulfilled" ? last.value.rows : null).toEqual([{ n: 3 }]);
    expect(warned).toEqual([]);
  });
});
