import { getIronSession, type IronSession, type SessionOptions } from "iron-session";
import { cookies } from "next/headers";
import { RateLimiterMemory } from "rate-limiter-flexible";
import { AppError } from "../app-error.ts";
import { passwordMatches } from "./password.ts";
import { type Role, userByEmail, userById } from "../db/users.ts";

export type Session = { userId?: string };
export type SignedIn = { userId: string; organisationId: string; name: string; email: string; role: Role };

function options(): SessionOptions {
  const password = process.env["SESSION_SECRET"];
  if (!password || password.length < 32)
    throw new Error("SESSION_SECRET of 32 characters or more is not set; bin/start sets it.");
  return {
    password,
    cookieName: "presa_session",
    ttl: 60 * 60 * 24 * 14,
    cookieOptions: { httpOnly: true, sameSite: "lax", secure: process.env["PRESA_HTTPS"] === "1", path: "/" },
  };
}

/** One limiter an address and account; each web process counts its own, which only makes it stricter. */
const tries = new RateLimiterMemory({ points: 10, duration: 300 });

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

export async function signIn(email: string, password: string, address: string): Promise<SignedIn> {
  await tries.consume(`${address}:${email.toLowerCase()}`).catch(() => {
    throw new AppError("tooManyTries", "Too many tries. Wait five minutes and try again.");
  });
  const user = await userByEmail(email);
  const right = await passwordMatches(user?.passwordHash, password);
  if (!user || !right) throw new AppError("wrongPassword", "That e-mail and password do not belong together.");
  await tries.delete(`${address}:${email.toLowerCase()}`);
  const session = await open();
  session.userId = user.id;
  await session.save();
  return { userId: user.id, organisationId: user.organisationId, name: user.name, email: user.email, role: user.role };
}

export async function signOut(): Promise<void> {
  const session = await open();
  session.destroy();
}

/** Who is signed in, read from the database each time so that a changed role counts at once. */
export async function signedIn(): Promise<SignedIn | null> {
  const session = await open();
  if (!session.userId) return null;
  const user = await userById(session.userId);
  return user
    ? { userId: user.id, organisationId: user.organisationId, name: user.name, email: user.email, role: user.role }
    : null;
}
