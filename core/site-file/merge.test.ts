import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { mergeSites } from "./merge.ts";
import type { SiteFile, Station } from "./schema.ts";

const base = smallSite();
const changed = (change: (s: SiteFile) => void): SiteFile => {
  const copy = structuredClone(base);
  change(copy);
  return copy;
};
const station = (s: SiteFile, i: number): Station => s.stations[i] as Station;

describe("two changes of one configuration", () => {
  it("are put together where they touch different fields, even of one station", () => {
    const mine = changed((s) => {
      station(s, 0).name = "Mine";
    });
    const theirs = changed((s) => {
      station(s, 0).soakMin = 12;
      station(s, 1).name = "Theirs";
    });
    const { file, clashes } = mergeSites(base, mine, theirs);
    expect(clashes).toEqual([]);
    expect(station(file, 0)).toMatchObject({ name: "Mine", soakMin: 12 });
    expect(station(file, 1).name).toBe("Theirs");
  });

  it("clash only where both changed one field, and say what each would make of it", () => {
    const mine = changed((s) => {
      station(s, 0).designFlowLpm = 111;
    });
    const theirs = changed((s) => {
      station(s, 0).designFlowLpm = 222;
      station(s, 2).name = "Only theirs";
    });
    const asked = mergeSites(base, mine, theirs);
    expect(asked.clashes.map((c) => c.path)).toEqual(["stations[s1].designFlowLpm"]);
    expect(asked.clashes[0]?.words.mine).toContain("111");
    expect(asked.clashes[0]?.words.theirs).toContain("222");
    const kept = mergeSites(base, mine, theirs, () => "mine").file;
    expect(station(kept, 0).designFlowLpm).toBe(111);
    expect(station(kept, 2).name).toBe("Only theirs");
  });

  it("keep what either added, and drop what either removed and the other left alone", () => {
    const mine = changed((s) => {
      s.stations.push({ ...station(s, 0), id: "new", number: 77, name: "New" });
    });
    const theirs = changed((s) => {
      s.programs[0]?.runs.splice(0, 1);
    });
    const { file, clashes } = mergeSites(base, mine, theirs);
    expect(clashes).toEqual([]);
    expect(file.stations.some((s) => s.id === "new")).toBe(true);
    expect(file.programs[0]?.runs).toHaveLength((base.programs[0]?.runs.length ?? 0) - 1);
  });

  it("clash where one removed what the other changed", () => {
    const mine = changed((s) => {
      station(s, 0).name = "Changed";
    });
    const theirs = changed((s) => {
      s.stations.splice(0, 1);
    });
    expect(mergeSites(base, mine, theirs).clashes.map((c) => c.path)).toEqual(["stations[s1]"]);
    expect(mergeSites(base, mine, theirs, () => "mine").file.stations[0]?.name).toBe("Changed");
  });

  it("never revert what the other alone changed, whatever is chosen", () => {
    const edit = fc.record({ at: fc.nat(2), key: fc.constantFrom("name", "soakMin", "areaM2" as const), n: fc.nat(9) });
    const apply = (edits: { at: number; key: string; n: number }[]): SiteFile =>
      changed((s) => {
        for (const e of edits) Object.assign(station(s, e.at), { [e.key]: e.key === "name" ? `n${e.n}` : e.n });
      });
    fc.assert(
      fc.property(fc.array(edit), fc.array(edit), fc.constantFrom("mine" as const, "theirs" as const), (a, b, side) => {
        const [mine, theirs] = [apply(a), apply(b)];
        const { file } = mergeSites(base, mine, theirs, () => side);
        for (const e of b)
          if (!a.some((x) => x.at === e.at && x.key === e.key))
            expect(station(file, e.at)[e.key as "name"]).toEqual(station(theirs, e.at)[e.key as "name"]);
        for (const e of a)
          if (!b.some((x) => x.at === e.at && x.key === e.key))
            expect(station(file, e.at)[e.key as "name"]).toEqual(station(mine, e.at)[e.key as "name"]);
      }),
    );
  });
});
