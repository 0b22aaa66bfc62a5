import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import { difference } from "./difference.ts";
import { filesNamed } from "./files-named.ts";
import { parseSite } from "./parse-site.ts";
import { piecesOf, withoutPinsOf } from "./pieces.ts";

const plans = [
  {
    id: "plan",
    name: "North",
    pins: [
      { id: "s1", x: 0.1, y: 0.2 },
      { id: "main", x: 1, y: 0 },
    ],
  },
];

describe("pieces of a site and where they are on a plan", () => {
  it("are all that can be pointed at; what has no name is called by its kind and owner", () => {
    const pieces = piecesOf(smallSite());
    expect(pieces.find((p) => p.id === "s1")).toEqual({ id: "s1", kind: "station", name: "1 S1" });
    expect(pieces.find((p) => p.id === "mv")?.name).toBe("master valve of Poc");
    expect(new Set(pieces.map((p) => p.kind)).size).toBe(6);
  });
  it("pins are told one by one, by what they point at", () => {
    const before = smallSite((s) => {
      s.plans = structuredClone(plans);
    });
    const words = (change: (s: typeof before) => void): string[] => {
      const after = structuredClone(before);
      change(after);
      return difference(before, after).map((c) => c.words);
    };
    expect(difference(smallSite(), before).map((c) => c.words)).toEqual(["plan North added"]);
    expect(
      words((s) => {
        const plan = s.plans?.[0];
        if (plan)
          plan.pins = [
            { id: "main", x: 0.5, y: 0 },
            { id: "s2", x: 0, y: 0 },
          ];
      }),
    ).toEqual(["plan North: pin of Main moved", "plan North: pin of 2 S2 set", "plan North: pin of 1 S1 taken off"]);
  });
  it("a piece that goes takes its pins with it; a pin of nothing is no reason to refuse a file", () => {
    const site = smallSite((s) => {
      s.plans = structuredClone(plans);
    });
    expect(withoutPinsOf(site, new Set(["s1"])).plans?.[0]?.pins.map((p) => p.id)).toEqual(["main"]);
    expect(withoutPinsOf(smallSite(), new Set(["s1"]))).not.toHaveProperty("plans");
    const stray = structuredClone(site);
    stray.plans?.[0]?.pins.push({ id: "nobody", x: 0, y: 0 });
    expect(parseSite(stray).ok).toBe(true);
    stray.plans?.push({ id: "s1", name: "Twice", pins: [] });
    expect(parseSite(stray).ok).toBe(false);
  });
  it("files are named by the site, its pieces and its plans", () => {
    const site = smallSite((s) => {
      s.site.files = [{ id: "a", name: "a.pdf" }];
      s.files = [{ id: "b", name: "b.pdf" }];
      Object.assign(s.pocs[0] ?? {}, { files: [{ id: "c", name: "c.jpg" }] });
      s.plans = structuredClone(plans);
    });
    expect(filesNamed(site).sort()).toEqual(["a", "b", "c", "plan"]);
  });
});
