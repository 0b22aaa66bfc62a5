import { hash, verify } from "@node-rs/argon2";

/** Of no one's password; verified against when there is no such user, so that both answers take as long. */
let spare: Promise<string> | undefined;

export function hashPassword(password: string): Promise<string> {
  return hash(password);
}

export async function passwordMatches(stored: string | undefined, password: string): Promise<boolean> {
  spare ??= hash("no user has this password");
  const right = await verify(stored ?? (await spare), password).catch(() => false);
  return right && stored !== undefined;
}
