import { AsyncLocalStorage } from "node:async_hooks";
import { createHash } from "node:crypto";
import knex, { type Knex } from "knex";
import pg from "pg";
import { fencedClient } from "./fence.ts";
import { migrations } from "./migrations/all.ts";
import { asOperator } from "./reach.ts";

pg.types.setTypeParser(20, (value: string) => Number(value));
pg.types.setTypeParser(1700, (value: string) => Number(value));

const global = globalThis as typeof globalThis & { presaDatabase?: Knex; presaOperators?: pg.Pool };
const transactions = new AsyncLocalStorage<Knex.Transaction>();

/** No transaction rests longer, s. */
const LONGEST_REST_S = 60;

export function databaseUrl(): string {
  const url = process.env["DATABASE_URL"];
  if (!url) throw new Error("DATABASE_URL is not set; bin/start sets it.");
  return url;
}

/** Columns are snake_case in the database and camelCase in the code; what stands inside a JSON column is left as it is. */
const inCode = (column: string): string => column.replace(/_([a-z0-9])/g, (_, c: string) => c.toUpperCase());
const inDatabase = (column: string): string => column.replace(/[A-Z]/g, (c) => `_${c.toLowerCase()}`);
const renamed = (row: unknown): unknown =>
  row !== null && typeof row === "object" && Object.getPrototypeOf(row) === Object.prototype
    ? Object.fromEntries(Object.entries(row).map(([column, value]) => [inCode(column), value]))
    : row;

/** What knex makes of an answer: rows, one row, or a raw result with rows. */
function answered(result: unknown): unknown {
  if (Array.isArray(result)) return result.map(renamed);
  if (result !== null && typeof result === "object" && Array.isArray((result as { rows?: unknown }).rows))
    return Object.assign(result, { rows: (result as { rows: unknown[] }).rows.map(renamed) });
  return renamed(result);
}

function pool(): Knex {
  global.presaDatabase ??= knex({
    client: fencedClient(),
    connection: { connectionString: databaseUrl(), idle_in_transaction_session_timeout: LONGEST_REST_S * 1000 },
    pool: { min: 0, max: 10 },
    wrapIdentifier: (column, wrap) => wrap(inDatabase(column)),
    postProcessResponse: answered,
  });
  return global.presaDatabase;
}

/** The current transaction if there is one, else the pool: every query can join. */
export function db(): Knex | Knex.Transaction {
  return transactions.getStore() ?? pool();
}

/**
 * A statement that is asked all day: each connection plans it once, which takes the database longer than answering it. Only for texts of which there are few,
 * since a connection keeps every plan it made.
 */
export function planned(sql: string, bindings: Record<string, string | number | boolean | Date | string[]>): Knex.Raw {
  // Knex takes lists as values; its types know single ones only.
  return db()
    .raw(sql, bindings as Record<string, Knex.RawBinding>)
    .options({ name: createHash("sha1").update(sql).digest("hex") });
}

/**
 * Does work as one transaction, or within the one that is being done.
 *
 * @param restS a transaction that asks nothing for so long is undone by the database, s: its process hangs, and others wait for what it holds
 */
export async function inTransaction<T>(work: () => Promise<T>, restS?: number): Promise<T> {
  if (transactions.getStore()) return work();
  return pool().transaction((trx) =>
    transactions.run(trx, async () => {
      if (restS !== undefined)
        await trx.raw("select set_config('idle_in_transaction_session_timeout', ?, true)", [`${restS}s`]);
      return work();
    }),
  );
}

/** Migrates forward from whatever is there. */
export async function migrate(): Promise<void> {
  await asOperator(() =>
    pool().migrate.latest({
      migrationSource: {
        getMigrations: async () => Object.keys(migrations).sort(),
        getMigrationName: (name: string) => name,
        getMigration: async (name: string) => migrations[name] as Knex.Migration,
      },
    }),
  );
}

/** A few plain connections with the operator's rights, for packages that bring their own queries. */
export function operatorsPool(): pg.Pool {
  if (!global.presaOperators) {
    global.presaOperators = new pg.Pool({ connectionString: databaseUrl(), max: 2, idleTimeoutMillis: 10_000 });
    // An idle connection that breaks is not asked for again; without this it would end the process.
    global.presaOperators.on("error", () => {});
  }
  return global.presaOperators;
}

export async function closeDatabase(): Promise<void> {
  await global.presaOperators?.end();
  delete global.presaOperators;
  await global.presaDatabase?.destroy();
  delete global.presaDatabase;
}
