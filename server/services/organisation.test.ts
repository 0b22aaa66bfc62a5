import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { INVENTED, type Profile } from "../../core/profiles/profile.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { hashPassword, passwordMatches } from "../auth/password.ts";
import type { SignedIn } from "../auth/session.ts";
import { closeDatabase, db } from "../db/connection.ts";
import { userByEmail } from "../db/users.ts";
import { dropDevice, exportLibrary, importLibrary, keepDevice, library } from "./library.ts";
import { changeLogo, logoPicture, logoStands, takeLogoOut } from "./logo.ts";
import { changeSettings, settings } from "./organisation.ts";
import { addOrganisation } from "./people.ts";
import { createSite } from "./sites.ts";
import { describeProfile, forgetProfile, profiles } from "./profiles.ts";

let maren: SignedIn;
let stranger: SignedIn;
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
});
afterAll(closeDatabase);

const METER = { kind: "meter", continuousMaxLpm: 400, safeMaxLpm: 600 };

describe("an organisation", () => {
  it("is set up by the operator with its first manager; one e-mail address signs in to one", async () => {
    const asked = { organisation: "Verge and Sons", manager: "Odile", email: `odile-${Date.now()}@test.example` };
    const password = "four words and more";
    const { organisationId } = await addOrganisation({ ...asked, password });
    const row = await userByEmail(asked.email.toUpperCase());
    expect(row).toMatchObject({ organisationId, name: "Odile", role: "manager" });
    expect(await passwordMatches(row?.passwordHash, password)).toBe(true);
    expect((await refusal(addOrganisation({ ...asked, password }))).code).toBe("conflict");
    await expect(addOrganisation({ ...asked, password: "short" })).rejects.toThrow(/at least 12 characters/);
    await expect(addOrganisation({ ...asked, email: "nowhere", password })).rejects.toThrow(/whole address/);
    expect(await db()("organisation").where({ name: "Verge and Sons" })).toHaveLength(1);
  });
});

describe("the organisation's library", () => {
  it("keeps a device as its data sheet gives it; the same kind and name takes the new sheet", async () => {
    const [first] = await keepDevice(maren, { name: " Meter 40 ", note: "from the supplier", body: METER });
    const anew = { name: "meter 40", note: "", body: { ...METER, safeMaxLpm: 640 } };
    const [kept] = await keepDevice(maren, anew, first?.keptAt);
    expect(await library(maren)).toHaveLength(1);
    expect(kept).toMatchObject({ name: "meter 40", note: "", keptBy: "maren", body: { ...METER, safeMaxLpm: 640 } });
  });
  it("is not written over by who has not seen it as it is now", async () => {
    const sheet = { name: "Meter 40", note: "", body: METER };
    const [now] = await library(maren);
    for (const seen of [null, "2026-01-01T00:00:00.000Z"]) {
      const refused = await refusal(keepDevice(maren, sheet, seen));
      expect([refused.code, refused.message]).toEqual(["conflict", expect.stringContaining("by maren")]);
    }
    const both = await Promise.allSettled([
      keepDevice(maren, sheet, now?.keptAt),
      keepDevice(maren, sheet, now?.keptAt),
    ]);
    expect(both.map((b) => b.status).sort()).toEqual(["fulfilled", "rejected"]);
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
    const again = await importLibrary(maren, csv, false);
    expect(again.refused).toEqual([]);
    expect(again.items.map(({ name, body }) => ({ name, body }))).toEqual(
      before.map(({ name, body }) => ({ name, body })),
    );
    const mixed = await importLibrary(
      maren,
      "name,kind,continuousMaxLpm\nMeter 80,meter,900\nNo such,toaster,1\n",
      false,
    );
    expect(mixed.kept).toBe(1);
    expect(mixed.refused).toEqual([{ line: 3, problem: expect.stringContaining("kind") }]);
    expect(mixed.items.some((i) => i.name === "Meter 80")).toBe(true);
  });
  it("goes in over nothing that is there without a word: another sheet of that name is left and named, until one says so", async () => {
    const other = "name,kind,continuousMaxLpm\nmeter 80,meter,950\nMeter 90,meter,990\n";
    const sheet = async (): Promise<unknown> => (await library(maren)).find((i) => /^meter 80$/i.test(i.name))?.body;
    expect(await importLibrary(maren, other, false)).toMatchObject({ kept: 1, others: ["meter 80"] });
    expect(await sheet()).toMatchObject({ continuousMaxLpm: 900 });
    expect(await importLibrary(maren, other, true)).toMatchObject({ kept: 1, others: [] });
    expect(await sheet()).toMatchObject({ continuousMaxLpm: 950 });
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
    const anew = kind({ name: "HOUSE CLOCK", stations: 12, limitToPercent: 50 });
    expect((await refusal(describeProfile(maren, anew))).code).toBe("conflict");
    const [second] = await describeProfile(maren, anew, first?.keptAt);
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

describe("settings of an organisation", () => {
  it("name it and are what its new sites begin with; another's stay as they are", async () => {
    const usual = await settings(maren);
    expect(usual).toMatchObject({ name: "Tests", timeZone: null, units: "metric", school: "watchful" });
    const asked = { name: "Verge and Daughters", timeZone: "Europe/Oslo", units: "us" as const, school: "steady" };
    expect(await changeSettings(maren, asked)).toEqual(asked);
    expect(await settings(stranger)).toMatchObject({ name: "Others", school: "watchful" });
    const { file } = await createSite(maren, { name: "New", timeZone: "Europe/Oslo", units: "us" });
    expect(file.policy).toMatchObject({ preset: "steady", highPercent: 25 });
    const [entry] = await db()("audit").where({ organisationId: maren.organisationId, what: "settingsChanged" });
    expect(entry.about).toContain("name Tests → Verge and Daughters");
    await changeSettings(maren, usual);
  });
  it("have a logo for paper, a picture and nothing else, which is its own", async () => {
    const png = Buffer.concat([Buffer.from("\x89PNG\r\n\x1a\n", "latin1"), Buffer.from("a picture")]);
    expect(await logoStands(maren)).toBeNull();
    expect((await refusal(changeLogo(maren, Buffer.from("%PDF-1.7")))).message).toMatch(/is a PNG or a JPEG/);
    const first = await changeLogo(maren, png);
    expect((await changeLogo(maren, png))?.version).not.toBe(first?.version);
    expect(await logoPicture(maren)).toMatchObject({ type: "image/png", content: png });
    expect((await refusal(logoPicture(stranger))).code).toBe("notFound");
    expect(await takeLogoOut(maren)).toBeNull();
    expect((await refusal(logoPicture(maren))).code).toBe("notFound");
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
