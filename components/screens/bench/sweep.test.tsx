import { act, screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import type { SweepCell } from "@/core/bench/sweep";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { gapRemedy } from "./gap-remedy";
import { SweepPanel } from "./sweep-panel";
import { SweepResults, type SweepRun } from "./sweep-results";

vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));

const cell = (more: Partial<SweepCell>): SweepCell => ({
  policy: "as it stands",
  subjectId: "s1",
  kind: "brokenLateral",
  outcome: "found",
  seconds: 90,
  lostL: 120,
  othersMin: 0,
  wrongly: [],
  ...more,
});
const runOf = (cells: SweepCell[], more: Partial<SweepRun> = {}): SweepRun => ({
  site: smallSite(),
  date: "2026-07-14",
  kinds: [...new Set(cells.map((c) => c.kind))],
  policies: [...new Set(cells.map((c) => c.policy))],
  cells,
  of: 3,
  done: 3,
  state: "done",
  ...more,
});
const show = (run: SweepRun, file: SiteFile = smallSite()) => renderOnSite(file, <SweepResults run={run} />);
const rows = (table: string): HTMLElement[] =>
  within(screen.getByRole("table", { name: table }))
    .getAllByRole("row")
    .slice(1);

describe("what a sweep found", () => {
  it("stands in sum by policy and fault, with the water lost on average", () => {
    show(
      runOf([
        cell({ lostL: 100 }),
        cell({ subjectId: "s2", outcome: "missed", seconds: null, lostL: 900 }),
        cell({ subjectId: "s3", kind: "stuckClosed", outcome: "late", lostL: 0 }),
      ]),
    );
    const [lateral, closed] = rows("In sum") as [HTMLElement, HTMLElement];
    // found, late, told, missed, wrong
    const counts = (row: HTMLElement): (string | null)[] =>
      within(row)
        .getAllByRole("cell")
        .slice(2)
        .map((c) => c.textContent);
    expect(counts(lateral)).toEqual(["1", "0", "0", "1", "0", "500 L"]);
    expect(counts(closed)).toEqual(["0", "1", "0", "0", "0", "0 L"]);
  });
  it("says which of what limits miss the night's readings name the next morning", async () => {
    const file = smallSite((s) => {
      for (const x of s.stations)
        x.learned = { meanLpm: x.designFlowLpm as number, sdLpm: 0.5, at: "2026-07-01T02:00:00Z" };
    });
    const cells = [
      cell({ subjectId: "s1", outcome: "missed", seconds: null }),
      cell({ subjectId: "s2", outcome: "found" }),
      cell({ subjectId: "s1", kind: "stuckOpen", outcome: "missed", seconds: null }),
    ];
    show(runOf(cells, { site: file }), file);
    await waitFor(() => expect(screen.getByText(/missed, but/)).toBeInTheDocument());
    const counts = rows("In sum").map((r) => within(r).getAllByRole("cell").at(-2)?.textContent);
    expect(counts).toEqual(["1", "0"]);
    expect(rows("Station by station")[0]).toHaveTextContent("found next morning");
  });
  it("names the worst gaps, each with what to change; while it runs, none are named yet", () => {
    const cells = [
      cell({ subjectId: "s2", outcome: "missed", seconds: null, lostL: 900, othersMin: 4 }),
      cell({ subjectId: "s1", outcome: "told", seconds: 600, lostL: 300 }),
      cell({ subjectId: "s3", lostL: 20 }),
    ];
    const { unmount } = show(runOf(cells, { state: "running", done: 1 }));
    expect(screen.queryByRole("table", { name: "Worst gaps" })).toBeNull();
    unmount();
    show(runOf(cells));
    const gaps = rows("Worst gaps");
    expect(gaps).toHaveLength(2);
    expect(gaps[0]).toHaveTextContent(/^2 S2broken lateral.*missed.*900 L4 min.*The set it runs in hides it/);
    expect(gaps[1]).toHaveTextContent(/told, not shut off, 10 min.*Choose find and isolate/);
  });
  it("stands station by station, told in full to whoever points at it and to readers", () => {
    show(runOf([cell({ outcome: "late", seconds: 340, lostL: 75 }), cell({ subjectId: "s2", lostL: 0 })]));
    const [first, second] = rows("Station by station") as [HTMLElement, HTMLElement];
    expect(within(first).getByTitle("found late; 75 L lost, after 340 s")).toHaveTextContent("75 L");
    expect(within(second).getByText("found in good time")).toHaveClass("sr-only");
    expect(rows("Station by station")).toHaveLength(2);
  });
  it("of mains and supplies stands apart, in words", () => {
    show(
      runOf([
        cell({ subjectId: "main", kind: "mainlineBreak", outcome: "told", seconds: 30, lostL: 4000 }),
        cell({ subjectId: "src", kind: "supplyClosed", outcome: "missed", seconds: null, lostL: 0 }),
      ]),
    );
    const [broken, closed] = rows("Mains, supplies and sensors") as [HTMLElement, HTMLElement];
    expect(broken).toHaveTextContent(/told, not shut off, 1 min, 4,000 L lost$/);
    expect(closed).toHaveTextContent(/missed$/);
    expect(screen.queryByRole("table", { name: "Station by station" })).toBeNull();
  });
  it("is told in gallons on a US site", () => {
    show(
      runOf([cell({ lostL: 378.541 })]),
      smallSite((s) => {
        s.site.units = "us";
      }),
    );
    expect(rows("In sum")[0]).toHaveTextContent("100 gal");
  });
});

describe("what would close a gap", () => {
  const site = smallSite();
  const told = (more: Partial<SweepCell>): string => gapRemedy(site, cell({ seconds: null, ...more }));
  it("is a device where no limit can tell, and a limit where one can", () => {
    expect(told({ kind: "sensorDead", subjectId: "fs", outcome: "missed" })).toMatch(
      /pressure sensor with a low limit/,
    );
    expect(told({ kind: "mainlineBreak", subjectId: "main", outcome: "missed" })).toMatch(/Set a burst limit/);
    expect(told({ kind: "supplyClosed", subjectId: "src", outcome: "late" })).toMatch(/No low limit sees it/);
    expect(told({ kind: "pumpFailed", subjectId: "pump", outcome: "missed" })).toMatch(/No low limit sees it/);
    expect(told({ kind: "stuckOpen", outcome: "missed" })).toMatch(/off-schedule limit that shuts/);
    expect(told({ kind: "stuckClosed", outcome: "missed" })).toMatch(/tighter low limit, or fewer beside it/);
    expect(told({ kind: "brokenOutlet", outcome: "missed" })).toMatch(/its set learned, or fewer at once/);
  });
  it("of a constant that is off, is to prove it; where it shut others off, to keep the burst limit over it", () => {
    expect(told({ kind: "wrongK", subjectId: "fs", outcome: "missed" })).toMatch(/prove the sensor against the meter/);
    expect(told({ kind: "wrongK", subjectId: "fs", outcome: "found", othersMin: 12 })).toMatch(
      /Keep the burst limit well over/,
    );
  });
  it("of something healthy that was blamed, names it", () => {
    expect(told({ kind: "mainlineBreak", subjectId: "main", outcome: "wrong", wrongly: ["s2"] })).toMatch(
      /^station 2 S2 was blamed for it/,
    );
    expect(told({ kind: "stuckClosed", outcome: "wrong", wrongly: ["s1", "s3"] })).toMatch(
      /^station 1 S1, station 3 S3 was shut off: alone, it leaves its pump without flow/,
    );
    expect(told({ kind: "brokenLateral", outcome: "wrong", wrongly: ["s2"] })).toMatch(
      /learn again what runs beside it/,
    );
  });
});

describe("a sweep that is asked for", () => {
  const panel = (file = smallSite()) => renderOnSite(file, <SweepPanel date="2026-07-14" />);
  const button = (): HTMLElement => screen.getByRole("button", { name: /^Sweep/ });
  const tick = (name: string): HTMLElement => screen.getByRole("checkbox", { name });

  it("says how much it will be, and needs at least one fault and one policy", async () => {
    const { user } = panel();
    expect(button()).toHaveTextContent("Sweep 3 stations, 2 faults, 1 policy");
    await user.click(tick("broken lateral"));
    await user.click(tick("Watchful"));
    expect(button()).toHaveTextContent("Sweep 3 stations, 1 fault, 2 policies");
    await user.click(tick("as it stands"));
    await user.click(tick("Watchful"));
    expect(button()).toBeDisabled();
  });
  it("compares policies side by side, and says so when the site has changed since", async () => {
    const { user, draft } = panel();
    await user.click(tick("station does not open"));
    await user.click(tick("Watchful"));
    await user.click(button());
    await waitFor(() => expect(button()).toBeEnabled(), { timeout: 9000 });
    expect(rows("In sum").map((r) => within(r).getAllByRole("cell")[0]?.textContent)).toEqual([
      "as it stands",
      "Watchful",
    ]);
    expect(screen.queryByText(/swept before the last change/)).toBeNull();
    act(() => draft.edit((f) => ({ ...f, site: { ...f.site, notes: "x" } })));
    expect(screen.getByText(/swept before the last change/)).toBeInTheDocument();
  }, 15_000);
});
