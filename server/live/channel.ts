import pg from "pg";
import { databaseUrl, db } from "../db/connection.ts";

/** Live updates between processes: PostgreSQL NOTIFY and LISTEN, one channel a topic. Payloads stay under 8 kB. */
export async function tell(topic: string, message: unknown): Promise<void> {
  await db().raw("select pg_notify(?, ?)", [channelName(topic), JSON.stringify(message)]);
}

function channelName(topic: string): string {
  return `presa_${topic.replace(/[^a-z0-9]/gi, "_").toLowerCase()}`;
}

/** Server-sent events of a topic; `first` is sent before anything else. Ends when the caller goes or a message says `{ "end": true }`. */
export function eventStream(topic: string, first: () => Promise<unknown>, signal: AbortSignal): Response {
  const encoder = new TextEncoder();
  const client = new pg.Client({ connectionString: databaseUrl() });
  let beat: NodeJS.Timeout | undefined;
  let closed = false;
  const finish = (controller: ReadableStreamDefaultController): void => {
    if (closed) return;
    closed = true;
    clearInterval(beat);
    client.end().catch(() => {});
    try {
      controller.close();
    } catch {
      // The reader has gone already.
    }
  };
  const stream = new ReadableStream({
    async start(controller) {
      const send = (data: string): void => {
        if (!closed) controller.enqueue(encoder.encode(`data: ${data}\n\n`));
      };
      signal.addEventListener("abort", () => finish(controller));
      client.on("error", () => finish(controller));
      await client.connect();
      client.on("notification", (n) => {
        send(n.payload ?? "{}");
        if (n.payload?.includes('"end":true')) finish(controller);
      });
      await client.query(`listen ${channelName(topic)}`);
      const opening = JSON.stringify(await first());
      send(opening);
      if (opening.includes('"end":true')) finish(controller);
      beat = setInterval(() => {
        if (!closed) controller.enqueue(encoder.encode(": still here\n\n"));
      }, 15_000);
    },
    cancel() {
      closed = true;
      clearInterval(beat);
      client.end().catch(() => {});
    },
  });
  return new Response(stream, {
    headers: { "content-type": "text/event-stream", "cache-control": "no-store", "x-accel-buffering": "no" },
  });
}
