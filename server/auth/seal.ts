import { createCipheriv, createDecipheriv, hkdfSync, randomBytes } from "node:crypto";

const [IV, TAG] = [12, 16];

/** A key of its own for what is kept sealed in the database, from the secret that is kept apart from it. */
function key(): Buffer {
  const secret = process.env["SESSION_SECRET"];
  if (!secret || secret.length < 32) throw new Error("SESSION_SECRET of 32 characters or more is not set.");
  return Buffer.from(hkdfSync("sha256", secret, "", "presa sealed column", 32));
}

/** AES-256-GCM: nonce, tag, text. */
export function seal(plain: string): Buffer {
  const iv = randomBytes(IV);
  const cipher = createCipheriv("aes-256-gcm", key(), iv);
  const text = Buffer.concat([cipher.update(plain, "utf8"), cipher.final()]);
  return Buffer.concat([iv, cipher.getAuthTag(), text]);
}

/** @returns null where it was sealed with another secret, or is not what was sealed */
export function unseal(sealed: Buffer): string | null {
  try {
    const decipher = createDecipheriv("aes-256-gcm", key(), sealed.subarray(0, IV));
    decipher.setAuthTag(sealed.subarray(IV, IV + TAG));
    return Buffer.concat([decipher.update(sealed.subarray(IV + TAG)), decipher.final()]).toString("utf8");
  } catch {
    return null;
  }
}
