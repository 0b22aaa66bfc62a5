import { text } from "node:stream/consumers";
import { parseArgs } from "node:util";
import { normalise } from "./app-error.ts";
import { closeDatabase, migrate } from "./db/connection.ts";
import { thisProcessIsTheOperators } from "./db/reach.ts";
import { writeDemoGateways } from "./demo/gateway.ts";
import { loadDemo } from "./demo/load.ts";
import { DEMO_PASSWORD, DEMO_USERS } from "./demo/people.ts";
import { endHeavy } from "./heavy/pool.ts";
import { addOrganisation } from "./services/people.ts";

const USAGE = `node --import tsx server/prepare.ts [--demo [--gateway FOLDER]] [--organisation NAME --manager NAME --email ADDRESS]

Brings the database at DATABASE_URL to this version's tables. Nobody can sign in to an empty one until there is an organisation:

  --organisation …   adds one with its first manager; the password, at least 12 characters, is read from standard input
  --demo             loads made-up organisations, people and sites into an empty database and prints their sign-ins
  --gateway FOLDER   writes there what the simulated gateway needs to play the demo sites
`;

async function demo(gateway: string | undefined): Promise<void> {
  await loadDemo();
  for (const user of DEMO_USERS)
    process.stdout.write(`  ${user.email.padEnd(24)} ${DEMO_PASSWORD}   (${user.role}, ${user.organisation})\n`);
  if (gateway !== undefined) await writeDemoGateways(gateway);
}

async function prepare(): Promise<void> {
  const string = { type: "string" } as const;
  const { values } = parseArgs({
    options: {
      demo: { type: "boolean" },
      help: { type: "boolean" },
      gateway: string,
      organisation: string,
      manager: string,
      email: string,
    },
  });
  if (values.help) {
    process.stdout.write(USAGE);
    return;
  }
  thisProcessIsTheOperators();
  await migrate();
  if (values.demo) await demo(values.gateway);
  const { organisation, manager = "", email = "" } = values;
  if (organisation === undefined) return;
  const password = (await text(process.stdin)).replace(/\r?\n$/, "");
  await addOrganisation({ organisation, manager, email, password });
  process.stdout.write(`${organisation} is there; ${email} can sign in.\n`);
}

try {
  await prepare();
} catch (thrown) {
  const error = normalise(thrown);
  process.stderr.write(`${error.code === "internal" ? String(thrown) : error.message}\n`);
  process.exitCode = 1;
} finally {
  await endHeavy();
  await closeDatabase();
}
