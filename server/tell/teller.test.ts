import { randomUUID } from "node:crypto";
import type { AddressInfo } from "node:net";
import { SMTPServer } from "smtp-server";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import type { TellingChoice } from "../../contracts/telling.ts";
import { makeAhead } from "../../testing/rounds-made.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { InSession } from "../auth/session.ts";
import { insertAlarms } from "../db/alarms.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { takeLetters } from "../db/telling.ts";
import { closeListening } from "../db/listen.ts";
import { endHeavy } from "../heavy/pool.ts";
import { actOnAlarm } from "../services/alarms.ts";
import { sortSite } from "../services/groups.ts";
import { mailPaper } from "../services/paper.ts";
import { importSite } from "../services/sites.ts";
import { chooseTelling, tellingView, toldView, tryLetter } from "../services/telling.ts";
import { sendLetters } from "./post.ts";
import { writeLetters } from "./teller.ts";

type Caught = { to: string; text: string; subject: string };
const caught: Caught[] = [];
/** What the mail server says to whoever is written to; null: takes it. */
let refuses: number | null = null;
const smtp = new SMTPServer({
  authOptional: true,
  disabledCommands: ["STARTTLS"],
  onRcptTo: (_a, _s, done) =>
    refuses === null ? done() : done(Object.assign(new Error("no"), { responseCode: refuses })),
  onData(stream, session, done) {
    let text = "";
    stream.on("data", (chunk) => {
      text += chunk;
    });
    stream.on("end", () => {
      const subject = /^Subject: (.*)$/m.exec(text)?.[1] ?? "";
      caught.push({ to: session.envelope.rcptTo[0]?.address ?? "", text: text.replace(/=\r\n/g, ""), subject });
      done();
    });
  },
});

let maren: InSession;
let stranger: InSession;
let siteId: string;
let otherId: string;
let count = 0;
const site = async (user: InSession, name: string): Promise<string> => {
  const file = smallSite((s) => {
    s.site.id = `told${++count}`;
    s.site.name = name;
  });
  return (await importSite(user, JSON.stringify(file))).id;
};
beforeAll(async () => {
  await new Promise<void>((yes) => smtp.listen(0, "127.0.0.1", yes));
  process.env["PRESA_SMTP_URL"] = `smtp://127.0.0.1:${(smtp.server.address() as AddressInfo).port}`;
  process.env["PRESA_ADDRESS"] = "http://presa.example";
  [maren, stranger] = await twoPeople();
  siteId = await site(maren, "Dell Pond");
  otherId = await site(maren, "Alder Walk");
  await site(stranger, "Theirs");
});
afterAll(async () => {
  delete process.env["PRESA_SMTP_URL"];
  delete process.env["PRESA_ADDRESS"];
  await new Promise<void>((yes) => smtp.close(yes));
  await endHeavy();
  await closeListening();
  await closeDatabase();
});
beforeEach(async () => {
  caught.length = 0;
  refuses = null;
  await db()("letter").delete();
  await db()("told").delete();
  await db()("telling").delete();
  await db()("alarm_entry").delete();
  await db()("alarm").delete();
});

const CHOICE: TellingChoice = {
  alarms: false,
  overdue: false,
  fromClock: "00:00",
  toClock: "00:00",
  morningClock: null,
  escalateMin: null,
  timeZone: "UTC",
  groups: [],
};
const choose = (changes: Partial<TellingChoice>, user = maren) => chooseTelling(user, { ...CHOICE, ...changes });
const raise = (at: Date, of = siteId, message = "Station 1 reads too much.") =>
  insertAlarms([
    {
      organisationId: maren.organisationId,
      siteId: of,
      benchRunId: null,
      at: at.toISOString(),
      kind: "stationHigh",
      subjectId: "s1",
      measuredLpm: 140,
      expectedLpm: 100,
      message,
      locked: [],
    },
  ]);
const tell = async (now = new Date()): Promise<void> => {
  await writeLetters(now);
  await sendLetters(now);
};
const minutesAgo = (n: number): Date => new Date(Date.now() - n * 60_000);
/** As if they had chosen long ago. */
const chosenLongAgo = () => db()("telling").update({ since: minutesAgo(10_000) });

describe("alarms", () => {
  it("that come together are told in one letter, each once, with the way to it; rehearsed ones are not", async () => {
    await choose({ alarms: true });
    await raise(new Date());
    await raise(new Date(), otherId, "Main reads nothing.");
    await tell();
    await tell();
    expect(caught).toHaveLength(1);
    expect(caught[0]?.to).toBe(maren.email);
    expect(caught[0]?.subject).toMatch(/^2 alarms at /);
    expect(caught[0]?.text).toContain(
      `http://presa.example/sites/${siteId}/log?view=alarms&at=`.replaceAll("=", "=3D"),
    );
    await raise(new Date());
    await tell();
    expect(caught.map((c) => c.subject)).toEqual([expect.anything(), "Alarm at Dell Pond"]);
  });
  it("of before somebody chose, of sites that they did not choose or do not see, and at other hours are not told", async () => {
    await raise(minutesAgo(60));
    const { groups } = await sortSite(maren, otherId, { client: "Fenner Care" });
    await choose({ alarms: true, groups: [groups.find((g) => g.name === "Fenner Care")?.id as string] });
    await raise(new Date());
    await tell();
    expect(caught).toEqual([]);
    await raise(new Date(), otherId);
    await tell();
    expect(caught.map((c) => c.subject)).toEqual(["Alarm at Alder Walk"]);
    await choose({ alarms: true }, stranger);
    await tell();
    expect(caught).toHaveLength(1);
  });
  it("at other hours wait until theirs, and go unsaid where they were cleared by then", async () => {
    const noon = new Date(`${new Date().toISOString().slice(0, 10)}T12:00:00Z`);
    const evening = new Date(noon.getTime() + 9 * 3_600_000);
    await choose({ alarms: true, fromClock: "20:00", toClock: "22:00" });
    await chosenLongAgo();
    await raise(minutesAgo(1));
    await raise(minutesAgo(1), otherId);
    await tell(noon);
    expect(caught).toEqual([]);
    const [first] = await db()("alarm").where({ siteId: otherId });
    await actOnAlarm(maren, otherId, first.id, { action: "clear", cause: "nozzle gone" });
    await tell(evening);
    expect(caught.map((c) => c.subject)).toEqual(["Alarm at Dell Pond"]);
  });
  it("that nobody acknowledges are escalated once, at any hour; acknowledged ones are not", async () => {
    await choose({ escalateMin: 15, fromClock: "03:00", toClock: "03:01" });
    await chosenLongAgo();
    await raise(minutesAgo(5));
    await tell();
    expect(caught).toEqual([]);
    await raise(minutesAgo(20));
    await raise(minutesAgo(20), otherId);
    const [other] = await db()("alarm").where({ siteId: otherId });
    await actOnAlarm(maren, otherId, other.id, { action: "acknowledge" });
    await Promise.all([tell(), tell()]);
    await tell();
    expect(caught.map((c) => c.subject)).toEqual(["Nobody has acknowledged 1 alarm at Dell Pond"]);
  });
});

describe("a morning", () => {
  it("is summed up once a day at its hour, and not long after it", async () => {
    await choose({ morningClock: "06:30" });
    await raise(new Date());
    await makeAhead(maren, new Date());
    const at = (clock: string): Date => new Date(`2026-07-14T${clock}:00Z`);
    await tell(at("06:00"));
    await tell(at("10:00"));
    expect(caught).toEqual([]);
    await tell(at("06:31"));
    await tell(at("07:00"));
    expect(caught.map((c) => c.subject)).toEqual(["2026-07-14: 1 site of 2 need somebody"]);
    expect(caught[0]?.text).toMatch(/Dell Pond\r\n {2}1 open alarm/);
  });
});

describe("what is overdue", () => {
  it("is told once, and again only when it is something else", async () => {
    await makeAhead(maren, new Date());
    await db()("site_round")
      .where({ siteId })
      .update({
        reasons: JSON.stringify([{ code: "overdue", words: "sensor not proved for over a year: Gate", weight: 16 }]),
      });
    await choose({ overdue: true });
    await tell();
    await tell();
    expect(caught.map((c) => c.subject)).toEqual(["Overdue at Dell Pond"]);
  });
});

describe("letters", () => {
  it("that the server does not take now are tried again with growing waits, then given up and seen", async () => {
    await choose({});
    refuses = 451;
    await tryLetter(maren);
    let now = new Date();
    for (const wait of [1, 5, 30, 120, 720]) {
      await sendLetters(now);
      const [letter] = (await tellingView(maren)).letters;
      expect(letter?.state).toBe("waiting");
      const [row] = await db()("letter").select("next_at");
      expect(row.nextAt.getTime() - now.getTime()).toBe(wait * 60_000);
      now = new Date(row.nextAt.getTime() + 1);
      await db()("letter").update({ nextAt: minutesAgo(1) });
    }
    await sendLetters(now);
    expect((await toldView(maren)).stuck).toMatchObject([{ to: "maren", state: "failed", tries: 6 }]);
    expect((await toldView(stranger)).stuck).toEqual([]);
    refuses = null;
    await sendLetters(now);
    expect(caught).toEqual([]);
  });
  it("that it refuses for good are not tried again", async () => {
    refuses = 550;
    await tryLetter(maren);
    await sendLetters(new Date());
    expect((await toldView(maren)).stuck).toMatchObject([{ state: "failed", tries: 1 }]);
  });
  it("whose sender ended on the way are not sent again, and are seen", async () => {
    await tryLetter(maren);
    expect(await takeLetters(10)).toHaveLength(1);
    await db()("letter").update({ triedAt: minutesAgo(11) });
    await sendLetters(new Date());
    expect(caught).toEqual([]);
    expect((await toldView(maren)).stuck).toMatchObject([{ state: "unsure" }]);
  });
  it("to try are a few an hour", async () => {
    for (let i = 0; i < 5; i++) await tryLetter(maren);
    expect((await refusal(tryLetter(maren))).code).toBe("tooManyTries");
    expect((await tryLetter(stranger)).letters).toHaveLength(1);
  });
  it("are not written where no mail server is set", async () => {
    const url = process.env["PRESA_SMTP_URL"];
    delete process.env["PRESA_SMTP_URL"];
    expect((await refusal(tryLetter(maren))).code).toBe("conflict");
    expect((await tellingView(maren)).mail).toBe(false);
    process.env["PRESA_SMTP_URL"] = url;
  });
});

describe("a sheet by mail", () => {
  const ask = (more: object = {}) => ({
    id: randomUUID(),
    email: "client@fenner.example",
    words: "As agreed.",
    ...more,
  });
  it("is sent once, to the address that is said, with the sheet, in the name of who sends it; then it is not kept", async () => {
    const asked = ask();
    await mailPaper(maren, siteId, "walk", asked, new Date());
    await mailPaper(maren, siteId, "walk", asked, new Date());
    expect(await db()("audit").where({ organisationId: maren.organisationId, what: "mailedPaper" })).toHaveLength(1);
    expect(await sendLetters(new Date())).toBe(1);
    expect(caught.map((c) => [c.to, c.subject])).toEqual([["client@fenner.example", "Walk list: Dell Pond"]]);
    expect(caught[0]?.text).toContain("As agreed.");
    expect(caught[0]?.text).toContain("An answer goes to maren.");
    expect(caught[0]?.text).toMatch(new RegExp(`Reply-To: ${maren.email}`));
    expect(caught[0]?.text).toMatch(/filename="?Dell-Pond-walk-list-\d{4}-\d\d-\d\d\.pdf/);
    expect(await db()("letter").where({ kind: "paper" }).first("state", "attachment")).toEqual({
      state: "sent",
      attachment: null,
    });
    expect((await tellingView(maren)).letters[0]).toMatchObject({ to: "client@fenner.example", state: "sent" });
  }, 60_000);
  it("is nobody else's to send, and not without end", async () => {
    expect((await refusal(mailPaper(stranger, siteId, "walk", ask(), new Date()))).code).toBe("notFound");
    const one = {
      organisationId: maren.organisationId,
      userId: maren.userId,
      kind: "paper",
      subject: "x",
      body: "x",
      toEmail: "a@b.example",
    };
    await db()("letter").insert(
      Array.from({ length: 30 }, () => ({ ...one, id: randomUUID(), key: randomUUID(), state: "sent" })),
    );
    expect((await refusal(mailPaper(maren, siteId, "walk", ask(), new Date()))).code).toBe("tooManyTries");
  });
});
