import { AsyncLocalStorage } from "node:async_hooks";
import knex, { type Knex } from "knex";
import pg from "pg";
import { migrations } from "./migrations/all.ts";

pg.types.setTypeParser(20, (value: string) => Number(value));
pg.types.setTypeParser(1700, (value: string) => Number(value));

const global = globalThis as typeof globalThis & { presaDatabase?: Knex };
const transactions = new AsyncLocalStorage<Knex.Transaction>();

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
    client: "pg",
    connection: databaseUrl(),
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

export async function inTransaction<T>(work: () => Promise<T>): Promise<T> {
  if (transactions.getStore()) return work();
  return pool().transaction((trx) => transactions.run(trx, work));
}

/** Migrates forward from whatever is there. */
export async function migrate(): Promise<void> {
  await pool().migrate.latest({
    migrationSource: {
      getMigrations: async () => Object.keys(migrations).sort(),
      getMigrationName: (name: string) => name,
      getMigration: async (name: string) => migrations[name] as Knex.Migration,
    },
  });
}

export async function closeDatabase(): Promise<void> {
  await global.presaDatabase?.destroy();
  delete global.presaDatabase;
}
