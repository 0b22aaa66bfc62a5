import { getIronSession, type IronSession, type SessionOptions } from "iron-session";
import { cookies } from "next/headers";
import type { Audited } from "../../contracts/organisation.ts";
import type { Role } from "../../contracts/people.ts";
import { AppError } from "../app-error.ts";
import { passwordMatches } from "./password.ts";
import { audit } from "../db/audit.ts";
import { tell } from "../db/listen.ts";
import { inOrganisation } from "../db/reach.ts";
import {
  beginSession,
  endSession,
  type From,
  SESSION_LASTS_S,
  sessionSeen,
  type UserRow,
  userByEmail,
  userOfSession,
  wasEnded,
} from "../db/users.ts";
import { log } from "../log.ts";
import { isUuid } from "../uuid.ts";
import { asksForCode, checkCode } from "./second-step.ts";
import { afterRightTry, afterWrongTry, beforeTry } from "./sign-in-limits.ts";

export type Session = { sessionId?: string };
export type SignedIn = {
  userId: string;
  organisationId: string;
  name: string;
  email: string;
  role: Role;
  /** They see the sites that are given to them, and no others. */
  ownSitesOnly: boolean;
};
/** Signed in through a session that can end. */
export type InSession = SignedIn & { sessionId: string };

function options(): SessionOptions {
  const password = process.env["SESSION_SECRET"];
  if (!password || password.length < 32)
    throw new Error("SESSION_SECRET of 32 characters or more is not set; bin/start sets it.");
  return {
    password,
    // Behind TLS no other host of the domain can set or read it.
    cookieName: process.env["PRESA_HTTPS"] === "1" ? "__Host-presa_session" : "presa_session",
    ttl: SESSION_LASTS_S,
    cookieOptions: { httpOnly: true, sameSite: "lax", secure: process.env["PRESA_HTTPS"] === "1", path: "/" },
  };
}

/** The sealed session of this request. The cookie store is handed on by hand: the two packages' types differ in what may be undefined. */
async function open(): Promise<IronSession<Session>> {
  const jar = await cookies();
  return getIronSession<Session>(
    {
      get: (name) => jar.get(name),
      set: (...cookie: unknown[]) => void jar.set(...(cookie as Parameters<typeof jar.set>)),
    },
    options(),
  );
}

const known = (user: UserRow, sessionId: string): InSession => ({
  userId: user.id,
  organisationId: user.organisationId,
  name: user.name,
  email: user.email,
  role: user.role,
  ownSitesOnly: user.ownSitesOnly,
  sessionId,
});

const note = (user: UserRow, what: Audited, address: string | null): Promise<void> =>
  audit({ organisationId: user.organisationId, userId: user.id, who: user.name, what, address });

type Try = { email: string; password: string; code?: string | undefined; from: From; now: Date };

/** With a password; and a code, where its owner has a second step: without one the refusal says that it is asked for. */
export async function signIn({ email, password, code, from, now }: Try): Promise<InSession> {
  const { address } = from;
  await beforeTry(email, address);
  const user = await userByEmail(email);
  const right = await passwordMatches(user?.passwordHash, password);
  if (!user || !right) {
    await afterWrongTry(email, address);
    if (user) await note(user, "wrongPassword", address);
    throw new AppError("wrongPassword", "That e-mail and password do not belong together.");
  }
  if (await asksForCode(user.id)) await secondStep(user, code, address, now);
  await afterRightTry(email);
  const signedIn = await startSession(user, from);
  await note(user, "signedIn", address);
  return signedIn;
}

async function secondStep(user: UserRow, code: string | undefined, address: string, now: Date): Promise<void> {
  if (code === undefined) throw new AppError("codeNeeded", "Now the code of your authenticator.");
  const by = await checkCode(user, code, now);
  if (by === null) {
    await afterWrongTry(user.email, address);
    await note(user, "wrongCode", address);
    throw new AppError("wrongCode", "That code is not right, or was used before. Wait for the next one.");
  }
  if (by === "recovery") await note(user, "usedRecoveryCode", address);
}

/** The browser's own, which it may read and write: by it the first paint is in the right theme. */
export const THEME_COOKIE = "presa_theme";
/** Likewise the language that dates are written in. */
export const LANGUAGE_COOKIE = "presa_language";
const LIKED_KEPT_S = 31_536_000;

/** Makes this browser somebody's: a session and its cookie, in the place of the one it had. */
export async function startSession(user: UserRow, from: From): Promise<InSession> {
  const session = await open();
  session.sessionId = await beginSession(user, from);
  await session.save();
  const liked: [string, string | null][] = [
    [THEME_COOKIE, user.theme],
    [LANGUAGE_COOKIE, user.language],
  ];
  const jar = await cookies();
  for (const [name, value] of liked)
    if (value !== null) jar.set(name, value, { path: "/", maxAge: LIKED_KEPT_S, sameSite: "lax" });
  return known(user, session.sessionId);
}

/** Ends sessions, and tells whoever holds streams of them. */
export async function endAll(sessionIds: readonly string[]): Promise<void> {
  for (const id of sessionIds) {
    await endSession(id);
    await tell(`session_${id}`, { end: true });
  }
}

/** Ends the session everywhere: a copy of its cookie is worth nothing, and open streams close. */
export async function signOut(): Promise<void> {
  const session = await open();
  if (session.sessionId) {
    const user = isUuid(session.sessionId) ? await userOfSession(session.sessionId) : null;
    if (user) await note(user, "signedOut", null);
    await endAll([session.sessionId]);
  }
  session.destroy();
}

/** How often it is written down that a session is in use, ms. */
const SEEN_EVERY_MS = 5 * 60_000;
const seenAt = new Map<string, number>();

/** Notes now and then that a session is in use; nobody waits for it. */
function noteSeen(sessionId: string): void {
  const now = performance.now();
  if (now - (seenAt.get(sessionId) ?? Number.NEGATIVE_INFINITY) < SEEN_EVERY_MS) return;
  if (seenAt.size >= MOST_OPENED) seenAt.clear();
  seenAt.set(sessionId, now);
  sessionSeen(sessionId).catch((err) => log.warn({ err }, "a session's use was not noted"));
}

/** What cookies held when they were last opened: opening one takes longer than all that is asked about it. */
const opened = new Map<string, { sessionId: string | undefined; until: number }>();
const OPENED_MS = 60_000;
const MOST_OPENED = 10_000;

async function sessionIdNow(): Promise<string | undefined> {
  const sealed = (await cookies()).get(options().cookieName)?.value;
  if (sealed === undefined) return undefined;
  const known = opened.get(sealed);
  if (known && performance.now() < known.until) return known.sessionId;
  const { sessionId } = await open();
  if (opened.size >= MOST_OPENED) opened.clear();
  opened.set(sealed, { sessionId, until: performance.now() + OPENED_MS });
  return sessionId;
}

/** Who is signed in, read from the database each time so that a changed role or an ended session counts at once. */
export async function signedIn(): Promise<InSession | null> {
  const sessionId = await sessionIdNow();
  const user = sessionId && isUuid(sessionId) ? await userOfSession(sessionId) : null;
  if (!user || !sessionId) return null;
  noteSeen(sessionId);
  return known(user, sessionId);
}

/** Whether the session of this request was ended, here or from elsewhere, and has not just run out: what a phone holds of it is forgotten then. */
export async function sessionWasEnded(): Promise<boolean> {
  const sessionId = await sessionIdNow();
  return sessionId !== undefined && isUuid(sessionId) && wasEnded(sessionId);
}

/** What is asked in a person's name: it sees what they may see and nothing else. */
export const asUser = <T>(user: SignedIn, work: () => Promise<T>): Promise<T> =>
  inOrganisation(user.organisationId, work, user.ownSitesOnly ? user.userId : null);
