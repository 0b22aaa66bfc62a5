import pg from "pg";
import { log } from "../log.ts";
import { databaseUrl, db } from "./connection.ts";
import { type Ask, oneAtATime } from "./one-at-a-time.ts";

type Hear = (payload: string) => void;
/** Who hears a channel, and when it is heard. */
type Channel = { hears: Set<Hear>; ready: Promise<unknown> };
type Ear = { client: pg.Client; ready: Promise<void>; ask: Ask };

/** One listening connection a process, however many listen: every stream hears through it. */
const heard = new Map<string, Channel>();
let ear: Ear | null = null;
/** PostgreSQL tells no more than 8,000 bytes at once. */
const MOST_BYTES = 7900;
/** That something happened which was not told: whoever shows it asks anew. */
const MISSED = JSON.stringify({ type: "watching" });
/** After a lost connection, tried again so often, ms. */
const AGAIN_MS = 1000;

const channelOf = (topic: string): string => `presa_${topic.replace(/[^a-z0-9]/gi, "_").toLowerCase()}`;

/** One who stumbles over what is told neither ends the process nor keeps it from the others. */
function toEach(hear: Hear, payload: string): void {
  try {
    hear(payload);
  } catch (error) {
    log.error({ err: error }, "what was told was not understood");
  }
}

function open(): Ear {
  const client = new pg.Client({ connectionString: databaseUrl() });
  client.on("notification", ({ channel, payload }) => {
    for (const hear of [...(heard.get(channel)?.hears ?? [])]) toEach(hear, payload ?? "{}");
  });
  const lost = (): void => {
    if (ear?.client !== client) return;
    ear = null;
    client.end().catch(() => {});
    // Those who listen are told that they may have missed something, once it is heard again.
    if (heard.size > 0) setTimeout(() => void reopened(), AGAIN_MS).unref();
  };
  client.on("error", lost);
  client.on("end", lost);
  const connected = client.connect();
  const ask = oneAtATime(client, connected);
  const ready = (async () => {
    await connected;
    await Promise.all([...heard.keys()].map((channel) => ask(`listen ${channel}`)));
  })();
  ready.catch(lost);
  return { client, ready, ask };
}

async function reopened(): Promise<void> {
  if (ear || heard.size === 0) return;
  ear = open();
  await ear.ready.then(
    () => {
      for (const { hears } of heard.values()) for (const hear of [...hears]) toEach(hear, MISSED);
    },
    () => {},
  );
}

/**
 * Hears what is told of a topic from now on, in this process or any other; something may be told before this answers. The answer ends it.
 *
 * @throws when the database is away: then nothing is heard
 */
export async function listen(topic: string, hear: Hear): Promise<() => void> {
  const name = channelOf(topic);
  const channel = heard.get(name) ?? { hears: new Set<Hear>(), ready: Promise.resolve() };
  const first = channel.hears.size === 0;
  channel.hears.add(hear);
  heard.set(name, channel);
  if (!ear) ear = open();
  else if (first) channel.ready = ear.ask(`listen ${name}`);
  const deaf = (): void => {
    channel.hears.delete(hear);
    if (channel.hears.size > 0 || heard.get(name) !== channel) return;
    heard.delete(name);
    ear?.ask(`unlisten ${name}`).catch(() => {});
  };
  try {
    await ear.ready;
    await channel.ready;
  } catch (error) {
    deaf();
    throw error;
  }
  return deaf;
}

/** {@link listen} to several topics: all of them or none. */
export async function listenToAll(topics: readonly (readonly [string, Hear])[]): Promise<() => void> {
  const tries = await Promise.allSettled(topics.map(([topic, hear]) => listen(topic, hear)));
  const deaf = (): void => {
    for (const t of tries) if (t.status === "fulfilled") t.value();
  };
  const failed = tries.find((t) => t.status === "rejected");
  if (!failed) return deaf;
  deaf();
  throw failed.reason;
}

/** Tells everyone who listens to a topic, in every process. Payloads stay under 8 kB. */
export async function tell(topic: string, message: unknown): Promise<void> {
  const text = JSON.stringify(message);
  const payload = Buffer.byteLength(text) <= MOST_BYTES ? text : MISSED;
  await db().raw("select pg_notify(?, ?)", [channelOf(topic), payload]);
}

/** For the end of a process or a test: nobody hears any more. */
export async function closeListening(): Promise<void> {
  heard.clear();
  const open = ear;
  ear = null;
  await open?.client.end().catch(() => {});
}
