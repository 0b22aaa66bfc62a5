import { learningRequest, type LearningRequest } from "../../contracts/learning.ts";
import type { ChildProcess } from "node:child_process";
import { afterAll, beforeAll, describe, expect, it, onTestFinished, vi } from "vitest";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import { endWorker, startWorker } from "../../testing/worker-process.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import type { SignedIn } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { freeLostRuns, learningResults, learningRunById } from "../db/learning.ts";
import { learnInTurn } from "../jobs/learner.ts";
import { runLearning } from "../jobs/learning-run.ts";
import { closeListening } from "../db/listen.ts";
import {
  goOnLearning,
  keptReadings,
  latestLearning,
  noteMeter,
  readingsOf,
  startLearning,
  stationHistory,
  stopLearning,
} from "./learning.ts";
import { actOnAlarm } from "./alarms.ts";
import { logBook, takeBenchNight } from "./log-book.ts";
import { proposeFromOutside, takeLearned, takeSets, undoTaken } from "./proposals.ts";
import { importSite, type LoadedSite, loadSite, saveSite } from "./sites.ts";

let maren: SignedIn;
let stranger: SignedIn;
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
afterAll(async () => {
  await closeListening();
  await closeDatabase();
});

let count = 0;
const fresh = (change: (s: SiteFile) => void = () => {}): Promise<LoadedSite> =>
  importSite(
    maren,
    JSON.stringify(
      smallSite((s) => {
        s.site.id = `learn${++count}`;
        change(s);
      }),
    ),
  );
const ask = (more: Partial<LearningRequest> = {}): LearningRequest =>
  learningRequest.parse({ stationIds: null, faults: [], seed: 2, pace: 0, date: "2026-07-14", ...more });
const learnt = async (siteId: string, more: Partial<LearningRequest> = {}): Promise<string> => {
  const { runId } = await startLearning(maren, siteId, ask(more));
  await runLearning(runId);
  return runId;
};
const picks = (runId: string, ids: string[]): { runId: string; stationId: string }[] =>
  ids.map((stationId) => ({ runId, stationId }));

describe("proposals", () => {
  it("are kept beside what stands; taking them is a revision that says how and on what; a figure by hand stays in use until chosen", async () => {
    const site = await fresh((s) => {
      (s.stations[1] as { enteredFlowLpm?: number }).enteredFlowLpm = 97;
    });
    const runId = await learnt(site.id);
    expect((await learningRunById(runId))?.state).toBe("done");
    expect(
      (await latestLearning(maren, site.id)).results.map((r) => [r.elementId, r.verdict, r.how, r.traced]),
    ).toEqual([
      ["s1", "accepted", "bench", true],
      ["s2", "accepted", "bench", true],
      ["s3", "accepted", "bench", true],
    ]);
    expect((await loadSite(maren, site.id)).version).toBe(1);
    const saved = await takeLearned(maren, site.id, picks(runId, ["s1", "s2"]));
    expect(saved.version).toBe(2);
    expect(
      saved.file.stations.map((s) => [
        s.learned?.how,
        s.learned?.basis !== undefined,
        s.expectedFrom,
        s.expectedSince !== undefined,
      ]),
    ).toEqual([
      ["bench", true, undefined, true],
      ["bench", true, "entered", false],
      [undefined, false, undefined, false],
    ]);
    expect((await refusal(takeLearned(maren, site.id, picks(runId, ["gone"])))).code).toBe("badRequest");
    expect((await refusal(takeLearned(stranger, site.id, picks(runId, ["s1"])))).code).toBe("notFound");
  });
  it("can be undone while nobody has changed them, and the history keeps every figure with who and how", async () => {
    const site = await fresh();
    const first = await learnt(site.id, { stationIds: ["s1"] });
    await takeLearned(maren, site.id, picks(first, ["s1"]));
    const second = await learnt(site.id, { stationIds: ["s1"], seed: 9 });
    const taken = await takeLearned(maren, site.id, picks(second, ["s1"]));
    expect((await refusal(undoTaken(maren, site.id, picks(first, ["s1"])))).code).toBe("conflict");
    const back = await undoTaken(maren, site.id, picks(second, ["s1"]));
    expect(back.file.stations[0]?.learned?.at).not.toBe(taken.file.stations[0]?.learned?.at);
    expect((await undoTaken(maren, site.id, picks(first, ["s1"]))).file.stations[0]?.learned).toBeUndefined();
    expect((await refusal(undoTaken(maren, site.id, picks(first, ["s1"])))).code).toBe("badRequest");
    const { figures } = await stationHistory(maren, site.id, "s1");
    expect(
      figures.filter((f) => f.figure === "learned").map((f) => [f.version, f.how, f.lpm === null, f.madeByName]),
    ).toEqual([
      [2, "bench", false, "maren"],
      [3, "bench", false, "maren"],
      [4, "bench", false, "maren"],
      [5, null, true, "maren"],
    ]);
    expect(figures[0]).toMatchObject({ version: 1, figure: "design", lpm: 100, inUse: true });
    expect((await latestLearning(maren, site.id)).past["s1"]?.length).toBe(3);
  });
  it("since when a figure is used is the server's word, whatever is sent", async () => {
    const site = await fresh();
    const file = structuredClone(site.file);
    Object.assign(file.stations[0] as object, {
      enteredFlowLpm: 90,
      expectedFrom: "entered",
      expectedSince: "1999-01-01T00:00:00Z",
    });
    Object.assign(file.stations[1] as object, { expectedSince: "1999-01-01T00:00:00Z" });
    const saved = await saveSite(maren, site.id, { baseVersion: 1, file, note: "" });
    expect(Date.parse(saved.file.stations[0]?.expectedSince ?? "")).toBeGreaterThan(Date.now() - 60_000);
    expect(saved.file.stations[1]?.expectedSince).toBeUndefined();
  });
  it("keep their readings, which go out as a log that is learned from to the same figures", async () => {
    const site = await fresh();
    const runId = await learnt(site.id, { from: "02:00" });
    const trace = await keptReadings(maren, site.id, runId, "s2");
    expect([trace.lpm.length, trace.read]).toEqual([90, [[60, 89]]]);
    const log = await readingsOf(maren, site.id, runId);
    const made = await proposeFromOutside(maren, site.id, {
      how: "readings",
      source: "readings.csv",
      text: log,
      unit: "L/min",
      columns: ["time", "flow", "station"],
      date: "2026-07-14",
    });
    expect(made.proposals).toBe(3);
    const [bench, again] = [await learningResults(runId), await learningResults(made.runId)];
    for (const [i, r] of again.entries())
      expect([r.verdict, r.how, r.meanLpm]).toEqual([
        "accepted",
        "readings",
        expect.closeTo(bench[i]?.meanLpm as number, 1),
      ]);
    expect((await latestLearning(maren, site.id)).results.every((r) => r.how === "readings")).toBe(true);
    const taken = await takeLearned(maren, site.id, picks(made.runId, ["s1", "s2", "s3"]));
    expect(taken.file.stations.every((s) => s.learned?.how === "readings")).toBe(true);
    expect((await refusal(keptReadings(maren, site.id, made.runId, "s1"))).code).toBe("notFound");
  });
  it("come from a list and from a stopwatch, refused with the reason when they hold nothing", async () => {
    const site = await fresh();
    await proposeFromOutside(maren, site.id, {
      how: "list",
      source: "old.csv",
      text: "station,flow gpm\n1,25\n",
      unit: "L/min",
    });
    await proposeFromOutside(maren, site.id, {
      how: "stopwatch",
      stationId: "s3",
      readings: [{ litres: 52, seconds: 60 }],
    });
    expect(
      (await latestLearning(maren, site.id)).results.map((r) => [
        r.elementId,
        r.how,
        Math.round(r.meanLpm * 100) / 100,
      ]),
    ).toEqual([
      ["s1", "list", 94.64],
      ["s3", "stopwatch", 52],
    ]);
    expect(
      (
        await refusal(
          proposeFromOutside(maren, site.id, { how: "list", source: "x", text: "station,flow\n77,1\n", unit: "L/min" }),
        )
      ).code,
    ).toBe("badRequest");
    expect(
      (
        await refusal(
          proposeFromOutside(maren, site.id, {
            how: "stopwatch",
            stationId: "s3",
            readings: [{ litres: 0, seconds: 0 }],
          }),
        )
      ).message,
    ).toContain("over 0");
    expect(
      (
        await refusal(
          proposeFromOutside(stranger, site.id, {
            how: "list",
            source: "x",
            text: "station,flow\n1,1\n",
            unit: "L/min",
          }),
        )
      ).code,
    ).toBe("notFound");
  });
  it("of sets become ratios of the site", async () => {
    const site = await fresh();
    const runId = await learnt(site.id, { sets: [["s1", "s3"]] });
    const saved = await takeSets(maren, site.id, runId, [["s3", "s1"]]);
    expect(saved.file.setRatios).toMatchObject([{ stationIds: ["s1", "s3"], ratio: expect.closeTo(1, 1) }]);
    expect((await loadSite(maren, site.id)).file).toEqual(saved.file);
    expect((await latestLearning(maren, site.id)).sets).toMatchObject([
      { stationIds: ["s1", "s3"], runId, takenAt: expect.any(String) },
    ]);
    expect((await refusal(takeSets(maren, site.id, runId, [["s1", "s2"]]))).code).toBe("badRequest");
  });
});

describe("a run", () => {
  it("is one at a time on a site; one for later waits for its hour; one in the past is refused", async () => {
    const site = await fresh();
    const tomorrow = new Date(Date.now() + 36 * 3600_000).toISOString().slice(0, 10);
    const { runId } = await startLearning(maren, site.id, ask({ date: tomorrow, from: "02:00", later: true }));
    await runLearning(runId);
    expect((await learningRunById(runId))?.state).toBe("queued");
    expect((await refusal(startLearning(maren, site.id, ask()))).code).toBe("conflict");
    await stopLearning(maren, site.id, runId);
    expect((await learningRunById(runId))?.state).toBe("stopped");
    expect((await refusal(startLearning(maren, site.id, ask({ date: "2020-01-01", later: true })))).message).toContain(
      "past on the site's clock",
    );
    await db()("learning_run")
      .where({ id: runId })
      .update({ state: "queued", startAt: new Date(Date.now() - 60_000), beatAt: null });
    const stop = await learnInTurn();
    await until(async () => (await learningRunById(runId))?.state === "done");
    await stop();
  });
  it("stops between readings, records the station it was at as stopped, and goes on with the rest", async () => {
    const site = await fresh();
    const { runId } = await startLearning(maren, site.id, ask({ pace: 150 }));
    const walking = runLearning(runId);
    await until(async () => (await learningResults(runId)).length >= 1);
    await stopLearning(maren, site.id, runId);
    await walking;
    const had = await learningResults(runId);
    expect((await learningRunById(runId))?.state).toBe("stopped");
    expect(had.map((r) => r.verdict)).toEqual(["accepted", "stopped"]);
    await goOnLearning(maren, site.id, runId, ask());
    await runLearning(runId);
    const all = await learningResults(runId);
    expect([(await learningRunById(runId))?.state, all.map((r) => [r.elementId, r.verdict])]).toEqual([
      "done",
      [
        ["s1", "accepted"],
        ["s2", "accepted"],
        ["s3", "accepted"],
      ],
    ]);
    expect(all[0]?.learnedAt).toEqual(had[0]?.learnedAt);
    expect((await refusal(noteMeter(maren, site.id, runId, { beforeL: 5, afterL: 4, minutes: 10 }))).code).toBe(
      "badRequest",
    );
    expect((await noteMeter(maren, site.id, runId, { beforeL: 81_200, afterL: 81_230, minutes: 10 })).leakLpm).toBe(3);
  }, 60_000);
  it("whose server process is killed is taken up by another, and loses no result that was accepted", async () => {
    const site = await fresh();
    const worker = (): ChildProcess => {
      const child = startWorker();
      onTestFinished(() => endWorker(child));
      return child;
    };
    const { runId } = await startLearning(maren, site.id, ask({ pace: 120 }));
    const first = worker();
    await until(async () => (await learningResults(runId)).length >= 2, 90_000);
    await endWorker(first);
    const kept = await learningResults(runId);
    expect((await learningRunById(runId))?.state).toBe("running");
    await until(async () => {
      await freeLostRuns(2);
      return (await learningRunById(runId))?.state === "queued";
    }, 60_000);
    const second = worker();
    await until(async () => (await learningRunById(runId))?.state === "done", 90_000);
    await endWorker(second, "SIGTERM");
    const all = await learningResults(runId);
    expect(all.map((r) => [r.elementId, r.verdict])).toEqual([
      ["s1", "accepted"],
      ["s2", "accepted"],
      ["s3", "accepted"],
    ]);
    expect(all.slice(0, kept.length)).toEqual(kept);
    expect((await learningRunById(runId))?.elapsed).toBeGreaterThan(250);
  }, 240_000);
  it("of one organisation never holds all places: another's goes on beside two slow ones, a third waits; what a worker lets go of others go on with", async () => {
    const started = async (user: SignedIn): Promise<string> => {
      const file = smallSite((s) => Object.assign(s.site, { id: `turn${++count}` }));
      const site = await importSite(user, JSON.stringify(file));
      return (await startLearning(user, site.id, ask({ pace: 10 }))).runId;
    };
    const ids = [await started(maren), await started(maren), await started(maren), await started(stranger)];
    const states = (): Promise<unknown[]> => Promise.all(ids.map(async (id) => (await learningRunById(id))?.state));
    const stop = await learnInTurn({ places: 4, mostOfOne: 2 });
    await until(async () => (await states()).join() === "running,running,queued,running");
    await stop();
    expect(await states()).toEqual(["queued", "queued", "queued", "queued"]);
    const stopAgain = await learnInTurn({ places: 1, mostOfOne: 2 });
    await until(async () => (await states()).includes("running"));
    await stopAgain();
    await db()("learning_run").whereIn("id", ids).update({ state: "stopped" });
  });
  it("two workers never walk the same run", async () => {
    const site = await fresh();
    const { runId } = await startLearning(maren, site.id, ask());
    await Promise.all([runLearning(runId), runLearning(runId), runLearning(runId)]);
    expect((await learningResults(runId)).length).toBe(3);
  });
});

it("clearing an alarm of a station that was repaired marks it, so that its figure is stale", async () => {
  const site = await fresh();
  await takeBenchNight(maren, site.id, {
    date: "2026-07-14",
    faults: [{ at: "+60", kind: "brokenLateral", subjectId: "s1", size: 90 }],
    seed: 1,
    exact: true,
  });
  const alarm = (await logBook(maren, site.id)).alarms.find((a) => a.subjectId === "s1");
  const { site: after } = await actOnAlarm(maren, site.id, alarm?.id as string, {
    action: "clear",
    cause: "lateral mended",
    repaired: true,
  });
  expect([
    after.file.stations[0]?.lockedOut,
    Date.parse(after.file.stations[0]?.repairedAt ?? "") > Date.now() - 60_000,
  ]).toEqual([undefined, true]);
});

const until = (holds: () => Promise<boolean>, ms = 20_000): Promise<boolean> =>
  vi.waitUntil(holds, { timeout: ms, interval: 100 });
