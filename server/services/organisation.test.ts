import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { INVENTED, type Profile } from "../../core/profiles/profile.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { SiteFile } from "../../core/site-file/schema.ts";
import { hashPassword, passwordMatches } from "../auth/password.ts";
import type { SignedIn } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { dropDevice, exportLibrary, importLibrary, keepDevice, library } from "./library.ts";
import { takeBenchNight } from "./log-book.ts";
import { describeProfile, forgetProfile, profiles } from "./profiles.ts";
import { rounds, siteList } from "./rounds.ts";
import { amendSite, importSite, type LoadedSite } from "./sites.ts";

let maren: SignedIn;
let stranger: SignedIn;
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
afterAll(closeDatabase);

const METER = { kind: "meter", continuousMaxLpm: 400, safeMaxLpm: 600 };

describe("the organisation's library", () => {
  it("keeps a device as its data sheet gives it; the same kind and name takes the new sheet", async () => {
    await keepDevice(maren, { name: " Meter 40 ", note: "from the supplier", body: METER });
    const [kept] = await keepDevice(maren, { name: "meter 40", note: "", body: { ...METER, safeMaxLpm: 640 } });
    expect(await library(maren)).toHaveLength(1);
    expect(kept).toMatchObject({ name: "meter 40", note: "", keptBy: "maren", body: { ...METER, safeMaxLpm: 640 } });
  });
  it("leaves out what belongs to one place, and refuses what no sheet gives", async () => {
    const items = await keepDevice(maren, {
      name: "Valve 50",
      note: "",
      body: { kind: "masterValve", normally: "closed", serial: "A-17", address: "0x12" },
    });
    expect(items.find((i) => i.name === "Valve 50")?.body).toEqual({ kind: "masterValve", normally: "closed" });
    const wrong = await refusal(keepDevice(maren, { name: "Odd", note: "", body: { kind: "meter", safeMaxLpm: -3 } }));
    expect(wrong.code).toBe("badRequest");
    expect(wrong.message).toContain("safeMaxLpm");
    expect((await library(maren)).some((i) => i.name === "Odd")).toBe(false);
  });
  it("goes out as CSV and in again the same; wrong rows are told with their lines and the right ones kept", async () => {
    const before = await library(maren);
    const csv = await exportLibrary(maren);
    const again = await importLibrary(maren, csv);
    expect(again.refused).toEqual([]);
    expect(again.items.map(({ name, body }) => ({ name, body }))).toEqual(
      before.map(({ name, body }) => ({ name, body })),
    );
    const mixed = await importLibrary(maren, "name,kind,continuousMaxLpm\nMeter 80,meter,900\nNo such,toaster,1\n");
    expect(mixed.kept).toBe(1);
    expect(mixed.refused).toEqual([{ line: 3, problem: expect.stringContaining("kind") }]);
    expect(mixed.items.some((i) => i.name === "Meter 80")).toBe(true);
  });
  it("is nobody else's: not listed, not taken out, not by an id that is none", async () => {
    const [item] = await library(maren);
    expect(await library(stranger)).toEqual([]);
    expect((await refusal(dropDevice(stranger, item?.id as string))).code).toBe("notFound");
    expect((await refusal(dropDevice(maren, "first"))).code).toBe("notFound");
    const left = await dropDevice(maren, item?.id as string);
    expect(left.map((i) => i.id)).not.toContain(item?.id);
  });
});

describe("kinds of controller", () => {
  const { id: _, ...plain } = INVENTED[0] as (typeof INVENTED)[number];
  const kind = (changes: Partial<Profile>): Profile => ({ ...plain, ...changes });
  it("keep their id when they are described anew, whatever the case of the name", async () => {
    const [first] = await describeProfile(maren, kind({ name: "House clock" }));
    const [second] = await describeProfile(maren, kind({ name: "HOUSE CLOCK", stations: 12, limitToPercent: 50 }));
    expect(second).toMatchObject({ id: first?.id, name: "HOUSE CLOCK", stations: 12, limitToPercent: 50 });
    expect(await profiles(maren)).toHaveLength(1);
  });
  it("are the organisation's own", async () => {
    const [mine] = await profiles(maren);
    expect(await profiles(stranger)).toEqual([]);
    expect((await refusal(forgetProfile(stranger, mine?.id as string))).code).toBe("notFound");
    expect(await forgetProfile(maren, mine?.id as string)).toEqual([]);
    expect((await refusal(forgetProfile(maren, mine?.id as string))).code).toBe("notFound");
  });
});

describe("passwords", () => {
  it("match only themselves, are never kept readable, and no password matches nobody", async () => {
    const kept = await hashPassword("salt water and reeds");
    expect(kept).not.toContain("reeds");
    expect(await hashPassword("salt water and reeds")).not.toBe(kept);
    expect(await passwordMatches(kept, "salt water and reeds")).toBe(true);
    expect(await passwordMatches(kept, "salt water and reed")).toBe(false);
    expect(await passwordMatches(undefined, "no user has this password")).toBe(false);
    expect(await passwordMatches("not a hash", "anything")).toBe(false);
  });
});

describe("rounds", () => {
  let count = 0;
  const site = (name: string, change: (s: SiteFile) => void = () => {}): Promise<LoadedSite> =>
    importSite(
      maren,
      JSON.stringify(
        smallSite((s) => {
          s.site.id = `round${++count}`;
          s.site.name = name;
          change(s);
        }),
      ),
    );
  const tuesday = new Date("2026-07-14T10:00:00Z");
  const names = async (at: Date): Promise<string[]> => (await rounds(maren, at)).map((r) => r.name);

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
    expect(await names(tuesday)).toEqual(["Alarmed", "Off", "Calm"]);
    const [first, second, third] = await rounds(maren, tuesday);
    expect(first?.why).toEqual(expect.arrayContaining(["1 open alarm", "1 locked out", "3 not learned"]));
    expect(second?.why).toContain("off, no end set");
    expect(third?.why).toEqual(["3 not learned"]);
    expect(first?.summary.binding?.elementId).toBe("main");
    expect(await rounds(stranger, tuesday)).toEqual([]);
  });
  it("are worked out anew after a save, and kept until then", async () => {
    const mine = await site("Kept");
    const of = async (): Promise<number | undefined> =>
      (await rounds(maren, tuesday)).find((r) => r.name === "Kept")?.summary.makespanS;
    const before = await of();
    await db()("site_summary")
      .where({ siteId: mine.id })
      .update({ summary: db().raw("jsonb_set(summary, '{makespanS}', '7')") });
    expect(await of()).toBe(7);
    await amendSite(maren, mine.id, "longer", (file) => ({
      ...file,
      programs: file.programs.map((p) => ({ ...p, runs: p.runs.map((r) => ({ ...r, minutes: 20 })) })),
    }));
    expect(await of()).toBe(2 * (before as number));
  });
  it("are of the night that it is on the site, also where it is still yesterday", async () => {
    await site("West", (s) => {
      s.site.timeZone = "America/Los_Angeles";
    });
    const of = async (at: string): Promise<string | undefined> =>
      (await rounds(maren, new Date(at))).find((r) => r.name === "West")?.summary.date;
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
