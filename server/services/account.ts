import type { AccountView, Language, RecoveryCodes, Theme, TwoFactorBegun } from "../../contracts/people.ts";
import { AppError } from "../app-error.ts";
import { hashPassword, passwordMatches } from "../auth/password.ts";
import { asksForCode, beginSecondStep, confirmSecondStep, newRecoveryCodes } from "../auth/second-step.ts";
import { endAll, type InSession, startSession } from "../auth/session.ts";
import { afterRightTry, afterWrongTry, beforeTry } from "../auth/sign-in-limits.ts";
import { inTransaction } from "../db/connection.ts";
import { organisationById } from "../db/keeping.ts";
import { isSessionOf, sessionsOf } from "../db/people.ts";
import { dropTwoFactor, recoveryCodesLeft } from "../db/two-factor.ts";
import {
  endSessionsOf,
  type From,
  setLanguage,
  setName,
  setPassword,
  setTheme,
  type UserRow,
  userById,
} from "../db/users.ts";
import { audited } from "./audited.ts";

/** One's own account. */
export async function accountView(user: InSession): Promise<AccountView> {
  const { userId, organisationId, name, email, role } = user;
  const [organisation, twoFactor, left, sessions] = await Promise.all([
    organisationById(organisationId),
    asksForCode(userId),
    recoveryCodesLeft(userId),
    sessionsOf(userId),
  ]);
  return {
    id: userId,
    name,
    email,
    role,
    organisation: organisation?.name ?? "",
    twoFactor,
    recoveryCodesLeft: left,
    sessions: sessions.map((s) => ({ ...s, here: s.id === user.sessionId })),
  };
}

export async function rename(user: InSession, name: string): Promise<void> {
  await inTransaction(async () => {
    await setName(user.userId, name);
    await audited({ ...user, name }, "renamed", `${user.name} → ${name}`);
  });
}

/** The theme that they like, wherever they sign in from now on. */
export const likeTheme = (user: InSession, liked: Theme): Promise<void> => setTheme(user.userId, liked);

/** The language that they read dates in, wherever they sign in from now on. */
export const readDatesIn = (user: InSession, language: Language): Promise<void> => setLanguage(user.userId, language);

/** Another password: every session of theirs ends at once, and this browser begins a new one. */
export async function changePassword(
  user: InSession,
  asked: { current: string; password: string },
  from: From,
): Promise<void> {
  const person = await own(user, asked.current, from);
  const passwordHash = await hashPassword(asked.password);
  const ended = await inTransaction(async () => {
    await setPassword(user.userId, passwordHash);
    await audited(user, "passwordChanged");
    return endSessionsOf(user.userId);
  });
  await endAll(ended);
  await startSession(person, from);
}

/** Who asks, once their password is right; wrong tries count as they do at the door. */
async function own(user: InSession, password: string, { address }: From): Promise<UserRow> {
  await beforeTry(user.email, address);
  const person = await userById(user.userId);
  if (!person || !(await passwordMatches(person.passwordHash, password))) {
    await afterWrongTry(user.email, address);
    throw new AppError("badRequest", "That is not your password.");
  }
  await afterRightTry(user.email);
  return person;
}

/** Ends one of one's own sessions, wherever it is. */
export async function endOwnSession(user: InSession, sessionId: string): Promise<void> {
  if (!(await isSessionOf(user.userId, sessionId))) throw new AppError("notFound", "That session has ended already.");
  await endAll([sessionId]);
  await audited(user, "sessionsEnded", "one of their own");
}

/** Ends every session of one's own but the one this is asked in. */
export async function endOtherSessions(user: InSession): Promise<void> {
  const others = (await sessionsOf(user.userId)).map((s) => s.id).filter((id) => id !== user.sessionId);
  await endAll(others);
  await audited(user, "sessionsEnded", "all of their own but one");
}

export const beginTwoFactor = (user: InSession): Promise<TwoFactorBegun> => beginSecondStep(as(user));

export async function confirmTwoFactor(user: InSession, code: string, now: Date): Promise<RecoveryCodes> {
  const recoveryCodes = await confirmSecondStep(as(user), code, now);
  await audited(user, "twoFactorOn");
  return { recoveryCodes };
}

export async function endTwoFactor(user: InSession, password: string, from: From): Promise<void> {
  await own(user, password, from);
  if (!(await dropTwoFactor(user.userId))) throw new AppError("conflict", "No second step is set up.");
  await audited(user, "twoFactorOff");
}

export async function otherRecoveryCodes(user: InSession, password: string, from: From): Promise<RecoveryCodes> {
  await own(user, password, from);
  const recoveryCodes = await newRecoveryCodes(as(user));
  await audited(user, "recoveryCodesMade");
  return { recoveryCodes };
}

const as = ({ userId, organisationId, email }: InSession) => ({ id: userId, organisationId, email });
