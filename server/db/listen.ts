import pg from "pg";
import { databaseUrl, db } from "./connection.ts";

type Hear = (payload: string) => void;
type Ear = { client: pg.Client; ready: Promise<void> };

/** One listening connection a process, however many listen: every stream hears through it. */
const heard = new Map<string, Set<Hear>>();
let ear: Ear | null = null;
/** After a lost connection, tried again so often, ms. */
const AGAIN_MS = 1000;

const channelOf = (topic: string): string => `presa_${topic.replace(/[^a-z0-9]/gi, "_").toLowerCase()}`;

function open(): Ear {
  const client = new pg.Client({ connectionString: databaseUrl() });
  client.on("notification", ({ channel, payload }) => {
    for (const hear of [...(heard.get(channel) ?? [])]) hear(payload ?? "{}");
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
  const ready = (async () => {
    await client.connect();
    for (const channel of heard.keys()) await client.query(`listen ${channel}`);
  })();
  ready.catch(lost);
  return { client, ready };
}

async function reopened(): Promise<void> {
  if (ear || heard.size === 0) return;
  ear = open();
  await ear.ready.then(
    () => {
      for (const all of heard.values()) for (const hear of [...all]) hear(JSON.stringify({ type: "watching" }));
    },
    () => {},
  );
}

/** Hears what is told of a topic from now on, in this process or any other. The answer ends it. */
export async function listen(topic: string, hear: Hear): Promise<() => void> {
  const channel = channelOf(topic);
  const all = heard.get(channel) ?? new Set<Hear>();
  const first = all.size === 0;
  all.add(hear);
  heard.set(channel, all);
  if (!ear) ear = open();
  else if (first) {
    const { client, ready } = ear;
    await ready;
    await client.query(`listen ${channel}`);
  }
  await ear?.ready;
  return () => {
    all.delete(hear);
    if (all.size > 0 || heard.get(channel) !== all) return;
    heard.delete(channel);
    ear?.client.query(`unlisten ${channel}`).catch(() => {});
  };
}

/** Tells everyone who listens to a topic, in every process. Payloads stay under 8 kB. */
export async function tell(topic: string, message: unknown): Promise<void> {
  await db().raw("select pg_notify(?, ?)", [channelOf(topic), JSON.stringify(message)]);
}

/** For the end of a process or a test: nobody hears any more. */
export async function closeListening(): Promise<void> {
  heard.clear();
  const open = ear;
  ear = null;
  await open?.client.end().catch(() => {});
}
