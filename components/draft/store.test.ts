import { describe, expect, it } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { smallSite } from "@/testing/small-site";
import { createDraft, type Draft } from "./store";

const begin = (): Draft =>
  createDraft({ siteId: "s", role: "manager", userName: "M", version: 3, date: "2026-07-14", file: smallSite() });
const rename =
  (name: string, i = 0) =>
  (f: SiteFile): SiteFile => ({ ...f, stations: f.stations.map((s, n) => (n === i ? { ...s, name } : s)) });
const name = (d: Draft, i = 0): string | undefined => d.store.getState().draft.stations[i]?.name;
const steps = (d: Draft): number => d.store.temporal.getState().pastStates.length;

describe("the draft", () => {
  it("undoes and redoes edit by edit", () => {
    const d = begin();
    d.edit(rename("A"));
    d.edit(rename("B"));
    expect(name(d)).toBe("B");
    d.undo();
    expect(name(d)).toBe("A");
    d.undo();
    expect(d.store.getState().draft).toBe(d.store.getState().base);
    d.redo();
    expect(name(d)).toBe("A");
  });

  it("takes one gesture as one step, however many edits it makes", () => {
    const d = begin();
    for (const n of ["A", "AB", "ABC"]) d.edit(rename(n), "drag-1");
    d.edit(rename("X"), "drag-2");
    expect(steps(d)).toBe(2);
    d.undo();
    expect(name(d)).toBe("ABC");
    d.undo();
    expect(name(d)).toBe("S1");
  });

  it("an edit that changes nothing is no step", () => {
    const d = begin();
    d.edit((f) => f);
    expect(steps(d)).toBe(0);
  });

  it("a discard can be undone", () => {
    const d = begin();
    d.edit(rename("A"));
    d.discard();
    expect(name(d)).toBe("S1");
    d.undo();
    expect(name(d)).toBe("A");
  });

  it("what was saved becomes the ground, and undo begins anew there", () => {
    const d = begin();
    d.edit(rename("A"));
    d.adopt(d.store.getState().draft, 4);
    expect(d.store.getState()).toMatchObject({ version: 4 });
    expect(steps(d)).toBe(0);
  });
});

describe("someone else saves", () => {
  const theirs = (change: (f: SiteFile) => SiteFile) => ({ file: change(smallSite()), version: 4, by: "Tolly" });

  it("is taken in at once where nothing was changed here, and said", () => {
    const d = begin();
    d.meet(theirs(rename("T")));
    expect(name(d)).toBe("T");
    expect(d.store.getState().news).toContain("Tolly");
  });

  it("is put under what was changed here where they touch different fields", () => {
    const d = begin();
    d.edit(rename("Mine", 0));
    d.meet(theirs(rename("Theirs", 1)));
    expect([name(d, 0), name(d, 1)]).toEqual(["Mine", "Theirs"]);
    expect(d.store.getState().meeting).toBeNull();
    expect(d.store.getState().base.stations[1]?.name).toBe("Theirs");
  });

  it("asks only about what both changed, and never reverts what they alone changed", () => {
    const d = begin();
    d.edit(rename("Mine", 0));
    d.meet(theirs((f) => rename("Theirs", 1)(rename("Theirs too", 0)(f))));
    const { meeting } = d.store.getState();
    expect(meeting?.clashes.map((c) => c.path)).toEqual(["stations[s1].name"]);
    expect(name(d, 0)).toBe("Mine");
    d.choose("stations[s1].name", "mine");
    d.settle("merge");
    expect([name(d, 0), name(d, 1)]).toEqual(["Mine", "Theirs"]);
    expect(d.store.getState()).toMatchObject({ version: 4, meeting: null });
  });

  it("theirs may be taken whole", () => {
    const d = begin();
    d.edit(rename("Mine", 0));
    d.meet(theirs(rename("Theirs", 0)));
    d.settle("theirs");
    expect(name(d)).toBe("Theirs");
    expect(d.store.getState().draft).toBe(d.store.getState().base);
  });

  it("an older revision than the one here is passed over", () => {
    const d = begin();
    d.meet({ ...theirs(rename("Old")), version: 3 });
    expect(name(d)).toBe("S1");
  });
});
