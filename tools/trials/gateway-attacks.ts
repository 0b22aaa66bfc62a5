import { connectAsync } from "mqtt";
import type { Person } from "./client.ts";
import { attacker, besides, clinic, type Held, OTHERS_MS, victim } from "./stage.ts";

type Key = { broker: string; account: string; password: string };
const keyFor = async (person: Person, site: string): Promise<Key> =>
  (await person.ask("POST", `/api/sites/${site}/field`, {})).json as Key;

/** Another's topics, the broker's own accounts, and an address of one's own choosing. */
export async function otherGateway(): Promise<Held> {
  const [theirs, mine] = [await victim.newSite(clinic), await attacker.newSite(clinic)];
  const [key, own] = [await keyFor(victim, theirs), await keyFor(attacker, mine)];
  const chosen = await attacker.ask("POST", `/api/sites/${mine}/field`, { url: "mqtt://127.0.0.1:1", topic: "x" });
  const [listener, intruder] = await Promise.all(
    [key, own].map((k) => connectAsync(k.broker, { username: k.account, password: k.password })),
  );
  if (!listener || !intruder) throw new Error("no broker");
  const heard: string[] = [];
  const reached: string[] = [];
  intruder.on("message", (topic) => heard.push(topic));
  listener.on("message", (_, payload) => reached.push(payload.toString()));
  const theirTopics = ["presa/1", "presa/2"].map((version) => `${version}/${key.account}`);
  await listener.subscribeAsync(theirTopics.map((t) => `${t}/#`));
  await intruder
    .subscribeAsync(["#", "presa/#", ...theirTopics.map((t) => `${t}/#`), "$CONTROL/#", "$SYS/#"])
    .catch(() => {});
  for (const topic of theirTopics)
    for (const what of ["state", "data", "ask", "site", "play", "settings", "taken", "holds", "do", "done"])
      await intruder.publishAsync(`${topic}/${what}`, "forged", { qos: 1 }).catch(() => {});
  const order = { commands: [{ command: "createClient", username: "forged", password: "forged" }] };
  await intruder.publishAsync("$CONTROL/dynamic-security/v1", JSON.stringify(order), { qos: 1 }).catch(() => {});
  await listener.publishAsync(`presa/1/${key.account}/data`, "its own", { qos: 1 });
  await new Promise((r) => setTimeout(r, 1000));
  const forged = await connectAsync(own.broker, { username: "forged", password: "forged", reconnectPeriod: 0 }).then(
    () => true,
    () => false,
  );
  const nobody = await connectAsync(own.broker, { reconnectPeriod: 0 }).then(
    () => true,
    () => false,
  );
  await Promise.all([listener.endAsync(true), intruder.endAsync(true)]);
  return {
    held: heard.length === 0 && !reached.includes("forged") && !forged && !nobody && chosen.status === 400,
    seen: `${heard.length} overheard, ${reached.filter((r) => r === "forged").length} forged came through, a chosen address answered ${chosen.status}`,
  };
}

/** What no gateway says, between what it does. */
export async function poison(): Promise<Held> {
  const site = await attacker.newSite(clinic);
  const key = await keyFor(attacker, site);
  const gateway = await connectAsync(key.broker, { username: key.account, password: key.password });
  const say = (what: string, message: unknown): Promise<unknown> =>
    gateway.publishAsync(
      `presa/1/${key.account}/${what}`,
      typeof message === "string" ? message : JSON.stringify(message),
      { qos: 1 },
    );
  const at = new Date().toISOString();
  const of = (seq: number, more: object): object => ({ stream: "p", seq, at, kind: "reading", flow: {}, ...more });
  const alive = (): Promise<unknown> => say("state", { stream: "p", first: 1, last: 9, online: true });
  const bad = [
    of(1, { open: ["\u0000"] }),
    of(2, { at: "0000-01-01T00:00:00Z" }),
    of(3, { flow: Object.fromEntries(Array.from({ length: 700 }, (_, i) => [`s${i}`, 1])) }),
    of(4, { flow: { ["x".repeat(81)]: 1 } }),
    of(5, { at: "2999-01-01T00:00:00Z" }),
    { stream: "p", kind: "lost", from: 1, to: 2 ** 53 },
    "x".repeat(100_000),
    "{ no JSON",
    ...[6, 7, 8].map((seq) => of(seq, { flow: { x: -1 } })),
  ];
  type Field = { stream: { readings: number; refused: number } | null };
  let stream: Field["stream"] = null;
  for (let i = 0; i < 60 && (stream?.readings ?? 0) < 1; i++) {
    await alive();
    if (i % 5 === 1) {
      for (const message of bad) await say("data", message);
      await say("data", of(9, {}));
    }
    await new Promise((r) => setTimeout(r, 500));
    stream = ((await attacker.ask("GET", `/api/sites/${site}/field`)).json as Field).stream;
  }
  const { worst, bad: failed } = await besides(() => new Promise((r) => setTimeout(r, 500)));
  await gateway.endAsync(true);
  return {
    held: stream?.readings === 1 && stream.refused === 8 && failed === 0 && worst < OTHERS_MS,
    seen: `${stream?.refused ?? "no"} set aside, ${stream?.readings ?? "no"} right one taken in after them`,
  };
}
