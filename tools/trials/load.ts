import { parseArgs } from "node:util";
import { DEMO_PASSWORD, DEMO_USERS } from "../../server/demo/people.ts";
import { demoSites } from "../../server/demo/sites.ts";
import { loopback, percentile, Person } from "./client.ts";

const USAGE = `npm run load [-- --small]

Twenty people of one organisation at work for a minute on a running Presa with the demo in it (PRESA_URL, default http://127.0.0.1:4310; this machine only), while another
organisation takes nights on the bench, answers drills and imports sites and lists without a pause. Prints how long the first waited; fails on any error, or when 5 of 100 of
their requests took over 300 ms. --small is 5 people for 8 s, and fails on errors only.
`;
const { values } = parseArgs({ options: { small: { type: "boolean" }, help: { type: "boolean" } } });
if (values.help) {
  process.stdout.write(USAGE);
  process.exit(0);
}
const few = values.small === true;
const base = loopback(process.env["PRESA_URL"] ?? "http://127.0.0.1:4310");
const [people, seconds] = few ? [5, 8] : [20, 60];
/** Over this a person notices, ms. */
const P95_MS = 300;
/** A person looks at what came before they go on: so long on the average, ms, now more, now less; people do not walk in step. */
const LOOKS_MS = 1000;
const looks = (): Promise<void> => new Promise((r) => setTimeout(r, LOOKS_MS * (0.5 + Math.random())));

const [MANAGER, , , STRANGER] = DEMO_USERS;
const workers = await Promise.all(
  Array.from({ length: people }, () => Person.signedIn(base, MANAGER.email, DEMO_PASSWORD)),
);
const busy = await Person.signedIn(base, STRANGER.email, DEMO_PASSWORD);
const sites = await (workers[0] as Person).sites();
/** Each has a site to save on; making them is no part of the day that is measured. */
const own: string[] = [];
for (const [n, person] of workers.entries())
  own.push(await person.newSite(demoSites()[n % 3] as ReturnType<typeof demoSites>[number]));
await (workers[0] as Person).ask("GET", "/");
const end = Date.now() + seconds * 1000;
const errors: string[] = [];
const waits = new Map<string, number[]>();

/** One after the other what is done all day: the list, a site, its alarms and log, a save of one's own. */
async function work(person: Person, n: number): Promise<void> {
  const ask = async (name: string, method: string, path: string, body?: unknown): Promise<unknown> => {
    const { status, ms, text, json } = await person.ask(method, path, body);
    waits.set(name, [...(waits.get(name) ?? []), ms]);
    if (status !== 200) errors.push(`${name}: ${status} ${text.slice(0, 120)}`);
    await looks();
    return json;
  };
  await new Promise((r) => setTimeout(r, (Math.random() * seconds * 1000) / 6));
  for (let i = n; Date.now() < end; i++) {
    const site = sites[i % sites.length]?.id;
    await ask("Rounds", "GET", "/");
    await ask("list of sites", "GET", "/api/sites");
    await ask("a site's page", "GET", `/sites/${site}/night`);
    await ask("a site's revision", "GET", `/api/sites/${site}/revisions`);
    await ask("Log", "GET", `/api/sites/${site}/log`);
    await ask("Alarms", "GET", "/api/alarms?state=open");
    await ask("learning", "GET", `/api/sites/${site}/learning`);
    type Now = { version: number; file: { site: Record<string, unknown> } };
    const now = (await ask("a site's revision", "GET", `/api/sites/${own[n]}/revisions`)) as Now;
    now.file.site["description"] = `Seen ${i}`;
    await ask("a save", "POST", `/api/sites/${own[n]}/revisions`, {
      baseVersion: now.version,
      file: now.file,
      note: "",
    });
  }
}

/** Another organisation's heaviest work, as fast as it is answered. */
async function burden(): Promise<Record<string, number>> {
  const done: Record<string, number> = { nights: 0, imports: 0, lists: 0, drills: 0 };
  const campus = demoSites().reduce((a, b) => (b.stations.length > a.stations.length ? b : a));
  const site = await busy.newSite(campus);
  const csv = `name,kind,continuousMaxLpm\n${Array.from({ length: 2000 }, (_, i) => `Meter ${i},meter,${100 + i}`).join("\n")}\n`;
  const named = { kind: "brokenLateral", subjectId: campus.stations[0]?.id };
  let seed = 0;
  const over = async (name: string, once: () => Promise<{ status: number; text: string }>): Promise<void> => {
    while (Date.now() < end) {
      const { status, text } = await once();
      // To be asked to wait is an answer; anything else that is not done is an error.
      if (status !== 200 && status !== 503) errors.push(`${name}: ${status} ${text.slice(0, 120)}`);
      if (status === 200) done[name] = (done[name] ?? 0) + 1;
    }
  };
  await Promise.all([
    ...[1, 2, 3, 4].map(() =>
      over("nights", () =>
        busy.ask("POST", `/api/sites/${site}/bench`, { date: "2026-07-14", faults: [], seed: seed++, exact: true }),
      ),
    ),
    over("imports", () => busy.newSite(campus).then(() => ({ status: 200, text: "" }))),
    over("lists", () => busy.ask("POST", "/api/library/csv?replace=1", csv)),
    over("drills", () =>
      busy.ask("POST", `/api/sites/${site}/drills`, { version: 1, date: "2026-07-14", seed: seed++, steps: [], named }),
    ),
  ]);
  return done;
}

const [done] = await Promise.all([burden(), ...workers.map((person, n) => work(person, n))]);
const all = [...waits.values()].flat();
const line = (name: string, times: number[]): string =>
  `${name.padEnd(20)} ${String(times.length).padStart(6)}  ${[50, 95, 100].map((p) => `${percentile(times, p).toFixed(0)} ms`.padStart(9)).join("")}\n`;
process.stdout.write(
  `${"asked".padEnd(20)} ${"times".padStart(6)}  ${["median", "p95", "worst"].map((w) => w.padStart(9)).join("")}\n`,
);
for (const [name, times] of waits) process.stdout.write(line(name, times));
process.stdout.write(line("all", all));
process.stdout.write(
  `meanwhile another organisation: ${Object.entries(done)
    .map(([what, n]) => `${n} ${what}`)
    .join(", ")}\n`,
);
for (const error of errors.slice(0, 10)) process.stdout.write(`ERROR ${error}\n`);
const slow = !few && percentile(all, 95) > P95_MS;
if (slow) process.stdout.write(`p95 is over ${P95_MS} ms\n`);
process.stdout.write(errors.length === 0 && !slow ? "held\n" : `${errors.length} errors\n`);
process.exit(errors.length === 0 && !slow ? 0 : 1);
