import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { closeDatabase, db } from "../db/connection.ts";
import { closeListening, listen, listenToAll, tell } from "../db/listen.ts";
import type { InSession } from "../auth/session.ts";
import { endSession } from "../db/users.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { eventStream, MOST_STREAMS, openStreams } from "./channel.ts";

let maren: InSession;
let stranger: InSession;
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
afterAll(async () => {
  await closeListening();
  await closeDatabase();
});

/** Connections of this database that listen. */
const listening = async (): Promise<number> => {
  const { rows } = await db().raw(
    "select count(*) as n from pg_stat_activity where datname = current_database() and query ilike any (array['listen %', 'unlisten %'])",
  );
  return rows[0].n;
};

/** What a reader of a stream has been told, one message at a time. */
function reader(response: Response): {
  next: () => Promise<unknown>;
  ended: () => Promise<boolean>;
  leave: () => Promise<void>;
} {
  const from = (response.body as ReadableStream<Uint8Array>).getReader();
  const decoder = new TextDecoder();
  let rest = "";
  const next = async (): Promise<unknown> => {
    for (;;) {
      const end = rest.indexOf("\n\n");
      if (end >= 0) {
        const part = rest.slice(0, end);
        rest = rest.slice(end + 2);
        if (part.startsWith("data: ")) return JSON.parse(part.slice(6));
        continue;
      }
      const { value, done } = await from.read();
      if (done) return undefined;
      rest += decoder.decode(value, { stream: true });
    }
  };
  return { next, ended: async () => (await next()) === undefined, leave: () => from.cancel() };
}
const topic = (): string => `test_${randomUUID()}`;
const stream = (of: string, signal = new AbortController().signal, who = maren) =>
  eventStream(who, of, async () => ({ type: "first" }), signal);

describe("hearing what is told", () => {
  it("reaches everyone who listens to that topic and no one else, and ends when they stop", async () => {
    const [here, there] = [topic(), topic()];
    const heard: string[][] = [[], [], []];
    const deaf = await Promise.all([
      listen(here, (p) => heard[0]?.push(p)),
      listen(here, (p) => heard[1]?.push(p)),
      listen(there, (p) => heard[2]?.push(p)),
    ]);
    const heardBy = async (of: string, n: number): Promise<void> => {
      let done: () => void = () => {};
      const arrived = new Promise<void>((heardIt) => {
        done = heardIt;
      });
      const stop = await listen(of, done);
      await tell(of, { n });
      await arrived;
      stop();
    };
    await heardBy(here, 1);
    deaf[0]?.();
    await heardBy(here, 2);
    await heardBy(there, 3);
    expect(heard).toEqual([['{"n":1}'], ['{"n":1}', '{"n":2}'], ['{"n":3}']]);
    for (const stop of deaf) stop();
  });
  it("goes on for the others where one stumbles over what is told", async () => {
    const of = topic();
    let hear: (payload: string) => void = () => {};
    const heard = new Promise<string>((yes) => {
      hear = yes;
    });
    const stop = await listenToAll([
      [
        of,
        () => {
          throw new Error("not ready yet");
        },
      ],
      [of, (p) => hear(p)],
    ]);
    await tell(of, { n: 1 });
    expect(await heard).toBe('{"n":1}');
    stop();
  });
  it("takes one connection however many listen", async () => {
    const stops = await Promise.all(Array.from({ length: 60 }, () => listen(topic(), () => {})));
    expect(await listening()).toBe(1);
    for (const stop of stops) stop();
  });
  it("comes back by itself after the connection broke, and says that something may have been missed", async () => {
    const of = topic();
    const heard: string[] = [];
    let hear: () => void = () => {};
    const stop = await listen(of, (p) => {
      heard.push(p);
      hear();
    });
    const again = new Promise<void>((done) => {
      hear = done;
    });
    await db().raw(
      "select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid() and query ilike any (array['listen %', 'unlisten %'])",
    );
    await again;
    expect(heard).toEqual(['{"type":"watching"}']);
    const told = new Promise<void>((done) => {
      hear = done;
    });
    await tell(of, { n: 1 });
    await told;
    expect(heard.at(-1)).toBe('{"n":1}');
    stop();
  });
});

describe("a stream of events", () => {
  it("says how things stand first, then what is told, and ends when it is told to", async () => {
    const of = topic();
    const response = stream(of);
    expect(response.headers.get("content-type")).toBe("text/event-stream");
    const read = reader(response);
    expect(await read.next()).toEqual({ type: "first" });
    await tell(of, { type: "reading", flow: 12 });
    expect(await read.next()).toEqual({ type: "reading", flow: 12 });
    await tell(of, { type: "over", end: true });
    expect(await read.next()).toEqual({ type: "over", end: true });
    expect(await read.ended()).toBe(true);
  });
  it("ends when its reader goes, when its request is given up, and when that was so from the beginning", async () => {
    const of = topic();
    const gone = reader(stream(of));
    await gone.next();
    await gone.leave();
    const given = new AbortController();
    const read = reader(stream(of, given.signal));
    await read.next();
    given.abort();
    expect(await read.ended()).toBe(true);
    expect(await reader(stream(of, AbortSignal.abort())).ended()).toBe(true);
  });
  it("given up at once, many times over, leaves no connection and no listener behind", async () => {
    const of = topic();
    await Promise.all(
      Array.from({ length: 100 }, async () => {
        const given = new AbortController();
        const read = reader(stream(of, given.signal));
        given.abort();
        await read.ended();
      }),
    );
    const heard: string[] = [];
    let done: () => void = () => {};
    const last = new Promise<void>((arrived) => {
      done = arrived;
    });
    await listen(of, (p) => {
      heard.push(p);
      done();
    });
    await tell(of, { n: 1 });
    await last;
    expect(heard).toEqual(['{"n":1}']);
    expect(await listening()).toBe(1);
    expect(openStreams()).toBe(0);
  });
  it("a thousand given up at once leave connections as they were", async () => {
    const before = await listening();
    for (let round = 0; round < 20; round++)
      await Promise.all(
        Array.from({ length: 40 }, async () => {
          const given = new AbortController();
          const read = reader(stream(topic(), given.signal));
          queueMicrotask(() => given.abort());
          await read.ended();
        }),
      );
    expect(await listening()).toBe(before);
    expect(openStreams()).toBe(0);
  });
  it("ends with the session it was opened in", async () => {
    const of = topic();
    const read = reader(stream(of, undefined, stranger));
    expect(await read.next()).toEqual({ type: "first" });
    await endSession(stranger.sessionId);
    await tell(`session_${stranger.sessionId}`, { end: true });
    expect(await read.ended()).toBe(true);
  });
  it("of one person are limited, and closing some makes room", async () => {
    const given = new AbortController();
    const opened = Array.from({ length: MOST_STREAMS.user }, () => reader(stream(topic(), given.signal)));
    await Promise.all(opened.map((r) => r.next()));
    const refused = await refusal((async () => stream(topic()))());
    expect([refused.code, refused.message]).toEqual(["tooManyTries", expect.stringContaining("Close some")]);
    const [first] = opened;
    await first?.leave();
    const again = reader(stream(topic(), given.signal));
    expect(await again.next()).toEqual({ type: "first" });
    given.abort();
    await again.ended();
  });
});
