import { z } from "zod";
import { db, inTransaction } from "./connection.ts";
import { asOperator } from "./reach.ts";
import type { UserRow } from "./users.ts";

type Whose = Pick<UserRow, "id" | "organisationId">;
const row = z.object({ secret: z.instanceof(Buffer), confirmedAt: z.date().nullable(), lastStep: z.number() });
export type TwoFactorRow = z.infer<typeof row>;

export async function twoFactorOf(userId: string): Promise<TwoFactorRow | null> {
  const found: unknown = await asOperator(() => db()("two_factor").where({ userId }).first());
  return found ? row.parse(found) : null;
}

/** A secret that counts once it is confirmed; one that is confirmed is not written over. False: there is one. */
export async function beginTwoFactor({ id, organisationId }: Whose, secret: Buffer): Promise<boolean> {
  const rows = await asOperator(() =>
    db()("two_factor")
      .insert({ organisationId, userId: id, secret })
      .onConflict("user_id")
      .merge({ secret, lastStep: 0 })
      .whereNull("two_factor.confirmed_at")
      .returning("userId"),
  );
  return rows.length > 0;
}

/** Marks a step as used; false where it or a later one was used before. */
export async function markStep(userId: string, step: number): Promise<boolean> {
  return (
    (await asOperator(() =>
      db()("two_factor").where({ userId }).where("last_step", "<", step).update({ lastStep: step }),
    )) > 0
  );
}

/** From now on it is asked for. These recovery codes take the place of any before. */
export async function confirmTwoFactor(whose: Whose, digests: Buffer[]): Promise<void> {
  await asOperator(() =>
    inTransaction(async () => {
      await db()("two_factor").where({ userId: whose.id }).update({ confirmedAt: new Date() });
      await replaceRecoveryCodes(whose, digests);
    }),
  );
}

export async function replaceRecoveryCodes({ id, organisationId }: Whose, digests: Buffer[]): Promise<void> {
  await asOperator(() =>
    inTransaction(async () => {
      await db()("recovery_code").where({ userId: id }).delete();
      await db()("recovery_code").insert(digests.map((digest) => ({ organisationId, userId: id, digest })));
    }),
  );
}

/** False where it is none of theirs, or was used before. */
export async function spendRecoveryCode(userId: string, digest: Buffer): Promise<boolean> {
  const used = await asOperator(() =>
    db()("recovery_code").where({ userId, digest }).whereNull("usedAt").update({ usedAt: new Date() }),
  );
  return used > 0;
}

export async function recoveryCodesLeft(userId: string): Promise<number> {
  const found = await asOperator(() =>
    db()("recovery_code").where({ userId }).whereNull("usedAt").count({ n: "*" }).first(),
  );
  return Number(found?.n ?? 0);
}

export async function dropTwoFactor(userId: string): Promise<boolean> {
  return asOperator(() =>
    inTransaction(async () => {
      await db()("recovery_code").where({ userId }).delete();
      return (await db()("two_factor").where({ userId }).delete()) > 0;
    }),
  );
}
