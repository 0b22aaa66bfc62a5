import { writeFileSync } from "node:fs";
import { writeSiteText } from "../core/site-file/parse-site.ts";
import { closeDatabase, migrate } from "./db/connection.ts";
import { DEMO_GATEWAY } from "./demo/gateway.ts";
import { loadDemo } from "./demo/load.ts";
import { DEMO_PASSWORD, DEMO_USERS } from "./demo/people.ts";
import { demoSites } from "./demo/sites.ts";

/** Migrates, loads the demo into an empty database, and prints the demo sign-ins. With a file name: writes there the site that the simulated gateway plays. */
await migrate();
await loadDemo();
for (const user of DEMO_USERS) process.stdout.write(`  ${user.email.padEnd(24)} ${DEMO_PASSWORD}   (${user.role})\n`);
const [gatewaySite] = process.argv.slice(2);
const played = demoSites().find((s) => s.site.id === DEMO_GATEWAY.siteFileId);
if (gatewaySite && played) writeFileSync(gatewaySite, writeSiteText(played));
await closeDatabase();
