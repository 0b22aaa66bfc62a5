import { AppError } from "../app-error.ts";
import { listenToAll } from "../db/listen.ts";
import { asUser, type InSession } from "../auth/session.ts";
import { userOfSession } from "../db/users.ts";

const BEAT_MS = 15_000;
/** Streams open at once in this process. A page of a site has three. */
export const MOST_STREAMS = { user: 40, organisation: 300 } as const;

/** How many streams each user and each organisation has open. */
const open = new Map<string, number>();

/** Counts a stream in; the answer counts it out again. */
function counted({ userId, organisationId }: InSession): () => void {
  const [user, organisation] = [`user ${userId}`, `organisation ${organisationId}`];
  if ((open.get(user) ?? 0) >= MOST_STREAMS.user || (open.get(organisation) ?? 0) >= MOST_STREAMS.organisation)
    throw new AppError(
      "tooManyTries",
      "Too many pages of yours are watching already. Close some and load this one again.",
    );
  const add = (key: string, by: number): void => {
    const now = (open.get(key) ?? 0) + by;
    if (now > 0) open.set(key, now);
    else open.delete(key);
  };
  for (const key of [user, organisation]) add(key, 1);
  return () => {
    for (const key of [user, organisation]) add(key, -1);
  };
}

/** Streams open in this process, all together. */
export const openStreams = (): number =>
  [...open].reduce((sum, [key, n]) => sum + (key.startsWith("user ") ? n : 0), 0);

/**
 * Server-sent events of a topic for somebody signed in; `first` is sent before anything else. Ends when the caller goes, when their session ends, or when a message says
 * `{ "end": true }`.
 *
 * @param shown what of a message this watcher may see; null: nothing
 */
export function eventStream(
  watcher: InSession,
  topic: string,
  first: () => Promise<unknown>,
  signal: AbortSignal,
  shown: (data: string) => string | null = (data) => data,
): Response {
  const leave = counted(watcher);
  const encoder = new TextEncoder();
  let finish = (): void => {};
  const stream = new ReadableStream({
    async start(controller) {
      let closed = false;
      let deaf: (() => void) | undefined;
      const beat = setInterval(() => {
        send(": still here\n\n");
        userOfSession(watcher.sessionId).then(
          (user) => user ?? finish(),
          () => {},
        );
      }, BEAT_MS);
      finish = (): void => {
        if (closed) return;
        closed = true;
        clearInterval(beat);
        leave();
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
        const mine = shown(data);
        if (mine !== null) send(`data: ${mine}\n\n`);
        if (data.includes('"end":true')) finish();
      };
      if (signal.aborted) return finish();
      signal.addEventListener("abort", () => finish());
      const stop = await listenToAll([
        [topic, say],
        [`session_${watcher.sessionId}`, finish],
      ]);
      if (closed) return stop();
      deaf = stop;
      say(JSON.stringify(await asUser(watcher, first)));
    },
    cancel() {
      finish();
    },
  });
  return new Response(stream, {
    headers: { "content-type": "text/event-stream", "cache-control": "no-store", "x-accel-buffering": "no" },
  });
}
