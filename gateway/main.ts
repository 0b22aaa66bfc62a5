import { readFileSync } from "node:fs";
import { parseArgs } from "node:util";
import { parseSiteText } from "../core/site-file/parse-site.ts";
import { startGateway } from "./gateway.ts";

const USAGE = `Plays a site as its controller and field gateway would, over MQTT on loopback. It opens no real valves.

  bin/gateway FILE [--port N] [--folder DIR] [--from 2026-07-14T21:00:00-06:00] [--pace N] [--faults FAULTS.json] [--seed N]

  --port     of the broker on 127.0.0.1 (default 18830)
  --folder   where what was said is kept (default .presa/gateway/SITE-ID); starting again goes on where it ended
  --from     begin anew at this instant; never ahead of the clock
  --pace     seconds of the site in one second, until it has caught up with the clock (default 1)
`;

function fail(words: string): never {
  process.stderr.write(`${words}\n\n${USAGE}`);
  process.exit(2);
}

function numberOf(text: string | undefined, name: string, least: number, most: number): number | undefined {
  if (text === undefined) return undefined;
  const value = Number(text);
  if (!Number.isFinite(value) || value < least || value > most)
    fail(`--${name} takes a number from ${least} to ${most}.`);
  return value;
}

function options() {
  try {
    return parseArgs({
      allowPositionals: true,
      options: {
        port: { type: "string" },
        folder: { type: "string" },
        from: { type: "string" },
        pace: { type: "string" },
        faults: { type: "string" },
        seed: { type: "string" },
        help: { type: "boolean" },
      },
    });
  } catch (error) {
    return fail(error instanceof Error ? error.message : String(error));
  }
}

function read(file: string): string {
  try {
    return readFileSync(file, "utf8");
  } catch {
    return fail(`${file} cannot be read.`);
  }
}

function readFaults(file: string): unknown[] {
  try {
    const value: unknown = JSON.parse(read(file));
    if (Array.isArray(value)) return value;
  } catch {
    // Said below, as for what is no list.
  }
  return fail(`${file} is not a list of faults in JSON.`);
}

const { values, positionals } = options();
if (values.help) {
  process.stdout.write(USAGE);
  process.exit(0);
}
const [file] = positionals;
if (!file || positionals.length > 1) fail("One site file is needed.");
const parsed = parseSiteText(read(file));
if (!parsed.ok) fail(`${file} is not a site file: ${parsed.problems[0]?.message}`);
const from = values.from === undefined ? undefined : Math.floor(Date.parse(values.from) / 1000);
if (from !== undefined && !Number.isFinite(from)) fail("--from takes an instant such as 2026-07-14T21:00:00-06:00.");
const faults = values.faults === undefined ? undefined : readFaults(values.faults);
const gateway = await startGateway({
  site: parsed.site,
  folder: values.folder ?? `.presa/gateway/${parsed.site.site.id.replace(/[^\w.-]/g, "_")}`,
  port: numberOf(values.port, "port", 0, 65535) ?? 18830,
  pace: numberOf(values.pace, "pace", 1, 3600),
  seed: numberOf(values.seed, "seed", 0, 1e9),
  from,
  faults,
  say: (words) => process.stderr.write(`${words}\n`),
}).catch((error: Error) => {
  process.stderr.write(`The gateway did not start: ${error.message}\n`);
  process.exit(1);
});
process.stdout.write(`mqtt://127.0.0.1:${gateway.port}  ${gateway.topic}\n`);
const stop = async (): Promise<void> => {
  await gateway.stop();
  process.exit(0);
};
process.on("SIGTERM", stop);
process.on("SIGINT", stop);
