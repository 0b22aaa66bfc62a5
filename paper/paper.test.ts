import { describe, expect, it } from "vitest";
import { PAPERS, type Paper } from "../contracts/paper.ts";
import type { WaterUsed } from "../contracts/water.ts";
import { setupSheet } from "../core/exports/setup-sheet.ts";
import { waterTable } from "../core/record/water-table.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { demoSites } from "../server/demo/sites.ts";
import { pdfText } from "../testing/pdf-text.ts";
import { smallSite } from "../testing/small-site.ts";
import { type PaperOf, renderPaper } from "./render.tsx";

const DATE = "2026-07-14";
const of = (kind: Paper, site: SiteFile, more: Partial<PaperOf> = {}): PaperOf => ({
  kind,
  size: "A4",
  language: "en",
  site,
  version: 7,
  date: DATE,
  organisation: "Tests and Sons",
  logo: null,
  profiles: [],
  used: null,
  alarms: null,
  ...more,
});
const text = async (kind: Paper, site: SiteFile, more: Partial<PaperOf> = {}): Promise<string> =>
  (await pdfText(await renderPaper(of(kind, site, more)))).join("\n");
const used: WaterUsed = {
  from: "2026-05-01",
  to: "2026-06-30",
  rows: [
    { at: "2026-05", key: "scheduled", estimated: false, litres: 120_000 },
    { at: "2026-05", key: "offSchedule", estimated: false, litres: 5000 },
    { at: "2026-06", key: "scheduled", estimated: false, litres: 90_000 },
    { at: "2026-06", key: "", estimated: true, litres: 3000 },
  ],
  sources: [],
  sensors: [
    { at: "2026-05", sensorId: "fs", litres: 125_000, seconds: 3600, gapS: 0 },
    { at: "2026-06", sensorId: "fs", litres: 90_000, seconds: 3600, gapS: 7200 },
  ],
};

describe("paper", () => {
  it("bears its site, organisation, revision, date and page on every page, in both sizes", async () => {
    const [quarrel] = demoSites().filter((s) => s.site.id === "quarrel-hill") as [SiteFile];
    for (const size of ["A4", "LETTER"] as const) {
      const pages = await pdfText(await renderPaper(of("setup", quarrel, { size })));
      expect(pages.length).toBeGreaterThan(1);
      for (const [i, page] of pages.entries()) {
        expect(page).toContain(`${quarrel.site.name}`);
        expect(page).toContain("Tests and Sons");
        expect(page).toMatch(new RegExp(`Revision 7, printed Jul 14, 2026.*Page ${i + 1} of ${pages.length}`));
      }
    }
  });
  it("says what the crew works by in the crew's language, and the office's sheets in English", async () => {
    const site = smallSite((s) => {
      s.pocs[0]?.devices.push({ id: "bf", kind: "backflow", name: "Vault" });
      Object.assign(s.stations[0] as object, { lockedOut: true });
    });
    const walk = await text("walk", site, { language: "es" });
    expect(walk).toContain("Lista del recorrido");
    expect(walk).toContain("1 S1 (bloqueada)");
    expect(walk).toMatch(/Revisión 7, impresa el 14 jul 2026.*Página 1 de 1/);
    const card = await text("emergency", site, { language: "es" });
    expect(card).toContain("cualquiera de las válvulas del antirretorno");
    expect(card).toContain("Source (red municipal)");
    const english = await text("emergency", site);
    expect(english).toContain("either valve of the backflow preventer");
    expect(await text("devices", site, { language: "es" })).toContain("Device list");
  });
  it("has every line of the setup sheet as the screen has it, with what holds it back", async () => {
    const site = smallSite((s) => {
      const [p] = s.programs as [SiteFile["programs"][number]];
      Object.assign(p, {
        starts: ["22:00", { at: "02:00", off: true }],
        windows: [{ from: "21:00", to: "05:00" }],
        closedHours: [{ from: "03:00", to: "03:30" }],
      });
      Object.assign(p, { seasonalPercent: 80, holdUntil: "2026-08-01", from: "2026-05-01", until: "2026-09-30" });
      s.site.holdUntil = "2026-07-20";
    });
    const said = await text("setup", site);
    const sheet = setupSheet(site, site.controllers[0] as SiteFile["controllers"][number], DATE);
    for (const row of sheet.programs.flatMap((p) => p.rows)) {
      const runs = `${Math.floor(row.runsS / 60)}:${String(row.runsS % 60).padStart(2, "0")}`;
      expect(said).toContain(`${row.order} ${row.number} ${row.name} ${row.minutes} ${runs}`);
    }
    expect(said).toContain("22:00, 02:00 (off)");
    expect(said).toMatch(/21:00–05:00, closed 03:00–03:30/);
    expect(said).toContain("80 %");
    expect(said).toContain("held, waters again on 1 Aug 2026, from 1 May 2026, until 30 Sep 2026");
    expect(said).toContain("The whole site is held, waters again on 20 Jul 2026");
  });
  it("of water has the figures of the water screen, and says them in words", async () => {
    const site = smallSite();
    const said = await text("water", site, { used });
    const { periods } = waterTable(site, used);
    expect(periods.map((p) => [p.at, p.readM3])).toEqual([
      ["2026-05", 125],
      ["2026-06", 90],
    ]);
    expect(said).toContain("The site used 215 m³ of water");
    expect(said).toContain("5 m³ of it was lost to leaks and breaks, 2.3 % of all.");
    expect(said).toMatch(/For 2 hours nothing was read; about 3 m³ was planned in them/);
    expect(said).toMatch(/May 2026 125 120 5/);
    expect(said).toMatch(/Jun 2026 90 90 0/);
    expect(said).toMatch(/All 215 210 5/);
  });
  it("of alarms leaves out what was rehearsed, and says what was done about the others", async () => {
    const one = {
      at: "2026-07-14T21:40:00Z",
      message: "High flow at station 2",
      rehearsed: false,
      state: "cleared",
      cause: "broken riser",
      clearedBy: "Bo Larch",
      clearedAt: "2026-07-15T08:00:00Z",
      lostL: 4100,
    };
    const list = [
      one,
      { ...one, message: "only practised", rehearsed: true },
      { ...one, state: "open", clearedAt: null, message: "Burst" },
    ];
    const said = await text("alarms", smallSite(), { alarms: { list, from: "2026-07-01", to: "2026-07-31" } });
    expect(said).toContain("2 found, 1 still open.");
    expect(said).toMatch(/14 Jul 2026 .*High flow at station 2.*broken riser/);
    expect(said).not.toContain("only practised");
  });
  it("of emergencies says where each point of connection is shut off, and leaves lines for numbers that it does not know", async () => {
    const said = await text(
      "emergency",
      smallSite((s) =>
        Object.assign(s.pocs[0] as object, { description: "Behind the pump house, under the green lid" }),
      ),
    );
    expect(said).toContain("Behind the pump house, under the green lid");
    expect(said).toContain("Site manager");
    expect(said).not.toMatch(/\+?\d{3}[ -]\d{3}/);
  });
  it("of devices and of the whole site names everything there is, and every station with its flow and limits", async () => {
    for (const site of demoSites().filter((s) => ["larkspur-clinic", "lakeside-park"].includes(s.site.id)))
      for (const kind of ["devices", "asBuilt", "walk"] as const) {
        const said = (await text(kind, site)).replace(/\s+/g, " ");
        for (const s of site.stations) expect(said, `${site.site.name} ${kind}`).toContain(`${s.number} ${s.name} `);
        if (kind === "asBuilt") for (const m of site.mainlines) expect(said).toContain(m.name);
      }
  }, 120_000);
  it("is made of a site that has nothing yet", async () => {
    const bare = smallSite((s) =>
      Object.assign(s, { controllers: [], stations: [], programs: [], mainlines: [], pocs: [], sources: [] }),
    );
    for (const kind of PAPERS) {
      const more = { used: { ...used, rows: [], sensors: [] }, alarms: { list: [], from: DATE, to: DATE } };
      expect((await renderPaper(of(kind, bare, more))).length, kind).toBeGreaterThan(500);
    }
  });
});
