import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { roundsQuery } from "../../contracts/rounds.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { makeAhead, roundsMade } from "../../testing/rounds-made.ts";
import { twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { SignedIn } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { closeListening, listen } from "../db/listen.ts";
import { doneDue, takeDue } from "../db/rounds.ts";
import { sortSite } from "./groups.ts";
import { takeBenchNight } from "./log-book.ts";
import { ALL_SITES, rounds, roundsChoices, roundsPlaces, siteList } from "./rounds.ts";
import { makeDueRounds, makeRoundsAhead, makeRoundsByTheMinute } from "./rounds-ahead.ts";
import { amendSite, importSite, type LoadedSite } from "./sites.ts";

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
const site = (name: string, change: (s: SiteFile) => void = () => {}, of = maren): Promise<LoadedSite> =>
  importSite(
    of,
    JSON.stringify(
      smallSite((s) => {
        s.site.id = `round${++count}`;
        s.site.name = name;
        change(s);
      }),
    ),
  );
const tuesday = new Date("2026-07-14T10:00:00Z");

describe("rounds", () => {
  it("put those first that need somebody, and say why", async () => {
    await site("Calm");
    const alarmed = await site("Alarmed");
    await site("Off", (s) => {
      s.site.holdUntil = "indefinite";
    });
    await takeBenchNight(maren, alarmed.id, {
      date: "2026-07-14",
      faults: [{ at: "+60", kind: "brokenLateral", subjectId: "s1", size: 90 }],
      seed: 1,
      exact: true,
    });
    const [first, second, third] = await roundsMade(maren, tuesday);
    expect([first?.name, second?.name, third?.name]).toEqual(["Alarmed", "Off", "Calm"]);
    expect(first?.why.slice(0, 2)).toEqual(["1 open alarm", "1 locked out"]);
    expect(first?.why).toContain("3 not learned");
    expect(second?.why).toContain("off, no end set");
    expect(third?.why).toEqual(["3 not learned"]);
    expect(first?.summary?.binding?.elementId).toBe("main");
    expect(await roundsMade(stranger, tuesday)).toEqual([]);
  });
  it("find, narrow, sort and turn on the server, a page at a time, and say of how many", async () => {
    await sortSite(maren, (await site("Alder Walk")).id, { client: "Fenner Care" });
    await sortSite(
      maren,
      (
        await site("Brine House", (s) => {
          s.sources[0] = { ...s.sources[0], kind: "well" } as never;
        })
      ).id,
      {
        client: "Fenner Care",
        crew: "Crew 2",
      },
    );
    await makeAhead(maren, tuesday);
    const asked = async (query: Record<string, string>) => rounds(maren, roundsQuery.parse(query), tuesday);
    const names = async (query: Record<string, string>) => (await asked(query)).rows.map((r) => r.name);
    expect(await names({ find: "fenner br" })).toEqual(["Brine House"]);
    expect(await names({ find: "100%" })).toEqual([]);
    expect(await names({ within: "client Fenner Care", sort: "name", turned: "1" })).toEqual([
      "Brine House",
      "Alder Walk",
    ]);
    expect(await names({ within: "source well" })).toEqual(["Brine House"]);
    expect(await names({ only: "alarms" })).toEqual(["Alarmed"]);
    expect(await names({ only: "hold" })).toEqual(["Off"]);
    expect(await names({ only: "needs", sort: "name" })).toEqual(["Alarmed", "Off"]);
    expect(await names({ sort: "crew" })).toHaveLength(5);
    expect(await asked({ only: "hold" })).toMatchObject({ found: 1, all: 5, openAlarms: 1 });
    expect((await roundsChoices(maren)).map((c) => c.value)).toEqual(
      expect.arrayContaining(["client Fenner Care", "crew Crew 2", "source well"]),
    );
    expect(await names({ page: "2" })).toEqual([]);
    // What an address cannot mean is as if it were not there.
    expect(
      (await asked({ sort: "'; drop table site; --", only: "x", within: "nobody's", page: "-3" })).rows,
    ).toHaveLength(5);
  });
  it("sort by everything that they say they do", async () => {
    for (const sort of roundsQuery.shape.sort.unwrap().unwrap().options)
      for (const turned of [false, true])
        expect((await rounds(maren, { ...ALL_SITES, sort, turned }, tuesday)).rows, sort).toHaveLength(5);
  });
  it("are worked out anew after a save, and kept until then", async () => {
    const mine = await site("Kept", (s) => {
      for (const p of s.programs)
        p.days = { type: "weekdays", days: ["mon", "tue", "wed", "thu", "fri", "sat", "sun"] };
    });
    const of = async (): Promise<number | undefined> =>
      (await roundsMade(maren, new Date())).find((r) => r.name === "Kept")?.summary?.makespanS;
    const before = await of();
    expect(before).toBeGreaterThan(0);
    await db()("site_summary")
      .where({ siteId: mine.id })
      .update({ summary: db().raw("jsonb_set(summary, '{makespanS}', '7')") });
    expect(await of()).toBe(7);
    await amendSite(maren, mine.id, "longer", (file) => ({
      ...file,
      programs: file.programs.map((p) => ({ ...p, runs: p.runs.map((r) => ({ ...r, minutes: 20 })) })),
    }));
    const meanwhile = (await rounds(maren, ALL_SITES, new Date())).rows.find((r) => r.name === "Kept");
    expect(meanwhile).toMatchObject({ old: true, summary: { makespanS: 7 } });
    expect(await of()).toBe(2 * (before as number));
  });
  it("are of the night that it is on the site, also where it is still yesterday", async () => {
    await site("West", (s) => {
      s.site.timeZone = "America/Los_Angeles";
    });
    const of = async (at: string): Promise<string | undefined> =>
      (await roundsMade(maren, new Date(at))).find((r) => r.name === "West")?.summary?.date;
    expect(await of("2026-07-14T03:00:00Z")).toBe("2026-07-13");
    expect(await of("2026-07-14T12:00:00Z")).toBe("2026-07-14");
  });
  it("know every site by name", async () => {
    const { sites } = await siteList(maren);
    expect(sites.map((s) => s.name)).toEqual([...sites.map((s) => s.name)].sort());
    expect(sites.map((s) => s.name)).toContain("West");
    expect((await siteList(stranger)).sites).toEqual([]);
  });
});

describe("what a worker makes ahead", () => {
  const whyOf = async (name: string): Promise<string[]> =>
    (await rounds(maren, { ...ALL_SITES, find: name }, new Date())).rows[0]?.why ?? [];
  it("is a night where the day or the revision is another; a zone that is none stops nobody's", async () => {
    const [odd, mine] = [await site("Odd"), await site("Ahead")];
    const kept = () => db()("site_summary").where({ siteId: mine.id }).first("version", "date");
    await makeRoundsByTheMinute(new Date());
    const none = db().raw(`jsonb_set(facts, '{timeZone}', '"Nowhere/None"')`);
    await db()("site_summary").where({ siteId: odd.id }).update({ facts: none });
    await amendSite(maren, mine.id, "renamed", (file) => ({ ...file, site: { ...file.site, name: "Ahead too" } }));
    expect((await kept())?.version).toBe(1);
    await makeRoundsByTheMinute(new Date());
    expect((await kept())?.version).toBe(2);
    const [again] = await db()("site_summary")
      .where({ siteId: odd.id })
      .select(db().raw("facts ->> 'timeZone' as zone"));
    expect(again.zone).toBe(odd.file.site.timeZone);
    const before = (await kept())?.date as Date;
    await makeRoundsByTheMinute(new Date(Date.now() + 86_400_000));
    expect((await kept())?.date).not.toEqual(before);
    await makeRoundsByTheMinute(new Date());
  });
  it("is what Rounds says of a site as soon as one of the things that it is made from changes, told to whoever looks", async () => {
    await makeDueRounds(new Date());
    const told: string[] = [];
    const deaf = await listen(`rounds_${maren.organisationId}`, (word) => told.push(JSON.parse(word).type));
    const end = await makeRoundsAhead();
    const dry = await site("Dry Bank", (s) => {
      s.site.holdUntil = "indefinite";
      s.programs[0] = { ...s.programs[0], enabled: false } as SiteFile["programs"][number];
    });
    await expect.poll(() => whyOf("Dry Bank"), { timeout: 15_000 }).toContain("off, no end set");
    expect(await whyOf("Dry Bank")).toContain("no program is in use");
    expect(told).toContain("rows");
    await expect.poll(() => db()("round_due").where({ siteId: dry.id })).toEqual([]);
    await end();
    deaf();
  });
  it("is made once more where something changes while it is made", async () => {
    const changing = await site("Changing");
    const due = (await takeDue(1000)).filter((d) => d.siteId === changing.id);
    expect(due).toHaveLength(1);
    expect(await takeDue(1000)).toEqual([]);
    await amendSite(maren, changing.id, "renamed", (f) => ({ ...f, site: { ...f.site, name: "Changing now" } }));
    await doneDue(due);
    expect((await takeDue(1000)).map((d) => d.siteId)).toEqual([changing.id]);
    await db()("round_due").update({ takenAt: null });
    await makeDueRounds(new Date());
    expect(await whyOf("Changing now")).toEqual(["3 not learned"]);
  });
  it("is left to one of two workers", async () => {
    await site("Shared");
    const due = await db()("round_due").count({ n: "*" }).first();
    const made = await Promise.all([makeDueRounds(new Date()), makeDueRounds(new Date())]);
    expect(made[0] + made[1]).toBe(Number(due?.["n"]));
    expect(await whyOf("Shared")).toEqual(["3 not learned"]);
  });
  it("are known by where they are, as far as that is entered, found like the list", async () => {
    const placed = await site("Placed Well", (s) =>
      Object.assign(s.site, { latitudeDeg: 40.5, longitudeDeg: -118.25 }),
    );
    await site("Placed Nowhere");
    await makeAhead(maren, tuesday);
    const { places, without } = await roundsPlaces(maren, roundsQuery.parse({ find: "placed" }));
    expect(places).toEqual([
      {
        id: placed.id,
        name: "Placed Well",
        latitudeDeg: 40.5,
        longitudeDeg: -118.25,
        needs: false,
        why: "3 not learned",
      },
    ]);
    expect(without).toBe(1);
    expect(await roundsPlaces(stranger, ALL_SITES)).toEqual({ places: [], without: 0 });
  });
  it("are made of every organisation in turn, however many of one are due", async () => {
    const theirs = await site("Theirs", () => {}, stranger);
    for (let i = 0; i < 4; i++) await site(`One of many ${i}`);
    const due = await takeDue(2);
    expect(due).toHaveLength(2);
    expect(due.map((d) => d.siteId)).toContain(theirs.id);
    expect((await takeDue(1000)).length).toBeGreaterThanOrEqual(3);
  });
});
