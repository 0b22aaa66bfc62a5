import { vi } from "vitest";
import type { Learned, Proposal } from "../components/data/use-learning.ts";
import type { SiteFile } from "../core/site-file/schema.ts";

export type Sent = { method: string; path: string; body: Record<string, unknown> | null };
export const NOTHING_LEARNED: Learned = { run: null, results: [], sets: [], past: {} };

/** One station's result as the server tells it, accepted on the bench unless changed. */
export const proposal = (stationId: string, meanLpm: number, more: Partial<Proposal> = {}): Proposal => ({
  runId: "run",
  elementId: stationId,
  verdict: "accepted",
  meanLpm,
  sdLpm: 1,
  samples: 60,
  secondsToSteady: 40,
  companionIds: [],
  learnedAt: "2026-07-13T10:00:00.000Z",
  takenAt: null,
  before: null,
  how: "bench",
  version: 3,
  traced: false,
  ...more,
});

/** A server that keeps what is learned, in place of `fetch`; `onSend` says what an act makes of it. What it was sent is handed back. */
export function learningServer(
  view: Learned,
  file: SiteFile,
  {
    onSend = (_, v) => v,
    figures = [],
  }: { onSend?: (sent: Sent, view: Learned) => Learned; figures?: readonly object[] } = {},
): Sent[] {
  const sent: Sent[] = [];
  let now = view;
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const method = init?.method ?? "GET";
    const answer = (body: unknown): Response =>
      new Response(JSON.stringify(body), { headers: { "content-type": "application/json" } });
    if (method === "GET") return answer(path.includes("/history") ? { figures } : now);
    const one = { method, path, body: init?.body ? JSON.parse(String(init.body)) : null };
    sent.push(one);
    now = onSend(one, now);
    return answer({ version: 4, file, runId: "run2", proposals: 1 });
  });
  return sent;
}
