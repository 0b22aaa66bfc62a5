import { listen } from "../db/listen.ts";

const BEAT_MS = 15_000;

/** Server-sent events of a topic; `first` is sent before anything else. Ends when the caller goes or a message says `{ "end": true }`. */
export function eventStream(topic: string, first: () => Promise<unknown>, signal: AbortSignal): Response {
  const encoder = new TextEncoder();
  let finish = (): void => {};
  const stream = new ReadableStream({
    async start(controller) {
      let closed = false;
      let deaf: (() => void) | undefined;
      const beat = setInterval(() => send(": still here\n\n"), BEAT_MS);
      finish = (): void => {
        if (closed) return;
        closed = true;
        clearInterval(beat);
        deaf?.();
        try {
          controller.close();
        } catch {
          // The reader has gone already.
        }
      };
      const send = (text: string): void => {
        if (!closed) controller.enqueue(encoder.encode(text));
      };
      const say = (data: string): void => {
        send(`data: ${data}\n\n`);
        if (data.includes('"end":true')) finish();
      };
      if (signal.aborted) return finish();
      signal.addEventListener("abort", () => finish());
      const stop = await listen(topic, say);
      if (closed) return stop();
      deaf = stop;
      say(JSON.stringify(await first()));
    },
    cancel() {
      finish();
    },
  });
  return new Response(stream, {
    headers: { "content-type": "text/event-stream", "cache-control": "no-store", "x-accel-buffering": "no" },
  });
}
