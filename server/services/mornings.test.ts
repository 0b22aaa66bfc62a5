import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { dates, logCsv, nightLog, reckonedSite } from "../../testing/reckoned-nights.ts";
import { makeAhead, roundsMade } from "../../testing/rounds-made.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import type { InSession } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { insertReadings, setGateway } from "../db/field.ts";
import { closeListening } from "../db/listen.ts";
import { endHeavy } from "../heavy/pool.ts";
import { logState } from "./log-book.ts";
import { answerFinding, morningsStatus, reckonNight, reckonNights, stationMornings, takeLog } from "./mornings.ts";
import { importSite, loadSite } from "./sites.ts";

let maren: InSession;
let stranger: InSession;
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
afterAll(async () => {
  await endHeavy();
  await closeListening();
  await closeDatabase();
});

const { ground, known } = reckonedSite(1, 12);
const DATES = dates("2026-07-01", 4);
const outlet = { kind: "brokenOutlet", subjectId: "s3", at: "00:00:00", size: 20 };
/** The first night as it should be, then with an outlet of s3 broken. */
const LOGS = DATES.map((date, n) => nightLog(ground, date, n === 0 ? [] : [outlet], 50 + n));
const csv = (n: number): string => logCsv(known, LOGS[n] as (typeof LOGS)[number]);
let count = 0;
const fresh = async (): Promise<string> => {
  const file = structuredClone(known);
  file.site.id = `nights-${++count}`;
  return (await importSite(maren, JSON.stringify(file))).id;
};

describe("a recorder's log", () => {
  let siteId: string;
  beforeAll(async () => {
    siteId = await fresh();
  });
  it("that cannot be read is refused with its line, and nothing of it is kept", async () => {
    const bad = csv(0).split("\n");
    bad[4] = "not a time,1,";
    const refused = await refusal(takeLog(maren, siteId, bad.join("\n")));
    expect(refused.message).toMatch(/^Line 5: "not a time" is not an instant/);
    expect((await refusal(takeLog(maren, siteId, "time,flow L/min,station\n"))).message).toMatch(
      /^Nothing in it is steady/,
    );
    expect(await morningsStatus(maren, siteId)).toMatchObject({ night: null, found: [], nights: 0 });
  });
  it("says what has changed, on the site and on Rounds, in words and with the readings that show it", async () => {
    expect(await takeLog(maren, siteId, csv(0))).toEqual({ nights: ["2026-07-01"], found: 0 });
    expect(await takeLog(maren, siteId, csv(1))).toEqual({ nights: ["2026-07-02"], found: 1 });
    const status = await morningsStatus(maren, siteId);
    expect(status).toMatchObject({ night: "2026-07-02", whole: true, source: "log", nights: 2 });
    const [found] = status.found;
    expect(found).toMatchObject({ kind: "step", subjectIds: ["s3"], certain: true, answer: null });
    expect(found?.words.head).toMatch(/^a break likely at 4 S4 since Thu 2 Jul, /);
    expect(found?.evidence.length).toBeGreaterThan(2);
    const row = (await roundsMade(maren, new Date())).find((r) => r.id === siteId);
    expect(row?.nights).toEqual([found?.words.head]);
    expect((await stationMornings(maren, siteId, "s3")).mornings.map((m) => m.night)).toEqual([
      "2026-07-01",
      "2026-07-02",
    ]);
  });
  it("of an earlier night, brought in later, is reckoned with those after it", async () => {
    const later = await fresh();
    await takeLog(maren, later, csv(1));
    await takeLog(maren, later, csv(0));
    const [found] = (await morningsStatus(maren, later)).found;
    expect(found?.since.slice(0, 10)).toBe("2026-07-02");
    expect((await morningsStatus(maren, later)).night).toBe("2026-07-02");
  });
  it("is another organisation's neither to read nor to bring", async () => {
    for (const ask of [
      () => morningsStatus(stranger, siteId),
      () => takeLog(stranger, siteId, csv(0)),
      () => stationMornings(stranger, siteId, "s3"),
    ])
      expect((await refusal(ask())).code).toBe("notFound");
  });

  it("makes the figure that it contradicts stale at once, and says whose it confirms", async () => {
    const { nights } = await logState(maren, siteId);
    expect(nights).toMatchObject({ night: "2026-07-02", contradicted: ["s3"] });
    expect(nights?.confirmed).not.toContain("s3");
    expect(nights?.confirmed.length).toBeGreaterThan(0);
  });

  describe("and what is answered", () => {
    const id = async (): Promise<string> => (await morningsStatus(maren, siteId)).found[0]?.id as string;
    const why = async () => (await roundsMade(maren, new Date())).find((r) => r.id === siteId)?.nights.join() ?? "";
    it("by a visit is kept, by whom and for whom, and no longer needs someone on Rounds", async () => {
      const status = await answerFinding(maren, siteId, {
        findingId: await id(),
        answer: "visit",
        words: "by the gate",
        forUser: maren.userId,
      });
      expect(status.found[0]?.answer).toMatchObject({
        answer: "visit",
        words: "by the gate",
        forName: "maren",
        byName: "maren",
        grown: false,
      });
      expect(await why()).not.toContain("a break likely");
    });
    it("for somebody of another organisation, or of what is not said, is refused", async () => {
      const ask = { findingId: await id(), answer: "visit" as const, words: "" };
      expect((await refusal(answerFinding(maren, siteId, { ...ask, forUser: stranger.userId }))).message).toContain(
        "no such person",
      );
      expect((await refusal(answerFinding(maren, siteId, { ...ask, findingId: "else" }))).code).toBe("conflict");
    });
    it("by running it alone needs controllers that answer", async () => {
      expect((await morningsStatus(maren, siteId)).notAlone).toContain("No gateway");
      const asked = answerFinding(maren, siteId, {
        findingId: await id(),
        answer: "alone",
        words: "",
        orderId: crypto.randomUUID(),
      });
      expect((await refusal(asked)).message).toContain("No gateway of this site");
    });
    it("is asked about again where it grew", async () => {
      await db()("finding_answer").where({ siteId }).update({ changeLpm: 5 });
      expect((await morningsStatus(maren, siteId)).found[0]?.answer?.grown).toBe(true);
      expect(await why()).toContain("a break likely");
    });
    it("by the new figure becomes a revision; what the next nights say fits it", async () => {
      await answerFinding(maren, siteId, { findingId: await id(), answer: "taken", words: "" });
      const { file, version } = await loadSite(maren, siteId);
      const s3 = file.stations.find((s) => s.id === "s3");
      expect(version).toBe(2);
      expect(s3?.learned).toMatchObject({ how: "nights" });
      const figure = (ground.stations.find((s) => s.id === "s3")?.enteredFlowLpm as number) + 20;
      expect(Math.abs((s3?.learned?.meanLpm as number) - figure)).toBeLessThan(4 * (s3?.learned?.sdLpm as number));
      expect((await logState(maren, siteId)).nights?.contradicted).toEqual([]);
      await takeLog(maren, siteId, csv(2));
      expect((await logState(maren, siteId)).nights?.contradicted).toEqual([]);
      expect((await morningsStatus(maren, siteId)).found.filter((f) => f.answer === null)).toEqual([]);
      expect(await why()).not.toContain("a break likely");
    });
  });
});

describe("a gateway's night", () => {
  const NIGHT = "2026-07-02";
  const within = async (): Promise<string> => {
    const siteId = await fresh();
    const of = { organisationId: maren.organisationId, siteId, stream: "s" };
    const rows = LOGS[1]?.rows ?? [];
    const sensors = known.pocs.flatMap((p) => p.devices.filter((d) => d.kind === "flowSensor").map((d) => d.id));
    const at = (t: number): string => new Date(1000 * t).toISOString();
    await insertReadings(
      of,
      rows.map((r, seq) => ({
        at: at(r.t),
        seq,
        open: r.open.map((s) => known.stations[s]?.id ?? ""),
        valves: [],
        pumps: [],
      })),
      rows.flatMap((r, seq) =>
        sensors.map((sensorId, i) => ({
          at: at(r.t),
          seq,
          sensorId,
          quantity: "flow" as const,
          value: r.flow[i] ?? 0,
        })),
      ),
    );
    await setGateway({ ...of, account: `nights-account-${count}`, userId: maren.userId });
    await db()("field_gateway").where({ siteId }).update({ heardAt: new Date() });
    return siteId;
  };
  it("is reckoned when people come to work and once more when it is over, each once", async () => {
    const siteId = await within();
    // Rounds keeps the zone of each site.
    await makeAhead(maren, new Date());
    const night = () => db()("site_night").where({ siteId }).select("whole", "read_at");
    await reckonNights(new Date("2026-07-03T02:00:00Z"));
    expect(await night()).toEqual([]);
    await reckonNights(new Date("2026-07-03T04:00:00Z"));
    const [early] = await night();
    expect(early).toMatchObject({ whole: false });
    expect((await morningsStatus(maren, siteId)).found).toMatchObject([{ subjectIds: ["s3"], certain: true }]);
    await reckonNights(new Date("2026-07-03T05:00:00Z"));
    expect(await night()).toEqual([early]);
    await reckonNights(new Date("2026-07-03T10:10:00Z"));
    expect(await night()).toMatchObject([{ whole: true }]);
    expect((await morningsStatus(maren, siteId)).found).toHaveLength(1);
  });
  it("that could not be reckoned is tried again", async () => {
    const siteId = await within();
    await makeAhead(maren, new Date());
    const at = new Date("2026-07-03T04:00:00Z");
    // What happens while it is worked out: the newest revision cannot be read.
    await db()("site").where({ id: siteId }).update({ version: 99 });
    await reckonNights(at);
    expect(await db()("site_night").where({ siteId })).toEqual([]);
    await db()("site").where({ id: siteId }).update({ version: 1 });
    await reckonNights(at);
    expect((await morningsStatus(maren, siteId)).found).toMatchObject([{ subjectIds: ["s3"] }]);
  });
  it("is reckoned by one of two workers", async () => {
    const siteId = await within();
    const of = { organisationId: maren.organisationId, siteId, timeZone: "Europe/Vienna" };
    await Promise.all([reckonNight(of, NIGHT, true), reckonNight(of, NIGHT, true)]);
    expect((await morningsStatus(maren, siteId)).night).toBe(NIGHT);
  });
});
