import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { demoSites } from "../../server/demo/sites.ts";
import { randomSiteWithInputs } from "../../testing/random-site.ts";
import { type SetupSheet, setupSheet } from "../exports/setup-sheet.ts";
import { holdsMessage } from "../field/orders.ts";
import { INVENTED } from "../profiles/profile.ts";
import { roundSite } from "../profiles/round-site.ts";
import { parseSiteOrThrow } from "../site-file/parse-site.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { startsWords } from "../site-file/starts.ts";
import { checksum } from "./checksum.ts";
import { settingsOf } from "./settings-of.ts";
import { takeSettings } from "./take.ts";

/** Every line of a sheet, as somebody keys it in. */
const lines = ({ programs, held, stations }: SetupSheet) => ({
  held,
  stations: stations.map((s) => [s.number, s.name]),
  programs: programs.map(({ program, ...p }) => ({
    ...p,
    name: program.name,
    starts: startsWords(program),
    atOnce: program.maxStationsAtOnce,
    inUse: program.enabled,
    delay: program.delayS,
  })),
});

/** What a controller says that it holds, once it was sent what a site says of it; it held nothing before. */
function readBack(site: SiteFile, controllerId: string): SiteFile {
  const sent = JSON.parse(JSON.stringify(settingsOf(site, controllerId)));
  const profile = INVENTED.find((p) => p.id === site.controllers.find((c) => c.id === controllerId)?.profileId) ?? null;
  const before = settingsOf({ ...site, programs: [] }, controllerId);
  const taken = takeSettings(before, sent, checksum(sent), profile);
  if (taken.outcome === "refused") throw new Error(taken.reason);
  const said = holdsMessage.parse({
    controllerId,
    at: "2026-07-14T10:00:00Z",
    number: 1,
    checksum: checksum(taken.holds),
    settings: JSON.parse(JSON.stringify(taken.holds)),
  });
  return parseSiteOrThrow(said.settings);
}

function agree(site: SiteFile, date: string): void {
  const rounded = roundSite(site, INVENTED).site;
  for (const controller of rounded.controllers) {
    const held = readBack(rounded, controller.id);
    const its = held.controllers.find((c) => c.id === controller.id);
    if (!its) throw new Error(`${controller.id} is not in what it holds.`);
    expect(lines(setupSheet(held, its, date)), `${site.site.name}, ${controller.name}`).toEqual(
      lines(setupSheet(rounded, controller, date)),
    );
  }
}

describe("the setup sheet and what the controller reads back", () => {
  it.each(demoSites().map((s) => [s.site.name, s] as const))("are the same in every line: %s", (_, site) => {
    for (const date of ["2026-01-15", "2026-07-14", "2026-11-29"]) agree(site, date);
  });
  it("are the same with holds, dates, percents, closed hours and starts that are switched off", () => {
    for (const site of demoSites()) {
      const [first, ...others] = site.programs;
      if (!first) continue;
      agree(
        {
          ...site,
          site: { ...site.site, holdUntil: "2026-08-01", seasonalPercent: 80 },
          programs: [
            {
              ...first,
              starts: [...first.starts, { at: "03:10", off: true }],
              from: "2026-05-01",
              until: "2026-09-30",
              seasonalPercent: 90,
              monthlyPercent: [10, 20, 40, 60, 80, 100, 120, 110, 90, 60, 30, 10],
              closedHours: [{ from: "12:00", to: "15:00" }],
            },
            ...others,
          ],
        },
        "2026-07-14",
      );
    }
  });
  it("are the same for sites that nobody thought of", () => {
    fc.assert(
      fc.property(randomSiteWithInputs({ stations: { min: 1, max: 8 }, windows: true }), (site) =>
        agree(site, "2026-07-14"),
      ),
      { numRuns: 60 },
    );
  });
});
