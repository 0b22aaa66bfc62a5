import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { asCalledHere } from "./called-alike.ts";
import { difference } from "./difference.ts";
import type { SiteFile } from "./schema.ts";

/** The same site with ids of its own throughout. */
function elsewhere(change: (s: SiteFile) => void = () => {}): SiteFile {
  const site = smallSite();
  const ids = new Map(
    [
      site.site,
      ...site.sources,
      ...site.pocs,
      ...site.mainlines,
      ...site.controllers,
      ...site.stations,
      ...site.programs,
    ]
      .concat(site.pocs.flatMap((p) => p.devices) as never, site.mainlines.flatMap((m) => m.pipes) as never)
      .map((e) => [e.id, `x-${e.id}`]),
  );
  const text = JSON.stringify(site).replace(/"([^"]+)"(?!:)/g, (all, id: string) =>
    ids.has(id) ? `"${ids.get(id)}"` : all,
  );
  const other: SiteFile = JSON.parse(text);
  change(other);
  return other;
}
const words = (other: SiteFile): string[] =>
  difference(smallSite(), asCalledHere(smallSite(), other)).map((c) => c.words);

describe("two sites in words", () => {
  it("that are the same but for their ids differ in nothing", () => {
    expect(words(elsewhere())).toEqual([]);
  });
  it("tell figures that differ of what is called alike, stations by their number", () => {
    const found = words(
      elsewhere((s) => {
        Object.assign(s.stations[0] as object, { name: "Rose bed", designFlowLpm: 88 });
        s.policy.highPercent = 33;
      }),
    );
    expect(found.join("\n")).toMatch(/design flow 100 L\/min → 88 L\/min/);
    expect(found.join("\n")).toMatch(/33 %/);
    expect(found.some((w) => /added|removed/.test(w))).toBe(false);
  });
  it("tell what is on one side only, also where it has an id of the other side", () => {
    const found = words(
      elsewhere((s) => {
        s.stations = s.stations.slice(1);
        s.programs = [];
        s.controllers.push({ id: "s1", name: "Another", powered: "mains" });
      }),
    );
    expect(found.filter((w) => w.includes("removed")).length).toBeGreaterThanOrEqual(2);
    expect(found).toContain("controller Another added");
  });
});
