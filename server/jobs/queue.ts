import PgBoss from "pg-boss";
import { databaseUrl } from "../db/connection.ts";

/** Long work waits in PostgreSQL; any number of worker processes take it. */
export const LEARNING_QUEUE = "learning";

const global = globalThis as typeof globalThis & { presaQueue?: Promise<PgBoss> };

export function queue(): Promise<PgBoss> {
  global.presaQueue ??= (async () => {
    const boss = new PgBoss({ connectionString: databaseUrl(), max: 4 });
    boss.on("error", () => {});
    await boss.start();
    await boss.createQueue(LEARNING_QUEUE);
    return boss;
  })();
  return global.presaQueue;
}
