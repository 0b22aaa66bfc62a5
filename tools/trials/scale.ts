import { setTimeout as sleep } from "node:timers/promises";
import type { SiteFile } from "../../core/site-file/schema.ts";
import type { SignedIn } from "../../server/auth/session.ts";
import { closeDatabase, db } from "../../server/db/connection.ts";
import { closeListening } from "../../server/db/listen.ts";
import { ensureMonths } from "../../server/db/months.ts";
import { thisProcessIsTheOperators } from "../../server/db/reach.ts";
import { userByEmail } from "../../server/db/users.ts";
import { DEMO_PASSWORD, DEMO_USERS } from "../../server/demo/people.ts";
import { demoSites } from "../../server/demo/sites.ts";
import { endHeavy } from "../../server/heavy/pool.ts";
import { sortSite } from "../../server/services/groups.ts";
import { importSite } from "../../server/services/sites.ts";
import { loopback, percentile, Person } from "./client.ts";

/*
 * How Presa answers an office with many sites: `npm run scale`, through bin/test scale, which gives it a database, a server and a worker of its own (DATABASE_URL, PRESA_URL).
 * Makes the sites with their stations, readings, events and alarms, then asks what is asked all day, four at a time, and prints how long it took; then a hold on all sites.
 */
const SITES = Number(process.env["SCALE_SITES"] ?? 500);
const READINGS = 2000 * SITES;
const ALARMS = 40 * SITES;
const DAYS = 60;
/** What happened at one site in two years, and days of water of every site, three rows each. */
const HAPPENED = 2000 * SITES;
const WATER_DAYS = 730;
const AT_ONCE = 4;
const TIMES = 200;
/** Asked before them, and not timed. */
const UNTIMED = 60;
/** As many as the screen asks for with one request, and so many requests beside each other. */
const MANY_AT_ONCE = 10;
const IN_FLIGHT = 2;
const [CLIENTS, AREAS, CREWS] = [40, 10, 8];

const base = loopback(process.env["PRESA_URL"] ?? "");
thisProcessIsTheOperators();
const found = await userByEmail(DEMO_USERS[0].email);
if (!found) throw new Error("The demo is not in this Presa.");
const user: SignedIn = { userId: found.id, ...found };
const say = (line: string): void => void process.stdout.write(`${line}\n`);

/** Does something with each, some beside each other. */
async function each<T>(
  items: readonly T[],
  atOnce: number,
  work: (item: T, i: number) => Promise<unknown>,
): Promise<void> {
  let next = 0;
  const one = async (): Promise<void> => {
    while (next < items.length) {
      const i = next++;
      await work(items[i] as T, i);
    }
  };
  await Promise.all(Array.from({ length: atOnce }, one));
}

/** A site of 200 stations: the largest of the demo's, with more of the same. */
function largeSite(): SiteFile {
  const site = demoSites().reduce((a, b) => (b.stations.length > a.stations.length ? b : a));
  const more = site.stations.slice(0, 200 - site.stations.length);
  return {
    ...site,
    controllers: site.controllers.map(({ maxStations: _, ...c }) => c),
    stations: [
      ...site.stations,
      ...more.map((s, i) => ({
        ...s,
        id: `${s.id}-more`,
        number: 9000 + i,
        name: `${s.name} more`,
        address: undefined,
        serial: undefined,
      })),
    ],
  };
}

/** What an earlier run has made in this database is gone on with. */
async function there(): Promise<{ siteIds: string[]; large: string } | null> {
  const rows: { id: string; fileId: string }[] = await db()("site")
    .whereLike("file_id", "scale-%")
    .select("id", "file_id");
  const large = rows.find((r) => r.fileId === "scale-large");
  return large && rows.length > SITES
    ? { large: large.id, siteIds: rows.filter((r) => r !== large).map((r) => r.id) }
    : null;
}

async function fill(): Promise<{ siteIds: string[]; large: string }> {
  const kinds = demoSites();
  const files = Array.from({ length: SITES }, (_, i): SiteFile => {
    const kind = kinds[i % kinds.length] as SiteFile;
    return { ...kind, site: { ...kind.site, id: `scale-${i}`, name: `${kind.site.name} ${i}` } };
  });
  const siteIds: string[] = [];
  await each(files, 3, async (file, i) => {
    const { id } = await importSite(user, JSON.stringify(file));
    siteIds[i] = id;
    await sortSite(user, id, {
      client: `Client ${i % CLIENTS}`,
      area: `Area ${i % AREAS}`,
      crew: `Crew ${i % CREWS}`,
    });
  });
  const large = await importSite(
    user,
    JSON.stringify({ ...largeSite(), site: { ...largeSite().site, id: "scale-large", name: "Large" } }),
  );
  await ensureMonths("reading", monthsBack());
  await ensureMonths("field_instant", monthsBack());
  await ensureMonths("site_event", monthsBack());
  // Otherwise a station is looked for among all of them, a million times.
  await db().raw("analyze site, element");
  const many = { organisationId: user.organisationId, siteIds, sites: SITES, days: DAYS, userId: user.userId };
  await db().raw(
    `insert into reading (organisation_id, site_id, at, stream, seq, sensor_id, quantity, value)
     select :organisationId, (cast(:siteIds as uuid[]))[1 + n % :sites], now() - (n % 86400) * interval '1 second' - (n % :days) * interval '1 day', 'scale', n, 'sensor', 'flow', 100 + n % 50
     from generate_series(1, cast(:most as integer)) n`,
    { ...many, most: READINGS * 0.6 },
  );
  await db().raw(
    `insert into site_event (organisation_id, site_id, at, type, subject_id, reason, stream, seq)
     select :organisationId, s.id, now() - (n % 86400) * interval '1 second' - (n % :days) * interval '1 day', 'stationOn', e.element_id, 'program', 'scale', n
     from generate_series(1, cast(:most as integer)) n
       join lateral (select (cast(:siteIds as uuid[]))[1 + n % :sites] as id) s on true
       join lateral (select element_id from element where site_id = s.id and kind = 'station' limit 1) e on true`,
    { ...many, most: READINGS * 0.4 },
  );
  await db().raw(
    `insert into alarm (organisation_id, site_id, at, kind, subject_id, measured_lpm, expected_lpm, message, locked, state, cause, cleared_by, cleared_at)
     select :organisationId, s.id, now() - n * interval '3 minutes', 'stationHigh', e.element_id, 140, 100, 'Station ' || e.name || ' reads 40 % over what it should.',
       '{}', case when n % 20 = 0 then 'open' else 'cleared' end, case when n % 20 = 0 then null else 'nozzle gone' end,
       case when n % 20 = 0 then null else cast(:userId as uuid) end, case when n % 20 = 0 then null else now() end
     from generate_series(1, cast(:most as integer)) n
       join lateral (select (cast(:siteIds as uuid[]))[1 + n % :sites] as id) s on true
       join lateral (select element_id, name from element where site_id = s.id and kind = 'station' limit 1) e on true`,
    { ...many, most: ALARMS },
  );
  await twoYears(siteIds);
  await db().raw("analyze");
  return { siteIds, large: large.id };
}

/** Meter readings of one site, a few a minute, each with its line of the timeline; and water of all sites by day and month. */
async function twoYears(siteIds: string[]): Promise<void> {
  const of = { organisationId: user.organisationId, siteId: siteIds[0] as string, siteIds, days: WATER_DAYS };
  await db().raw(
    `insert into meter_reading (id, organisation_id, site_id, meter_id, at, m3, begins, by_name)
     select gen_random_uuid(), :organisationId, :siteId, 'meter', now() - n * cast(:days as integer) * interval '1 day' / cast(:most as integer), n, false, 'Scale'
     from generate_series(1, cast(:most as integer)) n`,
    { ...of, most: HAPPENED },
  );
  await db().raw(
    `insert into water_day (organisation_id, site_id, day, part, sensor_id, station_id, cause, estimated, litres)
     select :organisationId, s.id, current_date - d, 'day', 'sensor', 's' || c.n, c.cause, false, 10000 + d % 1000
     from unnest(cast(:siteIds as uuid[])) s(id), generate_series(1, cast(:days as integer)) d,
       (values (1, 'scheduled'), (2, 'byHand'), (3, 'offSchedule')) c(n, cause)`,
    of,
  );
  await db().raw(
    `insert into water_month (organisation_id, site_id, month, litres, lost_l, estimated_l)
     select organisation_id, site_id, date_trunc('month', day)::date, sum(litres), coalesce(sum(litres) filter (where cause = 'offSchedule'), 0), 0
     from water_day where site_id = any(cast(:siteIds as uuid[])) group by 1, 2, 3 on conflict do nothing`,
    of,
  );
}

/** A month of the last two years. */
const monthBack = (i: number): string =>
  new Date(Date.UTC(new Date().getUTCFullYear(), new Date().getUTCMonth() - (i % 24), 1)).toISOString().slice(0, 7);

const monthsBack = (): string[] =>
  Array.from({ length: DAYS + 2 }, (_, d) => new Date(Date.now() - d * 86_400_000).toISOString());

/** Until the worker has made everything ahead. */
async function madeAhead(): Promise<void> {
  for (;;) {
    const { rows } = await db().raw(
      `select (select count(*)::int from round_due) + (select count(*)::int from site s where not exists
         (select 1 from site_summary m where m.site_id = s.id and m.version = s.version and m.date = (now() at time zone (m.facts ->> 'timeZone'))::date)) as left`,
    );
    if (rows[0].left === 0) return;
    await sleep(500);
  }
}

const waits = new Map<string, number[]>();
async function timed(name: string, work: () => Promise<{ status: number; ms: number; text: string }>): Promise<void> {
  const { status, ms, text } = await work();
  if (status !== 200) throw new Error(`${name}: ${status} ${text.slice(0, 200)}`);
  waits.set(name, [...(waits.get(name) ?? []), ms]);
}

/** The longest that the web process has not answered anything since it was asked last, ms. */
async function blocked(person: Person): Promise<number> {
  const { text } = await person.ask("GET", "/metrics");
  return 1000 * Number(/^presa_nodejs_eventloop_lag_max_seconds (\S+)/m.exec(text)?.[1] ?? Number.NaN);
}

function table(): void {
  say(`${"asked, 4 at a time".padEnd(28)} times      p50      p95      p99`);
  for (const [name, ms] of waits)
    say(
      `${name.padEnd(28)} ${String(ms.length).padStart(5)} ${[50, 95, 99].map((p) => `${percentile(ms, p).toFixed(0)} ms`.padStart(8)).join(" ")}`,
    );
}

/** As the screen does it. */
async function holdOnAll(person: Person, siteIds: string[]): Promise<void> {
  const parts = Array.from({ length: Math.ceil(siteIds.length / MANY_AT_ONCE) }, (_, i) =>
    siteIds.slice(i * MANY_AT_ONCE, (i + 1) * MANY_AT_ONCE),
  );
  const change = { kind: "holdDays", days: 3 };
  const seen: { siteId: string; version: number }[][] = [];
  let began = performance.now();
  await each(parts, IN_FLIGHT, async (part, i) => {
    const answer = await person.ask("POST", "/api/deeds/preview", { siteIds: part, change });
    seen[i] = (answer.json as { sites: { siteId: string; version: number }[] }).sites;
  });
  say(`a hold on ${siteIds.length} sites seen first: ${((performance.now() - began) / 1000).toFixed(1)} s`);
  const id = crypto.randomUUID();
  began = performance.now();
  await person.ask("POST", "/api/deeds", { id, change });
  await each(seen, IN_FLIGHT, async (part) => {
    const sites = part.map(({ siteId, version }) => ({ siteId, version }));
    const { json } = await person.ask("POST", `/api/deeds/${id}`, { sites });
    const { not } = json as { not: string[] };
    if (not.length > 0) throw new Error(not[0]);
  });
  say(`and made: ${((performance.now() - began) / 1000).toFixed(1)} s`);
}

const filled = performance.now();
const { siteIds, large } = (await there()) ?? (await fill());
const [stations] = await db()("element").where({ kind: "station", present: true }).count({ n: "*" });
await madeAhead();
say(
  `${SITES} sites, ${stations?.["n"]} stations, ${READINGS} readings and events, ${ALARMS} alarms, ${HAPPENED} things that happened at one site, ${WATER_DAYS} days of water each, made in ${((performance.now() - filled) / 1000).toFixed(0)} s`,
);

const people = await Promise.all(
  Array.from({ length: AT_ONCE }, () => Person.signedIn(base, DEMO_USERS[0].email, DEMO_PASSWORD)),
);
const some = <T>(of: readonly T[], i: number): T => of[(i * 7919) % of.length] as T;
const first = people[0] as Person;
await first.ask("GET", "/");
const asks: [string, (person: Person, i: number) => Promise<{ status: number; ms: number; text: string }>][] = [
  ["Rounds", (p) => p.ask("GET", "/")],
  ["Rounds: found and sorted", (p, i) => p.ask("GET", `/api/rounds?find=client%20${i % CLIENTS}&sort=ends`)],
  ["Alarms", (p) => p.ask("GET", "/api/alarms?state=open")],
  ["Alarms, a later page", (p, i) => p.ask("GET", `/api/alarms?page=${1 + (i % 40)}&find=reads`)],
  ["a site's Night", (p, i) => p.ask("GET", `/sites/${some(siteIds, i)}/night`)],
  ["Log", (p, i) => p.ask("GET", `/api/sites/${some(siteIds, i)}/log`)],
  ["a timeline of a million", (p, i) => p.ask("GET", `/api/sites/${siteIds[0]}/timeline?month=${monthBack(i)}`)],
  [
    "the same, one head of it",
    (p, i) => p.ask("GET", `/api/sites/${siteIds[0]}/timeline?month=${monthBack(i)}&only=holds`),
  ],
  ["water of a site, two years", (p, i) => p.ask("GET", `/api/sites/${some(siteIds, i)}/water`)],
  ["water of all sites", (p, i) => p.ask("GET", `/api/water?to=${monthBack(i % 12)}`)],
  ["calendar of all sites", (p, i) => p.ask("GET", `/api/calendar?from=${monthBack(i)}-01&to=${monthBack(i)}-28`)],
  ["a site, to be taken along", (p, i) => p.ask("GET", `/api/sites/${some(siteIds, i)}/along`)],
  ["search", (p, i) => p.ask("GET", `/api/search?q=${some(["lawn 12", "hall", "beds 1", "client 3", "quad"], i)}`)],
];
const turns = Array.from({ length: TIMES }, (_, i) => i);
for (const [name, ask] of asks) {
  // A server just begun is still making its code ready.
  await each(turns.slice(0, UNTIMED), AT_ONCE, (_, i) => ask(people[i % AT_ONCE] as Person, i));
  if (name === "Rounds") await blocked(first);
  await each(turns, AT_ONCE, (_, i) => timed(name, () => ask(people[i % AT_ONCE] as Person, i)));
  if (name === "Rounds")
    say(`the longest that the server answered nobody while Rounds was loaded: ${(await blocked(first)).toFixed(0)} ms`);
}

/** Each of the four saves a site of its own, one revision upon the other. */
const larges = [
  large,
  ...(await Promise.all(
    [1, 2, 3].map((n) => first.newSite({ ...largeSite(), site: { ...largeSite().site, id: `l${n}` } })),
  )),
];
await each(larges, AT_ONCE, async (siteId, n) => {
  const person = people[n] as Person;
  type Now = { version: number; file: { site: Record<string, unknown> } };
  const now = (await person.ask("GET", `/api/sites/${siteId}/revisions`)).json as Now;
  for (let i = 0; i < 30; i++) {
    now.file.site["description"] = `Saved ${i}`;
    await timed("saving 200 stations", async () => {
      const answer = await person.ask("POST", `/api/sites/${siteId}/revisions`, {
        baseVersion: now.version,
        file: now.file,
        note: "",
      });
      now.version = (answer.json as { version: number }).version;
      return answer;
    });
  }
});

// The first load of a day: every night is of the day before, and a worker makes them anew meanwhile.
await madeAhead();
await db().raw("update site_summary set date = date - 1");
await each(turns.slice(0, 60), AT_ONCE, (_, i) =>
  timed("Rounds: first of the day", () => (people[i % AT_ONCE] as Person).ask("GET", "/")),
);
table();
await madeAhead();
await holdOnAll(first, siteIds);
await endHeavy();
await closeListening();
await closeDatabase();
