import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { performance } from "node:perf_hooks";
import { instantOf } from "../../core/dates/wall-time.ts";
import { LiveJudge } from "../../core/field/live-judge.ts";
import type { Ready } from "../../core/field/sequence.ts";
import { writeSiteText } from "../../core/site-file/parse-site.ts";
import { SitePlayer } from "../../gateway/site-player.ts";
import type { SignedIn } from "../../server/auth/session.ts";
import { closeDatabase, db } from "../../server/db/connection.ts";
import { beginStream, type GatewayRow, gatewayOf, streamOf } from "../../server/db/field.ts";
import { closeListening } from "../../server/db/listen.ts";
import { thisProcessIsTheOperators } from "../../server/db/reach.ts";
import { userByEmail } from "../../server/db/users.ts";
import { DEMO_USERS } from "../../server/demo/people.ts";
import { demoSites } from "../../server/demo/sites.ts";
import { takeIn } from "../../server/field/take-in.ts";
import { endHeavy } from "../../server/heavy/pool.ts";
import { setField } from "../../server/services/field.ts";
import { importSite, type LoadedSite } from "../../server/services/sites.ts";

/*
 * How fast readings are taken in. Part of `npm run bench`, through bin/test ingest: a PostgreSQL and a broker of its own (DATABASE_URL with the demo in it, MQTT_URL).
 * First one stretch of a site's night is taken in as the recorder does it, and the rows it made are copied raw into the same tables, turn about. Then fifty sites each say one
 * reading a second through the broker to one recorder, and the processors' time of all that takes part is read off.
 */
const ROUNDS = 5;
const READINGS = 20_000;
const AT_ONCE = 2000;
const SITES = 50;
const WATCH_S = 60;
const DATE = "2026-07-14";
const FROM = "21:45";
const TABLES = {
  field_instant: "organisation_id, site_id, at, stream, seq, open, valves, pumps",
  reading: "organisation_id, site_id, at, stream, seq, sensor_id, quantity, value",
};

thisProcessIsTheOperators();
const folder = mkdtempSync(join(tmpdir(), "presa-ingest-"));
const found = await userByEmail(DEMO_USERS[0].email);
if (!found) throw new Error("The demo is not in this Presa.");
const user: SignedIn = { userId: found.id, ...found };
/** It waters from a quarter to ten in the evening into the morning. */
const example = demoSites().find(({ site }) => site.id === "quarrel-hill");
if (!example) throw new Error("There is no demo site.");
let count = 0;
const newSite = (): Promise<LoadedSite> =>
  importSite(user, JSON.stringify({ ...example, site: { ...example.site, id: `ingest-${++count}` } }));

const psql = (sql: string): string =>
  execFileSync("psql", ["-X", "-q", "-A", "-t", "-c", sql, process.env["DATABASE_URL"] ?? ""], { encoding: "utf8" });

const night = (site: LoadedSite): number => instantOf(site.file.site.timeZone, DATE, FROM);

function saidOfANight(site: LoadedSite, stream: string): Ready[] {
  const player = new SitePlayer(site.file, night(site), [], 1);
  const ready: Ready[] = [];
  while (ready.length < READINGS)
    for (const said of player.second()) {
      const message = { ...said, stream, seq: ready.length + 1 };
      ready.push({ message } as Ready);
    }
  return ready;
}

/** Rows a second of readings and instants: as the recorder takes them in, and copied raw. */
async function besideCopy(): Promise<{ taken: number; copied: number }> {
  const site = await newSite();
  await setField(user, site.id);
  const gateway = (await gatewayOf(site.id)) as GatewayRow;
  const of = { siteId: site.id, organisationId: user.organisationId };
  const rates = { taken: [] as number[], copied: [] as number[] };
  for (let round = 0; round <= ROUNDS; round++) {
    const stream = `round-${round}`;
    const ready = saidOfANight(site, stream);
    await beginStream({ ...of, stream, firstSeq: 1 });
    const judged = { version: site.version, file: site.file, judge: new LiveJudge(site.file) };
    const begun = performance.now();
    for (let i = 0; i < ready.length; i += AT_ONCE)
      await takeIn(gateway, stream, true, ready.slice(i, i + AT_ONCE), 0, judged);
    const tookS = (performance.now() - begun) / 1000;
    let rows = 0;
    let copyS = 0;
    for (const [table, columns] of Object.entries(TABLES)) {
      const file = join(folder, `${table}.copy`);
      const values = columns.replace("stream", `'copied-${round}'`);
      psql(
        `\\copy (select ${values} from ${table} where site_id = '${site.id}' and stream = '${stream}') to '${file}'`,
      );
      rows += readFileSync(file, "utf8").split("\n").length - 1;
      copyS += copySeconds(table, columns, file);
    }
    if ((await streamOf(site.id, stream))?.appliedSeq !== ready.length) throw new Error("Not all of it was taken in.");
    // The first round warms up.
    if (round === 0) continue;
    rates.taken.push(rows / tookS);
    rates.copied.push(rows / copyS);
  }
  await db()("field_gateway").where({ siteId: site.id }).delete();
  const median = (of: number[]): number => of.sort((a, b) => a - b)[Math.floor(of.length / 2)] as number;
  return { taken: median(rates.taken), copied: median(rates.copied) };
}

/** PostgreSQL's own word on how long the copying took: psql's start is no part of it. */
function copySeconds(table: string, columns: string, file: string): number {
  const script = join(folder, "copy.sql");
  writeFileSync(script, `\\timing on\n\\copy ${table} (${columns}) from '${file}'\n`);
  const said = execFileSync("psql", ["-X", "-q", "-f", script, process.env["DATABASE_URL"] ?? ""], {
    encoding: "utf8",
  });
  const ms = /Time: ([\d.]+) ms/.exec(said)?.[1];
  if (ms === undefined) throw new Error(`psql told no time: ${said}`);
  return Number(ms) / 1000;
}

/** Seconds of a processor that a process has used, with its threads. */
function usedS(pid: number): number {
  const fields = readFileSync(`/proc/${pid}/stat`, "utf8")
    .replace(/^.*\) /, "")
    .split(" ");
  return (Number(fields[11]) + Number(fields[12])) / 100;
}

/** Of PostgreSQL: each of its processes works for one connection. */
function databaseUsedS(): number {
  const pids = psql("select pid from pg_stat_activity").trim().split("\n").map(Number);
  return pids.reduce((sum, pid) => {
    try {
      return sum + usedS(pid);
    } catch {
      return sum;
    }
  }, 0);
}

/** Cores used by the recorder, the gateways and the database while every site says one reading a second. */
async function manyAtOnce(): Promise<{ recorder: number; gateways: number; database: number; readings: number }> {
  const places = join(folder, "sites");
  let from = 0;
  for (let i = 0; i < SITES; i++) {
    const site = await newSite();
    from = night(site);
    const own = join(places, site.file.site.id);
    mkdirSync(own, { recursive: true });
    writeFileSync(join(own, "site.json"), writeSiteText(site.file));
    writeFileSync(join(own, "key.json"), JSON.stringify(await setField(user, site.id)));
  }
  const started: ChildProcess[] = [];
  const start = (args: string[]): number => {
    const child = spawn(process.execPath, ["--import", "tsx", ...args], { stdio: "ignore", env: process.env });
    started.push(child);
    return child.pid as number;
  };
  try {
    const recorder = start(["server/jobs/worker.ts"]);
    const gateways = start([
      "gateway/main.ts",
      "--sites",
      places,
      "--from",
      new Date(1000 * (from + 600)).toISOString(),
    ]);
    const readings = async (): Promise<number> =>
      Number((await db()("field_stream").sum({ n: "readings" }).first())?.["n"] ?? 0);
    const live = async (): Promise<number> =>
      Number((await db()("field_gateway").where({ state: "live" }).count({ n: "*" }).first())?.["n"] ?? 0);
    for (const end = Date.now() + 90_000; (await live()) < SITES; await rest(500))
      if (Date.now() > end) throw new Error(`Only ${await live()} of ${SITES} sites are heard.`);
    await rest(15_000);
    const before = {
      recorder: usedS(recorder),
      gateways: usedS(gateways),
      database: databaseUsedS(),
      readings: await readings(),
    };
    await rest(WATCH_S * 1000);
    const a = (now: number, then: number): number => (now - then) / WATCH_S;
    return {
      recorder: a(usedS(recorder), before.recorder),
      gateways: a(usedS(gateways), before.gateways),
      database: a(databaseUsedS(), before.database),
      readings: a(await readings(), before.readings),
    };
  } finally {
    for (const child of started) child.kill("SIGTERM");
    await rest(3000);
  }
}

const rest = (ms: number): Promise<void> => new Promise((r) => setTimeout(r, ms));

try {
  const { taken, copied } = await besideCopy();
  const many = await manyAtOnce();
  const share = (100 * taken) / copied;
  const cores = many.recorder + many.gateways + many.database;
  console.log("| what | to keep | measured |\n|---|---|---|");
  console.log(
    `| readings taken in, beside raw COPY of the same rows into the same tables | at least 20 % | ${share.toFixed(0)} %: ${Math.round(taken).toLocaleString("en")} rows a second, COPY ${Math.round(copied).toLocaleString("en")} |`,
  );
  console.log(
    `| ${SITES} simulated sites, each a reading a second (${many.readings.toFixed(0)} a second came in) | under one core | ${cores.toFixed(2)} cores: recorder ${many.recorder.toFixed(2)}, gateways ${many.gateways.toFixed(2)}, database ${many.database.toFixed(2)} |`,
  );
} finally {
  rmSync(folder, { recursive: true, force: true });
  await endHeavy();
  await closeListening();
  await closeDatabase();
}
