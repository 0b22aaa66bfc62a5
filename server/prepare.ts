import { closeDatabase, migrate } from "./db/connection.ts";
import { loadDemo } from "./demo/load.ts";
import { DEMO_PASSWORD, DEMO_USERS } from "./demo/people.ts";

/** Migrates, loads the demo into an empty database, and prints the demo sign-ins. */
await migrate();
await loadDemo();
for (const user of DEMO_USERS) process.stdout.write(`  ${user.email.padEnd(24)} ${DEMO_PASSWORD}   (${user.role})\n`);
await closeDatabase();
