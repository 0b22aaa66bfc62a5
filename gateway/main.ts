import { existsSync, readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { parseArgs } from "node:util";
import { z } from "zod";
import { parseSiteText } from "../core/site-file/parse-site.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { handChange } from "./by-hand.ts";
import { startGateway } from "./gateway.ts";
import { serveHandPage } from "./hand-page.ts";
import { type GatewayKey, gatewayKey, type GatewayOptions } from "./options.ts";
import type { SiteGateway } from "./site-gateway.ts";

const USAGE = `Plays sites as their controllers and field gateways would, over MQTT. It opens no real valves.

  bin/gateway FILE --key KEY.json [--folder DIR] [--from 2026-07-14T21:00:00-06:00] [--pace N] [--faults FAULTS.json] [--seed N] [--page PORT]
  bin/gateway --sites DIR [--from …] [--pace N] [--seed N] [--page PORT]
  bin/gateway hand http://127.0.0.1:PORT SITE-ID '{"what":"starts","controllerId":"c1","programId":"p1","starts":["04:30"]}'

  --key      what Presa gave this site's gateway (Controllers, Live: Set up a gateway): the broker, its account and password
  --folder   where what was said and what the controllers hold is kept (default .presa/gateway/SITE-ID); starting again goes on where it ended
  --sites    plays every DIR/*/site.json with its key.json; DIR/*/begin.json, if it is there, lists what is otherwise at the controllers when they begin
  --from     begin anew at this instant; never ahead of the clock. With --sites only for sites that were never played
  --pace     seconds of the site in one second, until it has caught up with the clock (default 1)
  --page     a plain page on loopback at which one stands before the controllers
  hand       does at a controller what that page can do: starts, minutes, days, enabled, percent, clock, power, profile, clear, silent
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
  const string = { type: "string" } as const;
  try {
    return parseArgs({
      allowPositionals: true,
      options: {
        key: string,
        folder: string,
        sites: string,
        from: string,
        pace: string,
        faults: string,
        seed: string,
        page: string,
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

function readList<T>(file: string, schema: z.ZodType<T>, what: string): T[] {
  try {
    return z.array(schema).parse(JSON.parse(read(file)));
  } catch (error) {
    return fail(
      `${file} is not a list of ${what} in JSON${error instanceof z.ZodError ? `: ${z.prettifyError(error)}` : ""}.`,
    );
  }
}

function readKey(file: string | undefined): GatewayKey {
  if (file === undefined) fail("--key is needed: what Presa gave this site's gateway.");
  try {
    return gatewayKey.parse(JSON.parse(read(file)));
  } catch {
    return fail(`${file} is not what Presa gives a gateway: an address, an account and a password in JSON.`);
  }
}

function readSite(file: string): SiteFile {
  const parsed = parseSiteText(read(file));
  if (!parsed.ok) fail(`${file} is not a site file: ${parsed.problems[0]?.message}`);
  return parsed.site;
}

async function hand([url, siteId, change]: string[]): Promise<never> {
  if (!url || !siteId || !change) fail("hand takes the page's address, a site's id and a change in JSON.");
  const response = await fetch(`${url.replace(/\/$/, "")}/site/${encodeURIComponent(siteId)}`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: change,
  }).catch((error: Error) => fail(`Nobody answers at ${url}: ${error.message}`));
  const text = await response.text();
  process[response.ok ? "stdout" : "stderr"].write(text.startsWith("{") ? "Done at the controller.\n" : text);
  process.exit(response.ok ? 0 : 1);
}

const { values, positionals } = options();
if (values.help) {
  process.stdout.write(USAGE);
  process.exit(0);
}
if (positionals[0] === "hand") await hand(positionals.slice(1));
const from = values.from === undefined ? undefined : Math.floor(Date.parse(values.from) / 1000);
if (from !== undefined && !Number.isFinite(from)) fail("--from takes an instant such as 2026-07-14T21:00:00-06:00.");
const common = {
  pace: numberOf(values.pace, "pace", 1, 3600),
  seed: numberOf(values.seed, "seed", 0, 1e9),
};
const page = numberOf(values.page, "page", 0, 65_535);

function toPlay(): GatewayOptions[] {
  if (values.sites !== undefined) {
    const { sites } = values;
    if (positionals.length > 0) fail("With --sites no file is named.");
    return readdirSync(sites, { withFileTypes: true })
      .filter((d) => d.isDirectory() && existsSync(join(sites, d.name, "site.json")))
      .map(({ name }) => {
        const folder = join(sites, name);
        const begin = join(folder, "begin.json");
        return {
          ...common,
          site: readSite(join(folder, "site.json")),
          key: readKey(join(folder, "key.json")),
          folder,
          begin: existsSync(begin) ? readList(begin, handChange, "changes") : undefined,
          from: existsSync(join(folder, "stream.json")) ? undefined : from,
        };
      });
  }
  const [file] = positionals;
  if (!file || positionals.length > 1) fail("One site file is needed, or --sites with a folder of them.");
  const site = readSite(file);
  return [
    {
      ...common,
      site,
      key: readKey(values.key),
      folder: values.folder ?? `.presa/gateway/${site.site.id.replace(/[^\w.-]/g, "_")}`,
      from,
      faults: values.faults === undefined ? undefined : readList(values.faults, z.unknown(), "faults"),
    },
  ];
}

const played: SiteGateway[] = [];
for (const one of toPlay()) {
  const name = one.site.site.name;
  try {
    const { site } = await startGateway({ ...one, say: (words) => process.stderr.write(`${name}: ${words}\n`) });
    played.push(site);
    process.stdout.write(`Plays ${name} at ${one.key.broker}\n`);
  } catch (error) {
    process.stderr.write(`The gateway of ${name} did not start: ${error instanceof Error ? error.message : error}\n`);
  }
}
if (played.length === 0) process.exit(1);
if (page !== undefined) {
  const server = await serveHandPage(played, page).catch((error: Error) =>
    fail(`The page at the controllers did not start: ${error.message}`),
  );
  const at = server.address();
  if (at && typeof at === "object") process.stdout.write(`At the controllers: http://127.0.0.1:${at.port}\n`);
}
const stop = async (): Promise<void> => {
  await Promise.all(played.map((site) => site.stop()));
  process.exit(0);
};
process.on("SIGTERM", stop);
process.on("SIGINT", stop);
