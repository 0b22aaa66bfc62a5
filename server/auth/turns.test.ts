import { describe, expect, it } from "vitest";
import { noteLine, takeTurn } from "./turns.ts";

const asked = (session: string | null, from = "10.0.0.1", signal?: AbortSignal): Request =>
  new Request("http://presa.test", {
    headers: { "x-presa-peer": from, ...(session ? { cookie: `presa_session=${session.padEnd(24, "x")}` } : {}) },
    ...(signal ? { signal } : {}),
  });
const settle = (): Promise<void> => new Promise((r) => setImmediate(r));
/** How many of these get their turn now; the answer also ends their turns. */
async function served(requests: Request[]): Promise<{ count: () => number; end: () => Promise<void> }> {
  const leaves: (() => void)[] = [];
  for (const request of requests)
    takeTurn(request).then(
      (leave) => leaves.push(leave),
      () => {},
    );
  await settle();
  return {
    count: () => leaves.length,
    end: async () => {
      for (let done = 0; done < leaves.length; done++) {
        leaves[done]?.();
        await settle();
      }
    },
  };
}
const many = (n: number, request: () => Request): Request[] => Array.from({ length: n }, request);

describe("turns of requests", () => {
  it("many of one organisation, over however many sessions, leave room for another's", async () => {
    for (let n = 0; n < 10; n++) noteLine(asked(`crowd${n}`), "crowd");
    const crowd = await served(Array.from({ length: 100 }, (_, i) => asked(`crowd${i % 10}`)));
    expect(crowd.count()).toBe(60);
    noteLine(asked("someone else"), "others");
    const other = await served([asked("someone else")]);
    expect(other.count()).toBe(1);
    await other.end();
    await crowd.end();
    expect(crowd.count()).toBe(100);
  });
  it("those without a session, or with made-up ones, wait by where they come from", async () => {
    let made = 0;
    const flood = await served(many(90, () => asked(made++ % 2 ? `made up ${made}` : null, "6.6.6.6")));
    const other = await served([asked(null, "10.0.0.9")]);
    expect([flood.count(), other.count()]).toEqual([60, 1]);
    await other.end();
    await flood.end();
  });
  it("who has gone is not waited for, and too many are refused in words", async () => {
    const gone = new AbortController();
    const first = await served(many(60, () => asked("alone")));
    const waiting = takeTurn(asked("alone", "10.0.0.1", gone.signal));
    gone.abort(new Error("gone"));
    await expect(waiting).rejects.toThrow("gone");
    const queue = await served(many(400, () => asked("alone")));
    await expect(takeTurn(asked("alone"))).rejects.toMatchObject({ code: "busy" });
    await first.end();
    await queue.end();
  });
});
