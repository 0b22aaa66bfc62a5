import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it, vi } from "vitest";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { closeListening } from "../db/listen.ts";
import { endSessionsOf, userOfSession } from "../db/users.ts";
import { addressOf, watchConnections } from "./address.ts";
import { type InSession, signedIn, signIn, signOut } from "./session.ts";
import { waitAfter } from "./sign-in-limits.ts";

const jar = vi.hoisted(() => new Map<string, string>());
vi.mock("next/headers", () => ({
  cookies: async () => ({
    get: (name: string) => (jar.has(name) ? { name, value: jar.get(name) } : undefined),
    set: (name: string, value: string) => void (value === "" ? jar.delete(name) : jar.set(name, value)),
  }),
}));

const PASSWORD = "a password for tests";
const as = (email: string, password: string, address: string, code?: string, now = new Date()) => ({
  email,
  password,
  code,
  from: { address, agent: "tests" },
  now,
});
let maren: InSession;
beforeAll(async () => {
  process.env["SESSION_SECRET"] ??= "0123456789abcdef0123456789abcdef";
  [maren] = await twoPeople();
});
beforeEach(async () => {
  jar.clear();
  await db()("sign_in_limit").delete();
});
afterEach(() => {
  vi.unstubAllEnvs();
});
afterAll(async () => {
  await closeListening();
  await closeDatabase();
});

describe("a session", () => {
  it("begins with the right password, and ends for good with signing out: a kept cookie is worth nothing", async () => {
    await signIn(as(maren.email, PASSWORD, "10.0.0.1"));
    expect(await signedIn()).toMatchObject({ userId: maren.userId, organisationId: maren.organisationId });
    const kept = new Map(jar);
    await signOut();
    expect(await signedIn()).toBeNull();
    for (const [name, value] of kept) jar.set(name, value);
    expect(await signedIn()).toBeNull();
  });
  it("of a person ends everywhere when all of theirs are ended", async () => {
    const one = await signIn(as(maren.email, PASSWORD, "10.0.0.1"));
    const two = await signIn(as(maren.email, PASSWORD, "10.0.0.2"));
    expect(await endSessionsOf(maren.userId)).toEqual(expect.arrayContaining([one.sessionId, two.sessionId]));
    expect(await signedIn()).toBeNull();
    expect(await userOfSession(one.sessionId)).toBeNull();
  });
  it("is nobody's where its cookie is none of ours", async () => {
    jar.set("presa_session", "made up");
    expect(await signedIn()).toBeNull();
  });
});

describe("wrong tries", () => {
  const wrong = (email: string, address: string): Promise<unknown> => refusal(signIn(as(email, "not it", address)));
  it("make each further one wait longer, and never lock the owner out", async () => {
    expect([0, 3, 4, 5, 6, 9, 40].map(waitAfter)).toEqual([0, 0, 250, 500, 1000, 8000, 8000]);
    for (let i = 0; i < 5; i++) expect(await wrong(maren.email, "10.9.9.9")).toMatchObject({ code: "wrongPassword" });
    const began = performance.now();
    await signIn(as(maren.email, PASSWORD, "10.0.0.1"));
    expect(performance.now() - began).toBeGreaterThanOrEqual(490);
    // Signed in, the count is forgotten.
    expect(await db()("sign_in_limit").where("key", "like", "account:%")).toEqual([]);
  });
  it("count for one account, with spaces and capitals too", async () => {
    for (const email of [maren.email, ` ${maren.email}`, maren.email.toUpperCase(), `${maren.email}  `])
      await wrong(email, "10.9.9.9");
    const rows = await db()("sign_in_limit").where("key", "like", "account:%");
    expect(rows).toHaveLength(1);
    expect(rows[0].points).toBe(4);
  });
  it("of one address end in refusal, whoever's account is tried; another address goes on", async () => {
    for (let i = 0; i < 30; i++) await wrong(`nobody${i}@test.example`, "10.9.9.9");
    expect(await wrong("nobody@test.example", "10.9.9.9")).toMatchObject({ code: "tooManyTries", status: 429 });
    expect(await refusal(signIn(as(maren.email, PASSWORD, "10.9.9.9")))).toMatchObject({ code: "tooManyTries" });
    expect((await signIn(as(maren.email, PASSWORD, "10.0.0.1"))).userId).toBe(maren.userId);
  }, 30_000);
});

describe("where a request comes from", () => {
  const of = (headers: Record<string, string>): string => addressOf(new Request("http://presa.test", { headers }));
  it("is its connection's, whatever it says of itself", () => {
    expect(of({ "x-presa-peer": "10.0.0.1", "x-forwarded-for": "1.2.3.4" })).toBe("10.0.0.1");
    expect(of({})).toBe("unknown");
  });
  it("is what the operator's own proxies say, so many of them", () => {
    vi.stubEnv("PRESA_TRUSTED_PROXIES", "1");
    expect(of({ "x-presa-peer": "10.0.0.1", "x-forwarded-for": "6.6.6.6, 203.0.113.9" })).toBe("203.0.113.9");
    vi.stubEnv("PRESA_TRUSTED_PROXIES", "2");
    expect(of({ "x-presa-peer": "10.0.0.1", "x-forwarded-for": "6.6.6.6, 203.0.113.9, 10.0.0.7" })).toBe("203.0.113.9");
    expect(of({ "x-presa-peer": "10.0.0.1" })).toBe("10.0.0.1");
  });
  it("is written over on every request, so that nobody can set it", async () => {
    watchConnections();
    const server = createServer((request, response) => response.end(String(request.headers["x-presa-peer"])));
    await new Promise<void>((ready) => server.listen(0, "127.0.0.1", ready));
    const { port } = server.address() as AddressInfo;
    const answer = await fetch(`http://127.0.0.1:${port}`, { headers: { "x-presa-peer": "6.6.6.6" } });
    expect(await answer.text()).toBe("127.0.0.1");
    server.close();
  });
});
