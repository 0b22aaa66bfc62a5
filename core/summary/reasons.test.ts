import { describe, expect, it } from "vitest";
import { smallSite } from "../../testing/small-site.ts";
import type { SiteFile } from "../site-file/schema.ts";
import type { DueDay } from "../visits/duties.ts";
import { nightSummary } from "./night-summary.ts";
import { reasonsNow, reasonsOf, type Told } from "./reasons.ts";
import { siteFacts } from "./site-facts.ts";

const DATE = "2026-07-14";
function told(change: (s: SiteFile) => void = () => {}, more: Partial<Told> = {}): Told {
  const site = smallSite(change);
  return {
    summary: nightSummary(site, DATE),
    facts: siteFacts(site),
    there: [],
    due: [],
    todos: { open: 0, overdue: [] },
    nights: [],
    nightsRead: false,
    ...more,
  };
}
const words = (of: Told): string[] => reasonsOf(of).map((r) => r.words);
const codes = (of: Told): string[] => reasonsOf(of).map((r) => r.code);

describe("why a site needs somebody", () => {
  it("begins with what weighs most", () => {
    const site = told(
      (s) => {
        s.site.holdUntil = "2026-08-01";
        s.controllers.push({ id: "two", name: "Two", powered: "mains", off: true });
      },
      { there: [{ code: "clock", s: 600 }], nights: [{ certain: true }] },
    );
    expect(codes(site)).toEqual(["nights", "controllers", "off", "hold", "notLearned"]);
    expect(words(site)).toContain("off: Two");
    expect(words(site)).toContain("off until 2026-08-01");
  });
  it("tells errors of the settings in words, the first two, and counts the others", () => {
    const base = told();
    const of = (errors: string[]) => words({ ...base, facts: { ...base.facts, errors } })[0];
    expect(of(["One."])).toBe("One.");
    expect(of(["One.", "Two.", "Three.", "Four."])).toBe("One. Two. 2 more errors in the settings.");
  });
  it("tells a budget from where it runs out, of the month that it is", () => {
    const base = told();
    const of = (share: number) => {
      const ofBudget = Array.from({ length: 12 }, (_, m) => (m === 6 ? share : 9));
      return reasonsOf({ ...base, facts: { ...base.facts, ofBudget } }).find((r) => r.code === "overBudget");
    };
    expect(of(0.94)).toBeUndefined();
    expect(of(0.96)).toMatchObject({ words: "this month's programs take 96 % of its water budget", weight: 8 });
    expect(of(1.2)?.weight).toBe(28);
  });
  it("tells a silent gateway apart from what controllers hold, and alike words once", () => {
    const silent = { code: "silent", minutes: 90 } as const;
    const of = reasonsOf(told(undefined, { there: [silent, silent, { code: "differs", settings: 3 }] }));
    expect(of.map((r) => r.code)).toEqual(["silent", "controllers", "notLearned"]);
  });
  it("tells what is overdue; where nights are read they say themselves what is to be learned", () => {
    const of = (duty: DueDay["duty"], name: string, on: string): DueDay => ({
      duty,
      subjectId: name,
      name,
      last: null,
      on,
    });
    const due = [
      of("learning", "", "2026-01-01"),
      of("sensorProof", "North gate", "2026-07-13"),
      of("sensorProof", "South gate", DATE),
      of("backflow", "Vault", "2026-03-01"),
    ];
    const late = told(undefined, { due });
    expect(words(late)).toEqual([
      "backflow test overdue since 2026-03-01: Vault",
      "sensor proof overdue since 2026-07-13: North gate",
      "learning overdue since 2026-01-01",
      "3 not learned",
    ]);
    expect(words({ ...late, nightsRead: true })).not.toContain("learning overdue since 2026-01-01");
  });
  it("tells what is to do by its number, and what of it is overdue in words", () => {
    const of = (open: number, overdue: string[]) => words(told(undefined, { todos: { open, overdue } }))[0];
    expect(of(2, [])).toBe("3 not learned");
    expect(words(told(undefined, { todos: { open: 2, overdue: [] } }))).toContain("2 to do");
    expect(of(3, ["Lid of box 4"])).toBe("to do, overdue: Lid of box 4");
    expect(of(9, ["One", "Two", "Three", "Four"])).toBe("to do, overdue: One; Two; and 2 more");
  });
  it("tells alarms and lockouts of now before all", () => {
    expect(reasonsNow({ openAlarms: 1, lockedOut: 2 }).map((r) => r.words)).toEqual(["1 open alarm", "2 locked out"]);
    expect(reasonsNow({ openAlarms: 0, lockedOut: 0 })).toEqual([]);
  });
});
