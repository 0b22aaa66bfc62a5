import { createHash, randomBytes } from "node:crypto";
import { Secret, TOTP } from "otpauth";
import { AppError } from "../app-error.ts";
import {
  beginTwoFactor,
  confirmTwoFactor,
  replaceRecoveryCodes,
  twoFactorOf,
  spendRecoveryCode,
  markStep,
} from "../db/two-factor.ts";
import type { UserRow } from "../db/users.ts";
import { seal, unseal } from "./seal.ts";

/** A clock may be so many steps of 30 s off. */
const STEPS_OFF = 1;
const STEP_S = 30;
const SECRET_BYTES = 20;
const RECOVERY_CODES = 10;

type Whose = Pick<UserRow, "id" | "organisationId" | "email">;

const totp = (secret: string, email: string): TOTP =>
  new TOTP({ issuer: "Presa", label: email, secret: Secret.fromBase32(secret), period: STEP_S });
const digestOf = (code: string): Buffer => createHash("sha256").update(code).digest();
/** As it is typed: without spaces and dashes, in small letters. */
const bare = (code: string): string => code.replace(/[\s-]/g, "").toLowerCase();

/** A new secret for an authenticator; it is asked for only once it is confirmed. */
export async function beginSecondStep(whose: Whose): Promise<{ uri: string; secret: string }> {
  const secret = new Secret({ size: SECRET_BYTES }).base32;
  if (!(await beginTwoFactor(whose, seal(secret))))
    throw new AppError("conflict", "A second step is set up already. Take it off first.");
  return { uri: totp(secret, whose.email).toString(), secret };
}

/** Confirms it with a code of the authenticator; the recovery codes are told here and never again. */
export async function confirmSecondStep(whose: Whose, code: string, now: Date): Promise<string[]> {
  const row = await twoFactorOf(whose.id);
  if (!row || row.confirmedAt) throw new AppError("conflict", "There is nothing to confirm. Begin again.");
  if (!(await isRight(whose, row.secret, code, now)))
    throw new AppError("badRequest", "That code is not right. Is the clock of the phone? Try the next one.");
  const codes = newCodes();
  await confirmTwoFactor(whose, codes.map(bare).map(digestOf));
  return codes;
}

/** Other recovery codes in the place of those there were. */
export async function newRecoveryCodes(whose: Whose): Promise<string[]> {
  if (!(await twoFactorOf(whose.id))?.confirmedAt) throw new AppError("conflict", "No second step is set up.");
  const codes = newCodes();
  await replaceRecoveryCodes(whose, codes.map(bare).map(digestOf));
  return codes;
}

/** Whether somebody's sign-in asks for a code too. */
export const asksForCode = async (userId: string): Promise<boolean> => (await twoFactorOf(userId))?.confirmedAt != null;

/** What a code was that counts: one of the authenticator, or a recovery code; each counts once. */
export async function checkCode(whose: Whose, code: string, now: Date): Promise<"code" | "recovery" | null> {
  const row = await twoFactorOf(whose.id);
  if (!row?.confirmedAt) return null;
  if (await isRight(whose, row.secret, code, now)) return "code";
  return (await spendRecoveryCode(whose.id, digestOf(bare(code)))) ? "recovery" : null;
}

async function isRight(whose: Whose, sealed: Buffer, code: string, now: Date): Promise<boolean> {
  const secret = unseal(sealed);
  const token = bare(code);
  if (secret === null || !/^\d{6}$/.test(token)) return false;
  const timestamp = now.getTime();
  const off = totp(secret, whose.email).validate({ token, timestamp, window: STEPS_OFF });
  return off !== null && markStep(whose.id, Math.floor(timestamp / 1000 / STEP_S) + off);
}

/** Ten codes of fifty bits, in letters and figures that nobody mistakes. */
function newCodes(): string[] {
  const letters = "abcdefghjkmnpqrstuvwxyz23456789";
  return Array.from({ length: RECOVERY_CODES }, () => {
    const drawn: string[] = [];
    while (drawn.length < 10)
      for (const byte of randomBytes(16)) if (byte < 248 && drawn.length < 10) drawn.push(letters[byte % 31] as string);
    return `${drawn.slice(0, 5).join("")}-${drawn.slice(5).join("")}`;
  });
}
