import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { SignedIn } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { actOnAlarm } from "./alarms.ts";
import { logBook, takeBenchNight } from "./log-book.ts";
import { proposeFromOutside, takeLearned } from "./proposals.ts";
import { createSite, importSite, type LoadedSite, loadSite, saveSite } from "./sites.ts";

/** Every write at the same time as itself, so many times: one of the two is done, the other is told; none hangs and nothing is done twice. */
const PAIRS = 50;

let maren: SignedIn;
beforeAll(async () => {
  [maren] = await twoPeople();
});
afterAll(closeDatabase);

const written = (id: string): string =>
  JSON.stringify(
    smallSite((s) => {
      s.site.id = id;
    }),
  );
const fresh = (id: string): Promise<LoadedSite> => importSite(maren, written(id));
const NIGHT = {
  date: "2026-07-14",
  faults: [{ at: "+60", kind: "brokenLateral" as const, subjectId: "s1", size: 90 }],
  seed: 1,
  exact: true,
};

/** Codes of what two at once came to: "done" or the refusal's code. */
async function pair(work: () => Promise<unknown>): Promise<string[]> {
  const both = await Promise.allSettled([work(), work()]);
  return both
    .map((r) => (r.status === "fulfilled" ? "done" : ((r.reason as { code?: string }).code ?? String(r.reason))))
    .sort();
}

/** So many pairs together: an organisation has 60 computations waiting at most. */
const TOGETHER = 10;
async function inGroups<T, R>(of: T[], work: (one: T) => Promise<R>): Promise<R[]> {
  const done: R[] = [];
  for (let i = 0; i < of.length; i += TOGETHER)
    done.push(...(await Promise.all(of.slice(i, i + TOGETHER).map((one) => work(one)))));
  return done;
}
const pairs = async (works: (() => Promise<unknown>)[]): Promise<string[]> =>
  [...new Set((await inGroups(works, pair)).map((codes) => codes.join(" + ")))].sort();
const times = <T>(make: (i: number) => T): T[] => Array.from({ length: PAIRS }, (_, i) => make(i));

describe("two at once", () => {
  it("clear alarms: one clears, the other is told who did, and what was locked is freed once", async () => {
    const site = await fresh("clears");
    for (const seed of [1, 2, 3, 4, 5]) await takeBenchNight(maren, site.id, { ...NIGHT, seed });
    const { alarms } = await logBook(maren, site.id);
    const works = times((i) => alarms[i % alarms.length]?.id as string).map(
      (id) => () => actOnAlarm(maren, site.id, id, { action: "clear", cause: "lateral split" }),
    );
    expect(await pairs(works)).toEqual(["conflict + conflict", "conflict + done"]);
    const after = await logBook(maren, site.id);
    expect(after.alarms.every((a) => a.state === "cleared")).toBe(true);
    expect(after.entries.filter((e) => e.action === "cleared")).toHaveLength(alarms.length);
    expect((await loadSite(maren, site.id)).file.stations[0]?.lockedOut).toBeUndefined();
  });
  it("take what was learned: one revision each, never two", async () => {
    const site = await fresh("takes");
    const works = await inGroups(
      times((i) => i),
      async (i) => {
        const { runId } = await proposeFromOutside(maren, site.id, {
          how: "stopwatch",
          stationId: "s1",
          readings: [{ litres: 100 + i, seconds: 60 }],
        });
        return () => takeLearned(maren, site.id, [{ runId, stationId: "s1" }]);
      },
    );
    expect(await pairs(works)).toEqual(["conflict + done"]);
    expect((await loadSite(maren, site.id)).version).toBe(1 + PAIRS);
  });
  it("take nights of the bench: both stand in the log, and no deadlock comes of it", async () => {
    const site = await fresh("nights");
    expect(await pairs(times((i) => () => takeBenchNight(maren, site.id, { ...NIGHT, seed: i })))).toEqual([
      "done + done",
    ]);
    expect(await db()("bench_run").where({ siteId: site.id })).toHaveLength(2 * PAIRS);
  });
  it("save: one is saved, the other told what changed meanwhile", async () => {
    const sites = await inGroups(
      times((i) => `saves${i}`),
      fresh,
    );
    const codes = await pairs(
      sites.map((site) => () => {
        const file = structuredClone(site.file);
        file.site.name = `Renamed ${randomUUID()}`;
        return saveSite(maren, site.id, { baseVersion: 1, file, note: "" });
      }),
    );
    expect(codes).toEqual(["done + staleVersion"]);
  });
  it("ask for one new site under one key: one site comes of it, and both are told which", async () => {
    const before = (await db()("site").where({ organisationId: maren.organisationId })).length;
    const keys = times(() => randomUUID());
    const asked = { name: "Asked twice", timeZone: "Europe/Vienna", units: "metric" as const };
    const made = await inGroups(keys, (key) =>
      Promise.all([createSite(maren, asked, key), createSite(maren, asked, key)]),
    );
    expect(made.every(([one, other]) => one.id === other.id)).toBe(true);
    expect(new Set(made.flat().map((site) => site.id)).size).toBe(PAIRS);
    expect((await db()("site").where({ organisationId: maren.organisationId })).length).toBe(before + PAIRS);
    const text = written("sent-again");
    const key = randomUUID();
    expect((await importSite(maren, text, key)).id).toBe((await importSite(maren, text, key)).id);
    expect((await refusal(importSite(maren, text))).code).toBe("conflict");
    expect((await refusal(createSite(maren, asked, "short"))).code).toBe("badRequest");
  });
});
