import { Secret, TOTP } from "otpauth";
import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from "vitest";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { type InSession, signedIn, signIn } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { closeListening } from "../db/listen.ts";
import { sessionsOf } from "../db/people.ts";
import { beginSession, colleagues, userById, userOfSession } from "../db/users.ts";
import {
  accountView,
  beginTwoFactor,
  changePassword,
  confirmTwoFactor,
  endOtherSessions,
  endOwnSession,
  endTwoFactor,
  likeTheme,
  otherRecoveryCodes,
  readDatesIn,
  rename,
} from "./account.ts";
import { actOnPerson, invite, joinBy, joiningOf, leave, peopleView, withdrawInvitation } from "./people.ts";

const jar = vi.hoisted(() => new Map<string, string>());
vi.mock("next/headers", () => ({
  cookies: async () => ({
    get: (name: string) => (jar.has(name) ? { name, value: jar.get(name) } : undefined),
    set: (name: string, value: string) => void (value === "" ? jar.delete(name) : jar.set(name, value)),
  }),
}));

const PASSWORD = "a password for tests";
const NEXT = "another four words here";
const FROM = { address: "10.0.0.1", agent: "a browser" };
const NOW = new Date("2026-07-14T10:00:00Z");
const later = (hours: number): Date => new Date(NOW.getTime() + hours * 3_600_000);
let maren: InSession;
let stranger: InSession;
beforeAll(async () => {
  process.env["SESSION_SECRET"] ??= "0123456789abcdef0123456789abcdef";
  [maren, stranger] = await twoPeople();
});
beforeEach(async () => {
  jar.clear();
  await db()("sign_in_limit").delete();
});
afterAll(async () => {
  await closeListening();
  await closeDatabase();
});

let count = 0;
/** Somebody who has joined in a role. */
async function joined(role: "manager" | "technician" | "viewer" = "technician"): Promise<InSession> {
  const { token } = await invite(maren, { email: `p${++count}-${maren.organisationId}@test.example`, role }, NOW);
  return joinBy(token, { name: `Person ${count}`, password: PASSWORD }, FROM, NOW);
}
const audits = async (what: string): Promise<string[]> =>
  (await db()("audit").where({ organisationId: maren.organisationId, what }).orderBy("id")).map((r) => r.about);

describe("an invitation", () => {
  it("is a link that works once: who holds it joins in the role it was made for, and is signed in", async () => {
    const email = `Odile-${maren.organisationId}@test.example`;
    const { token, expiresAt } = await invite(maren, { email, role: "viewer" }, NOW);
    expect(expiresAt).toBe(later(24 * 7).toISOString());
    expect(await joiningOf(token, NOW)).toEqual({
      organisation: "Tests",
      email: email.toLowerCase(),
      role: "viewer",
      name: null,
    });
    const odile = await joinBy(token, { name: " Odile ", password: PASSWORD }, FROM, NOW);
    expect(odile).toMatchObject({ organisationId: maren.organisationId, name: "Odile", role: "viewer" });
    expect(await signedIn()).toMatchObject({ userId: odile.userId });
    expect(await refusal(joiningOf(token, NOW))).toMatchObject({ code: "notFound" });
    expect(await refusal(joinBy(token, { name: "Again", password: PASSWORD }, FROM, NOW))).toMatchObject({
      code: "notFound",
    });
    expect((await refusal(invite(maren, { email, role: "viewer" }, NOW))).code).toBe("conflict");
  });
  it("used by two at once makes one person", async () => {
    const { token } = await invite(maren, { email: `twice-${maren.organisationId}@test.example`, role: "viewer" }, NOW);
    const both = await Promise.allSettled(
      ["One", "Two"].map((name) => joinBy(token, { name, password: PASSWORD }, FROM, NOW)),
    );
    expect(both.map((b) => b.status).sort()).toEqual(["fulfilled", "rejected"]);
  });
  it("is worth nothing once it is too old, withdrawn, or another one was made for the same address", async () => {
    const asked = { email: `late-${maren.organisationId}@test.example`, role: "technician" as const };
    const old = await invite(maren, asked, NOW);
    expect((await refusal(joiningOf(old.token, later(24 * 7)))).message).toContain("Ask whoever sent it");
    const next = await invite(maren, asked, NOW);
    expect((await refusal(joiningOf(old.token, NOW))).code).toBe("notFound");
    const open = (await peopleView(maren, NOW)).invitations.filter((i) => i.email === asked.email);
    expect(open).toEqual([expect.objectContaining({ role: "technician", madeBy: "maren" })]);
    const id = open[0]?.id ?? "";
    expect((await refusal(withdrawInvitation(stranger, id))).code).toBe("notFound");
    await withdrawInvitation(maren, id);
    expect((await refusal(joiningOf(next.token, NOW))).code).toBe("notFound");
    expect((await refusal(withdrawInvitation(maren, id))).code).toBe("notFound");
  });
  it("keeps no token: what stands in the database leads nowhere", async () => {
    const { token } = await invite(maren, { email: `dig-${maren.organisationId}@test.example`, role: "viewer" }, NOW);
    const rows = JSON.stringify(await db()("invitation").where({ organisationId: maren.organisationId }));
    expect(rows).not.toContain(token);
  });
});

describe("people", () => {
  it("are seen by their managers with where they stand; nobody else's are", async () => {
    const tolly = await joined();
    const { people } = await peopleView(maren, NOW);
    expect(people.find((p) => p.id === tolly.userId)).toMatchObject({
      role: "technician",
      twoFactor: false,
      leftAt: null,
    });
    expect((await peopleView(stranger, NOW)).people.map((p) => p.name)).toEqual(["stranger"]);
    for (const action of ["signOut", "newPassword"] as const)
      expect((await refusal(actOnPerson(stranger, tolly.userId, { action }, NOW))).code).toBe("notFound");
    expect((await refusal(leave(stranger, tolly.userId))).code).toBe("notFound");
  });
  it("have another role at once, in the session they are in", async () => {
    const tolly = await joined();
    await actOnPerson(maren, tolly.userId, { action: "role", role: "viewer" }, NOW);
    expect(await userOfSession(tolly.sessionId)).toMatchObject({ role: "viewer" });
    expect((await audits("roleChanged")).at(-1)).toBe(`${tolly.name}: technician → viewer`);
  });
  it("who leave are signed out everywhere at once; what they did stays theirs, and their address is free", async () => {
    const tolly = await joined();
    const other = await beginSession({ id: tolly.userId, organisationId: tolly.organisationId });
    await leave(maren, tolly.userId);
    for (const id of [tolly.sessionId, other]) expect(await userOfSession(id)).toBeNull();
    const tried = signIn({ email: tolly.email, password: PASSWORD, from: FROM, now: NOW });
    expect((await refusal(tried)).code).toBe("wrongPassword");
    expect((await colleagues(maren.organisationId)).map((c) => c.id)).not.toContain(tolly.userId);
    expect((await peopleView(maren, NOW)).people.at(-1)).toMatchObject({
      email: expect.stringContaining("@"),
      leftAt: expect.any(String),
    });
    expect((await userById(tolly.userId))?.name).toBe(tolly.name);
    await invite(maren, { email: tolly.email, role: "viewer" }, NOW);
    expect((await refusal(leave(maren, tolly.userId))).code).toBe("notFound");
  });
  it("always have a manager: the last can neither leave nor become anything else, and of two who go at once one stays", async () => {
    expect((await refusal(leave(maren, maren.userId))).message).toContain("There has to be a manager");
    const asked = { action: "role", role: "viewer" } as const;
    expect((await refusal(actOnPerson(maren, maren.userId, asked, NOW))).code).toBe("conflict");
    const second = await joined("manager");
    const both = await Promise.allSettled([
      leave(second, second.userId),
      actOnPerson(second, maren.userId, asked, NOW),
    ]);
    expect(both.map((b) => b.status).sort()).toEqual(["fulfilled", "rejected"]);
    const managers = (await peopleView(maren, NOW)).people.filter((p) => p.role === "manager" && p.leftAt === null);
    expect(managers).toHaveLength(1);
    await db()("app_user").where({ id: maren.userId }).update({ role: "manager" });
  });
  it("who forgot their password choose another by a link, and are signed out wherever they were", async () => {
    const tolly = await joined();
    const link = await actOnPerson(maren, tolly.userId, { action: "newPassword" }, NOW);
    expect(link?.expiresAt).toBe(later(24).toISOString());
    expect(await joiningOf(link?.token ?? "", NOW)).toMatchObject({ name: tolly.name, role: "technician" });
    await joinBy(link?.token ?? "", { password: NEXT }, FROM, NOW);
    expect(await userOfSession(tolly.sessionId)).toBeNull();
    const again = { email: tolly.email, from: FROM, now: NOW };
    expect((await refusal(signIn({ ...again, password: PASSWORD }))).code).toBe("wrongPassword");
    expect((await signIn({ ...again, password: NEXT })).userId).toBe(tolly.userId);
  });
});

describe("one's own account", () => {
  it("tells where one is signed in; a session is ended from there, but nobody else's", async () => {
    const tolly = await joined();
    const other = await beginSession({ id: tolly.userId, organisationId: tolly.organisationId }, FROM);
    const view = await accountView(tolly);
    expect(view).toMatchObject({ name: tolly.name, organisation: "Tests", twoFactor: false, recoveryCodesLeft: 0 });
    expect(view.sessions.map((s) => [s.id, s.here, s.address])).toEqual(
      expect.arrayContaining([
        [tolly.sessionId, true, "10.0.0.1"],
        [other, false, "10.0.0.1"],
      ]),
    );
    await endOwnSession(tolly, other);
    expect(await userOfSession(other)).toBeNull();
    expect((await refusal(endOwnSession(tolly, other))).code).toBe("notFound");
    expect((await refusal(endOwnSession(tolly, maren.sessionId))).code).toBe("notFound");
  });
  it("is signed in nowhere else once all others are ended", async () => {
    const tolly = await joined();
    const other = await beginSession({ id: tolly.userId, organisationId: tolly.organisationId });
    await endOtherSessions(tolly);
    expect(await userOfSession(other)).toBeNull();
    expect(await userOfSession(tolly.sessionId)).not.toBeNull();
  });
  it("takes another password with the present one: every session ends, and this browser begins a new one", async () => {
    const tolly = await joined();
    const other = await beginSession({ id: tolly.userId, organisationId: tolly.organisationId });
    const wrong = changePassword(tolly, { current: "not it", password: NEXT }, FROM);
    expect((await refusal(wrong)).message).toBe("That is not your password.");
    expect(await userOfSession(other)).not.toBeNull();
    await changePassword(tolly, { current: PASSWORD, password: NEXT }, FROM);
    for (const id of [tolly.sessionId, other]) expect(await userOfSession(id)).toBeNull();
    expect(await signedIn()).toMatchObject({ userId: tolly.userId });
    expect(await sessionsOf(tolly.userId)).toHaveLength(1);
  });
  it("takes another name, which what is done from then on bears", async () => {
    const tolly = await joined();
    await rename(tolly, "Tolly B.");
    expect((await userOfSession(tolly.sessionId))?.name).toBe("Tolly B.");
    expect((await audits("renamed")).at(-1)).toBe(`${tolly.name} → Tolly B.`);
  });
  it("takes the theme that somebody likes, and the language of dates, along, wherever they sign in", async () => {
    const tolly = await joined();
    expect(jar.has("presa_theme")).toBe(false);
    await likeTheme(tolly, "night");
    await readDatesIn(tolly, "es");
    jar.clear();
    await signIn({ email: tolly.email, password: PASSWORD, from: FROM, now: NOW });
    expect(jar.get("presa_theme")).toBe("night");
    expect(jar.get("presa_language")).toBe("es");
  });
});

describe("a second step", () => {
  const codeAt = (secret: string, at: Date): string =>
    new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: at.getTime() });
  const seconds = (s: number): Date => new Date(NOW.getTime() + 1000 * s);
  const door = (who: InSession, at: Date, code?: string): Promise<InSession> =>
    signIn({ email: who.email, password: PASSWORD, code, from: FROM, now: at });
  async function withSecondStep(): Promise<{ who: InSession; secret: string; recoveryCodes: string[] }> {
    const who = await joined();
    const { secret } = await beginTwoFactor(who);
    const { recoveryCodes } = await confirmTwoFactor(who, codeAt(secret, NOW), NOW);
    return { who, secret, recoveryCodes };
  }

  it("is asked for only once it is confirmed by a code of the phone", async () => {
    const tolly = await joined();
    const { secret, uri } = await beginTwoFactor(tolly);
    expect(uri).toMatch(/^otpauth:\/\/totp\/Presa:/);
    expect((await door(tolly, NOW)).userId).toBe(tolly.userId);
    expect((await refusal(confirmTwoFactor(tolly, "000000", NOW))).code).toBe("badRequest");
    const { recoveryCodes } = await confirmTwoFactor(tolly, ` ${codeAt(secret, NOW)} `, NOW);
    expect(new Set(recoveryCodes).size).toBe(10);
    expect((await refusal(door(tolly, NOW))).code).toBe("codeNeeded");
    expect((await refusal(beginTwoFactor(tolly))).code).toBe("conflict");
    expect((await peopleView(maren, NOW)).people.find((p) => p.id === tolly.userId)?.twoFactor).toBe(true);
  });
  it("takes a code of the moment, a clock half a minute off, and no code twice", async () => {
    const { who, secret } = await withSecondStep();
    expect((await refusal(door(who, NOW, codeAt(secret, NOW)))).code).toBe("wrongCode");
    expect((await door(who, seconds(60), codeAt(secret, seconds(60)))).userId).toBe(who.userId);
    expect((await refusal(door(who, seconds(61), codeAt(secret, seconds(60))))).code).toBe("wrongCode");
    expect((await door(who, seconds(120), codeAt(secret, seconds(150)))).userId).toBe(who.userId);
    expect((await refusal(door(who, seconds(300), codeAt(secret, seconds(200))))).code).toBe("wrongCode");
    expect((await refusal(door(who, seconds(300), "abc"))).code).toBe("wrongCode");
  });
  it("of a lost phone is got past with a recovery code, each once; new ones take the place of the old", async () => {
    const { who, recoveryCodes } = await withSecondStep();
    const [first = "", second = ""] = recoveryCodes;
    expect((await door(who, NOW, first.toUpperCase().replace("-", " "))).userId).toBe(who.userId);
    expect((await refusal(door(who, NOW, first))).code).toBe("wrongCode");
    expect((await accountView(who)).recoveryCodesLeft).toBe(9);
    const other = await otherRecoveryCodes(who, PASSWORD, FROM);
    expect((await refusal(door(who, NOW, second))).code).toBe("wrongCode");
    expect((await door(who, NOW, other.recoveryCodes[0])).userId).toBe(who.userId);
  });
  it("is taken off with one's password, or by a manager", async () => {
    const { who } = await withSecondStep();
    expect((await refusal(endTwoFactor(who, "not it", FROM))).code).toBe("badRequest");
    await endTwoFactor(who, PASSWORD, FROM);
    expect((await door(who, NOW)).userId).toBe(who.userId);
    const { who: second } = await withSecondStep();
    await actOnPerson(maren, second.userId, { action: "dropTwoFactor" }, NOW);
    expect((await door(second, NOW)).userId).toBe(second.userId);
    const none = actOnPerson(maren, second.userId, { action: "dropTwoFactor" }, NOW);
    expect((await refusal(none)).code).toBe("conflict");
  });
  it("keeps its secret sealed; opened with another key it is no secret of anybody's", async () => {
    const { who, secret } = await withSecondStep();
    const row = await db()("two_factor").where({ userId: who.userId }).first();
    expect(row.secret.toString("latin1")).not.toContain(secret);
    vi.stubEnv("SESSION_SECRET", "another-secret-of-32-characters-and-more");
    expect((await refusal(door(who, seconds(90), codeAt(secret, seconds(90))))).code).toBe("wrongCode");
    vi.unstubAllEnvs();
  });
});
