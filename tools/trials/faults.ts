import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { randomUUID } from "node:crypto";
import { mkdtempSync, openSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { writeSiteText } from "../../core/site-file/parse-site.ts";
import { Journal } from "../../gateway/journal.ts";
import { closeDatabase, db, migrate } from "../../server/db/connection.ts";
import { thisProcessIsTheOperators } from "../../server/db/reach.ts";
import { endHeavy } from "../../server/heavy/pool.ts";
import { addOrganisation } from "../../server/services/people.ts";
import { smallSite } from "../../testing/small-site.ts";
import { Person } from "./client.ts";
import { RuledSite } from "./ruled-site.ts";

/*
 * bin/test faults (or npm run faults for 200 moments): web, two workers, a gateway, the broker and the database, each killed outright (SIGKILL) at random moments and
 * started again, while people save and make sites, stations are learned, a gateway is taken in, and controllers are sent settings and given orders. Then everything that was said to be done is looked for: no
 * accepted write lost, none twice, everything that was begun brought to its end. Runs on what bin/test starts, and stops only what it started itself and that.
 */
const MOMENTS = Number(process.env["FAULT_MOMENTS"] ?? 10);
const SEED = Number(process.env["FAULT_SEED"] ?? Math.floor(Math.random() * 1e9));
const PASSWORD = "a password for trials";
const BACK_S = 90;

let state = SEED;
const random = (): number => {
  state = (state * 1664525 + 1013904223) % 2 ** 32;
  return state / 2 ** 32;
};
const wrong: string[] = [];
const sleep = (ms: number): Promise<void> => new Promise((r) => setTimeout(r, ms));
const needed = (name: string): string => {
  const value = process.env[name];
  if (!value) throw new Error(`${name} is not set; bin/test faults sets it.`);
  return value;
};
const folder = mkdtempSync(join(tmpdir(), "presa-faults-"));
const out = openSync(join(folder, "processes.log"), "a");
const [pgDir, brokerDir] = [needed("PG_DIR"), needed("BROKER_DIR")];
const port = await new Promise<number>((yes) => {
  const server = createServer().listen(0, "127.0.0.1", () => {
    const { port } = server.address() as { port: number };
    server.close(() => yes(port));
  });
});
const base = `http://127.0.0.1:${port}`;

/** A process of Presa that is started again after each kill. */
class Part {
  private child: ChildProcess | null = null;
  private readonly ending = new Set<ChildProcess>();
  readonly name: string;
  private readonly args: string[];

  constructor(name: string, args: string[]) {
    this.name = name;
    this.args = args;
  }

  start(): void {
    const child = spawn(process.execPath, this.args, {
      stdio: ["ignore", out, out],
      env: { ...process.env, NODE_ENV: "production", NEXT_TELEMETRY_DISABLED: "1" },
    });
    this.child = child;
    // Whatever happens to the others, none ends by itself.
    child.once("exit", (code) => {
      if (!this.ending.has(child)) wrong.push(`${this.name} ended by itself with code ${code}`);
    });
  }

  async kill(): Promise<void> {
    await this.end("SIGKILL");
    this.start();
  }

  async end(signal: "SIGKILL" | "SIGTERM"): Promise<void> {
    const { child } = this;
    if (!child || child.exitCode !== null || child.signalCode !== null) return;
    const gone = new Promise((yes) => child.once("exit", yes));
    this.ending.add(child);
    child.kill(signal);
    await gone;
  }
}
/** What bin/test runs for us: killed by its number, started again by its own script. */
const shell = (script: string): void => {
  execFileSync("bash", ["-c", `. bin/common.sh; ${script}`], { stdio: ["ignore", out, out] });
};
const killDatabase = async (): Promise<void> => {
  process.kill(Number(readFileSync(join(pgDir, "data/postmaster.pid"), "utf8").split("\n")[0]), "SIGKILL");
  // Its children notice in a moment; until then it does not start.
  for (let i = 0; i < 30; i++) {
    try {
      shell("pg_again");
      return;
    } catch {
      await sleep(500);
    }
  }
  throw new Error("PostgreSQL does not start again");
};
const killBroker = async (): Promise<void> => {
  process.kill(Number(readFileSync(join(brokerDir, "pid"), "utf8")), "SIGKILL");
  shell("broker_again");
};

thisProcessIsTheOperators();
await migrate();
const email = `faults-${randomUUID()}@presa.example`;
await addOrganisation({ organisation: "Faults", manager: "Ada", email, password: PASSWORD });
const web = new Part("web", ["node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port)]);
const worker = (n: number): Part => new Part(`worker ${n}`, ["--import", "tsx", "server/jobs/worker.ts"]);
const workers = [worker(1), worker(2)];
web.start();
for (const w of workers) w.start();

const person = new Person(base);
/** Asks until there is an answer that is one: whoever is killed answers nothing, or that it is busy. */
async function surely(method: string, path: string, body?: unknown, more?: Record<string, string>) {
  for (const end = Date.now() + BACK_S * 1000; ; ) {
    const answer = await person.ask(method, path, body, more, AbortSignal.timeout(30_000)).catch(() => null);
    if (answer && answer.status < 500) return answer;
    if (Date.now() > end) throw new Error(`${method} ${path} is not answered any more: ${answer?.text ?? "nothing"}`);
    await sleep(200);
  }
}
await surely("POST", "/api/session", { email, password: PASSWORD });
const site = (change: (s: SiteFile) => void = () => {}): SiteFile =>
  smallSite((s) => {
    Object.assign(s.site, { id: `faults-${randomUUID()}` });
    change(s);
  });
const made = async (file: SiteFile): Promise<string> =>
  ((await surely("POST", "/api/sites", file)).json as { id: string }).id;

const played = site((s) => {
  const [program] = s.programs;
  if (!program) return;
  program.days = { type: "weekdays", days: ["mon", "tue", "wed", "thu", "fri", "sat", "sun"] };
  program.runs = [1, 2, 3].map((n) => ({ stationId: `s${n}`, minutes: 300 }));
});
const playedId = await made(played);
const key = (await surely("POST", `/api/sites/${playedId}/field`, {})).json;
writeFileSync(join(folder, "site.json"), writeSiteText(played));
writeFileSync(join(folder, "key.json"), JSON.stringify(key));
const from = new Date(Date.now() - 3 * 86_400_000);
// A minute or an hour before it begins to water there.
from.setUTCHours(19, 59, 0, 0);
const journalFolder = join(folder, "gateway");
const gatewayArgs = [
  "--import",
  "tsx",
  "gateway/main.ts",
  join(folder, "site.json"),
  "--key",
  join(folder, "key.json"),
  "--folder",
  journalFolder,
];
const gateway = new Part("gateway", [...gatewayArgs, "--from", from.toISOString(), "--pace", "60"]);
gateway.start();
await sleep(4000);
// Started again it goes on where it ended.
const goesOn = new Part("gateway", gatewayArgs);

// Beside it a site whose controllers are sent settings and ordered about; nothing of a schedule comes between.
const ruledFile = site((s) => {
  if (s.programs[0]) s.programs[0].enabled = false;
});
const ruledId = await made(ruledFile);
const ruledKey = (await surely("POST", `/api/sites/${ruledId}/field`, {})).json;
writeFileSync(join(folder, "ruled.json"), writeSiteText(ruledFile));
writeFileSync(join(folder, "ruled-key.json"), JSON.stringify(ruledKey));
const ruledFolder = join(folder, "ruled");
const ruledArgs = ["--import", "tsx", "gateway/main.ts", join(folder, "ruled.json")];
const ruledBy = new Part("controllers", [
  ...ruledArgs,
  "--key",
  join(folder, "ruled-key.json"),
  "--folder",
  ruledFolder,
]);
ruledBy.start();
const ruled = new RuledSite(ruledId, surely, random);

let working = true;
const saved: { siteId: string; version: number; marker: string }[] = [];
/** Saves of which no answer came: done once or not at all. */
const unsure: { siteId: string; marker: string }[] = [];
async function saver(): Promise<void> {
  const siteId = await made(site());
  while (working) {
    const now = (await surely("GET", `/api/sites/${siteId}/revisions`)).json as { version: number; file: SiteFile };
    const marker = randomUUID();
    const file = { ...now.file, site: { ...now.file.site, description: marker } };
    const answer = await person
      .ask(
        "POST",
        `/api/sites/${siteId}/revisions`,
        { baseVersion: now.version, file, note: "" },
        {},
        AbortSignal.timeout(30_000),
      )
      .catch(() => null);
    if (answer?.status === 200) saved.push({ siteId, marker, version: (answer.json as { version: number }).version });
    else unsure.push({ siteId, marker });
    await sleep(50);
  }
}
const created: { name: string; id: string }[] = [];
async function creator(): Promise<void> {
  while (working) {
    const name = `made ${randomUUID()}`;
    const create = { create: { name, timeZone: "Europe/Vienna", units: "metric" } };
    const answer = await surely("POST", "/api/sites", create, { "idempotency-key": randomUUID() });
    created.push({ name, id: (answer.json as { id: string }).id });
    await sleep(400);
  }
}
type Learning = {
  run: { id: string; state: string };
  results: { runId: string; elementId: string; verdict: string; meanLpm: number }[];
};
const learned = new Map<string, string>();
const runs: string[] = [];
async function learner(): Promise<void> {
  const siteId = await made(site());
  const request = { stationIds: null, faults: [], seed: 2, pace: 200, date: "2026-07-14" };
  while (working) {
    const started = await surely("POST", `/api/sites/${siteId}/learning`, request);
    const runId = (started.json as { runId?: string }).runId;
    if (runId) runs.push(runId);
    for (const end = Date.now() + 2 * BACK_S * 1000; ; await sleep(300)) {
      const { run, results } = (await surely("GET", `/api/sites/${siteId}/learning`)).json as Learning;
      for (const r of results)
        if (r.verdict === "accepted") learned.set(`${r.runId} ${r.elementId}`, String(r.meanLpm));
      if (run.state === "done" || run.state === "failed") break;
      if (Date.now() > end) throw new Error(`learning is not taken up any more: ${run.state}`);
    }
  }
}

process.stdout.write(`${MOMENTS} moments, seed ${SEED}\n`);
const jobs = [saver(), saver(), creator(), learner(), ruled.command(() => working)].map((job) =>
  job.catch((error: Error) => wrong.push(error.message)),
);
const targets: [string, number, () => Promise<unknown>][] = [
  ["web", 4, () => web.kill()],
  ["worker 1", 2, () => workers[0]?.kill() ?? Promise.resolve()],
  ["worker 2", 2, () => workers[1]?.kill() ?? Promise.resolve()],
  [
    "gateway",
    3,
    async () => {
      await gateway.end("SIGKILL");
      await goesOn.end("SIGKILL");
      goesOn.start();
    },
  ],
  ["controllers", 4, () => ruledBy.kill()],
  ["broker", 2, killBroker],
  ["database", 2, killDatabase],
];
const lots = targets.flatMap(([name, lot]) => Array<string>(lot).fill(name));
const killed: Record<string, number> = {};
for (let i = 0; i < MOMENTS && wrong.length === 0; i++) {
  await sleep(200 + 1300 * random());
  // Each at least once, however few the moments.
  const name = (i < targets.length ? targets[i]?.[0] : lots[Math.floor(random() * lots.length)]) as string;
  killed[name] = (killed[name] ?? 0) + 1;
  await targets.find(([n]) => n === name)?.[2]();
  if (name === "web" || name === "database") await surely("GET", "/api/sites");
}
await sleep(2000);
working = false;
await Promise.all(jobs);
await gateway.end("SIGTERM");
await goesOn.end("SIGTERM");
wrong.push(...(await ruled.answered()));
await ruledBy.end("SIGTERM");
wrong.push(...(await ruled.wrong(ruledFolder)));

const revisions: { siteId: string; version: number; marker: string | null }[] = await db()("revision as r")
  .whereIn("r.site_id", [...new Set(saved.map((s) => s.siteId))])
  .select("r.site_id", "r.version", db().raw("r.site_file -> 'site' ->> 'description' as marker"));
const places = (siteId: string, marker: string): number[] =>
  revisions.filter((r) => r.siteId === siteId && r.marker === marker).map((r) => r.version);
for (const s of saved) {
  const at = places(s.siteId, s.marker);
  if (at.join() !== String(s.version)) wrong.push(`a save accepted as revision ${s.version} is at [${at}]`);
}
for (const u of unsure)
  if (places(u.siteId, u.marker).length > 1) wrong.push("a save without an answer was done twice");
for (const c of created) {
  const ids: string[] = await db()("site").where({ name: c.name }).pluck("id");
  if (ids.join() !== c.id) wrong.push(`a site made as ${c.id} is there as [${ids}]`);
}
for (const [of, mean] of learned) {
  const [runId, elementId] = of.split(" ");
  const rows = await db()("learning_result").where({ runId, elementId }).select("mean_lpm");
  if (rows.length !== 1 || String(rows[0].meanLpm) !== mean) wrong.push(`a result that was accepted changed: ${of}`);
}
const states: string[] = await db()("learning_run").whereIn("id", runs).pluck("state");
if (states.some((s) => s !== "done")) wrong.push(`learning runs ended ${states}`);

const journal = new Journal(join(journalFolder, "journal"));
const lines = journal
  .lines(journal.first, journal.lastSeq)
  .map((l) => JSON.parse(l) as { seq: number; kind: string; stream: string });
const stream = lines[0]?.stream ?? "";
// Whoever missed something asks for it again: for that the gateway has to be there.
goesOn.start();
const taken = async (): Promise<number> =>
  (await db()("field_stream").where({ siteId: playedId, stream }).first("applied_seq"))?.appliedSeq ?? 0;
for (const end = Date.now() + BACK_S * 1000; (await taken()) < journal.lastSeq && Date.now() < end; ) await sleep(500);
await goesOn.end("SIGTERM");
for (const [table, kind] of [
  ["reading", "reading"],
  ["site_event", "event"],
] as const) {
  const kept: number[] = await db()(table)
    .where({ siteId: playedId, stream })
    .where("seq", "<=", journal.lastSeq)
    .orderBy("seq")
    .pluck("seq");
  const said = lines.filter((l) => l.kind === kind).map((l) => l.seq);
  if (kept.join() !== said.join()) wrong.push(`of ${said.length} ${kind}s said ${kept.length} are kept`);
}
process.stdout.write(
  `killed: ${Object.entries(killed)
    .map(([name, n]) => `${name} ${n}`)
    .join(", ")}\n` +
    `${saved.length} saves accepted and there once (${unsure.length} without an answer), ${created.length} sites made once, ` +
    `${learned.size} results in ${runs.length} runs kept, ${lines.length} messages of the gateway taken in, ${ruled.words}\n`,
);
for (const w of wrong.slice(0, 10)) process.stdout.write(`WRONG ${w}\n`);
await Promise.all([web, ...workers].map((p) => p.end("SIGKILL")));
await endHeavy();
await closeDatabase();
if (wrong.length === 0) rmSync(folder, { recursive: true, force: true });
else process.stdout.write(`what the processes said: ${folder}\n`);
process.stdout.write(wrong.length === 0 ? "nothing lost, nothing twice, all resumed\n" : `seed ${SEED} did not hold\n`);
process.exit(wrong.length === 0 ? 0 : 1);
