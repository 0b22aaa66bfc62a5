import { RateLimiterPostgres } from "rate-limiter-flexible";
import { AppError } from "../app-error.ts";
import { operatorsPool } from "../db/connection.ts";

/** Failures in so many seconds are counted together. */
const WITHIN_S = 15 * 60;
/** Wrong tries that an address has, whoever's account it tries. */
const TRIES_OF_AN_ADDRESS = 30;
/** After so many wrong tries at an account each further one waits: nobody is locked out of their own by others. */
const FREE_TRIES = 4;
const LONGEST_WAIT_MS = 8000;
/** So many may wait at once in this process. */
const MOST_WAITING = 50;

type Limits = { account: RateLimiterPostgres; address: RateLimiterPostgres };
const global = globalThis as typeof globalThis & { presaSignInLimits?: Limits };
let waiting = 0;

/** Kept in PostgreSQL: all web processes count together, and a restart forgets nothing. */
function limits(): Limits {
  const of = (keyPrefix: string, points: number): RateLimiterPostgres =>
    new RateLimiterPostgres({
      storeClient: operatorsPool(),
      storeType: "pool",
      tableName: "sign_in_limit",
      tableCreated: true,
      keyPrefix,
      points,
      duration: WITHIN_S,
    });
  global.presaSignInLimits ??= { account: of("account", 1_000_000), address: of("address", TRIES_OF_AN_ADDRESS) };
  return global.presaSignInLimits;
}

const keyOf = (email: string): string => email.trim().toLowerCase().slice(0, 200);

/** @returns ms that a further try waits after so many wrong ones */
export const waitAfter = (wrong: number): number =>
  wrong < FREE_TRIES ? 0 : Math.min(LONGEST_WAIT_MS, 250 * 2 ** (wrong - FREE_TRIES));

/** Lets a try go on, at once or after its wait; an address that has tried too often is refused. */
export async function beforeTry(email: string, address: string): Promise<void> {
  const tried = await limits().address.get(address);
  if (tried && tried.consumedPoints >= TRIES_OF_AN_ADDRESS) throw tooMany(tried.msBeforeNext);
  const wrong = (await limits().account.get(keyOf(email)))?.consumedPoints ?? 0;
  const wait = waitAfter(wrong);
  if (wait === 0) return;
  if (waiting >= MOST_WAITING) throw tooMany(wait);
  waiting++;
  await new Promise((go) => setTimeout(go, wait));
  waiting--;
}

export async function afterWrongTry(email: string, address: string): Promise<void> {
  // Over its points it is refused next time; this answer is the same as any other wrong one.
  await Promise.all([
    limits()
      .address.consume(address)
      .catch(() => {}),
    limits()
      .account.consume(keyOf(email))
      .catch(() => {}),
  ]);
}

export async function afterRightTry(email: string): Promise<void> {
  await limits().account.delete(keyOf(email));
}

function tooMany(ms: number): AppError {
  const minutes = Math.max(1, Math.ceil(ms / 60_000));
  return new AppError(
    "tooManyTries",
    `Too many tries from here. Wait ${minutes} minute${minutes > 1 ? "s" : ""} and try again.`,
  );
}
