import { afterAll, beforeAll, expect, it } from "vitest";
import { PAPERS, paperQuery } from "../../contracts/paper.ts";
import { pdfText } from "../../testing/pdf-text.ts";
import { refusal, twoPeople } from "../../testing/server-people.ts";
import { smallSite } from "../../testing/small-site.ts";
import type { InSession } from "../auth/session.ts";
import { waterTable } from "../../core/record/water-table.ts";
import { showQuantity } from "../../core/units/units.ts";
import { closeDatabase } from "../db/connection.ts";
import { insertReadings, setGateway } from "../db/field.ts";
import { closeListening } from "../db/listen.ts";
import { endHeavy } from "../heavy/pool.ts";
import { changeLogo } from "./logo.ts";
import { paper } from "./paper.ts";
import { importSite, loadSite } from "./sites.ts";
import { noteRead, officeWater, rollUpWater, waterUsed } from "./water.ts";

let maren: InSession;
let stranger: InSession;
let siteId: string;
const NOW = new Date("2026-07-15T12:00:00Z");
const PICTURE = Buffer.from(
  "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==",
  "base64",
);
beforeAll(async () => {
  [maren, stranger] = await twoPeople();
  const file = smallSite((s) => Object.assign(s.site, { id: `paper-${Date.now()}`, name: "Mühle & Söhne, Hof 2" }));
  siteId = (await importSite(maren, JSON.stringify(file))).id;
});
afterAll(async () => {
  await endHeavy();
  await closeListening();
  await closeDatabase();
});
const query = (more: object = {}) => paperQuery.parse(more);

it("every sheet is made on a thread, with the organisation's logo, under a name that any system takes", async () => {
  await changeLogo(maren, PICTURE);
  for (const kind of PAPERS) {
    const { content, name } = await paper(maren, siteId, kind, query({ size: "LETTER" }), NOW);
    expect(Buffer.from(content.slice(0, 5)).toString()).toBe("%PDF-");
    expect(name).toMatch(/^Mu-hle-So-hne-Hof-2-[a-z-]+-2026-07-15\.pdf$/);
    const [page] = await pdfText(content);
    expect(page).toContain("Mühle & Söhne, Hof 2");
    expect(page).toContain("Revision 1, printed 15 Jul 2026");
  }
}, 180_000);

it("readings, days, the month and the client's report are the same water", async () => {
  const of = { organisationId: maren.organisationId, siteId };
  await setGateway({ ...of, account: `paper-${crypto.randomUUID()}`, userId: maren.userId });
  // Two days from midnight where the site is, at 12.5 L/min, a reading a minute.
  const midnight = Date.parse("2026-07-11T22:00:00Z") / 1000;
  const instants = Array.from({ length: 48 * 60 + 1 }, (_, i) => midnight + 60 * i);
  const iso = (t: number): string => new Date(t * 1000).toISOString();
  await insertReadings(
    { ...of, stream: "p" },
    instants.map((t, i) => ({ at: iso(t), seq: i + 1, open: [], valves: [], pumps: [] })),
    instants.map((t, i) => ({ at: iso(t), seq: i + 1, sensorId: "fs", quantity: "flow" as const, value: 12.5 })),
  );
  await noteRead(of, "Europe/Vienna", instants, NOW);
  await rollUpWater(NOW);
  // The first reading after a rest stands for a second.
  const read = 48 * 60 * 12.5 + 12.5 / 60;
  const time = { from: "2026-07-01", to: "2026-07-31" };
  const ask = (step: "day" | "month") => waterUsed(maren, siteId, { ...time, by: "cause", step }, NOW);
  const sum = (rows: { litres: number; estimated: boolean }[]): number =>
    rows.reduce((litres, r) => litres + (r.estimated ? 0 : r.litres), 0);
  expect(sum((await ask("day")).rows)).toBeCloseTo(read, 6);
  const month = await ask("month");
  expect(sum(month.rows)).toBeCloseTo(read, 6);
  const office = await officeWater(maren, { from: "2026-07", to: "2026-07" }, NOW);
  expect(office.months.map((m) => m.month)).toEqual(["2026-07"]);
  expect(office.months[0]?.litres).toBeCloseTo(read, 6);
  expect(office.sites.find((s) => s.siteId === siteId)).toMatchObject({
    litres: office.months[0]?.litres,
    beforeL: null,
  });
  const before = await officeWater(maren, { from: "2027-07", to: "2027-07" }, NOW);
  expect(before.sites.find((s) => s.siteId === siteId)?.beforeL).toBeCloseTo(read, 6);
  expect((await officeWater(stranger, {}, NOW)).sites.some((s) => s.siteId === siteId)).toBe(false);
  const { file } = await loadSite(maren, siteId);
  const [period] = waterTable(file, month).periods;
  expect(1000 * (period?.readM3 ?? 0)).toBeCloseTo(read, 6);
  const said = (await pdfText((await paper(maren, siteId, "water", query(time), NOW)).content)).join("\n");
  expect(said).toContain("1 Jul 2026 to 31 Jul 2026");
  expect(said).toContain(`The site used ${showQuantity(read / 1000, "bulk", "metric", 0)} of water`);
  expect(said).toContain(`Jul 2026 ${Math.round(read / 1000)} `);
}, 60_000);

it("nobody else's site is on anybody's paper", async () => {
  expect((await refusal(paper(stranger, siteId, "walk", query(), NOW))).code).toBe("notFound");
});
