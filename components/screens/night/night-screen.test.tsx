import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { plan } from "@/core/dispatch/plan";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { NightScreen } from "./night-screen";
import { changedBy } from "./what-if";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));

const DATE = "2026-07-14";
const program = (s: SiteFile) => s.programs[0] as SiteFile["programs"][number];
const open = (view = "braid", file = smallSite(), role = "manager") => {
  window.history.replaceState(null, "", `/sites/site/night${view === "braid" ? "" : `?view=${view}`}`);
  return renderOnSite(file, <NightScreen />, { role });
};
const ribbons = (): HTMLElement[] => screen.getAllByRole("button").filter((b) => b.hasAttribute("data-run"));
beforeEach(() => window.history.replaceState(null, "", "/sites/site/night"));
afterEach(() => vi.unstubAllGlobals());

describe("a night", () => {
  it("is told in words: runs, water, end and how near to the bound", async () => {
    const { container } = open();
    // 100 and 50 run together, the other 100 after them: 20 min; 2,500 L.
    expect(await screen.findByText(/No order could take less than/)).toHaveTextContent(
      /3 runs, 2,500 L; ends 22:20, 20 min long\. No order could take less than 20 min: 1\.00 × the bound/,
    );
    expect(container.querySelectorAll("[data-run]")).toHaveLength(3);
  });
  it("as a braid has one stop for the keyboard; a run that is chosen says why it began then", async () => {
    const { user } = open();
    await screen.findByText(/No order could take less/);
    const stops = ribbons().filter((r) => r.tabIndex === 0);
    expect(stops).toHaveLength(1);
    const second = ribbons().find((r) => r.getAttribute("aria-label")?.startsWith("2 S2")) as HTMLElement;
    second.focus();
    await user.keyboard("{Enter}");
    const run = screen.getByRole("region", { name: "Selected run" });
    expect(within(run).getByText("2 S2")).toBeInTheDocument();
    expect(run).toHaveTextContent(/P · 22:10 – 22:20, 10 min/);
    expect(run).toHaveTextContent(/waited 10 min.*Main|Main.*10 min/);
    expect(second).toHaveAttribute("aria-pressed", "true");
  });
  it("has a waterline that the arrows move, and beside it what is open then", async () => {
    open();
    const line = await screen.findByRole("slider", { name: "Waterline" });
    expect(line).toHaveAttribute("aria-valuetext", expect.stringMatching(/^22:0/));
    expect(screen.getByRole("complementary", { name: "At the waterline" })).toHaveTextContent("2 open");
    for (let i = 0; i < 2; i++) fireEvent.keyDown(line, { key: "ArrowDown", shiftKey: true });
    expect(screen.getByRole("complementary", { name: "At the waterline" })).toHaveTextContent(/0 open|1 open/);
    fireEvent.keyDown(line, { key: "ArrowUp", shiftKey: true });
    fireEvent.keyDown(line, { key: "ArrowUp", shiftKey: true });
    const table = screen.getByRole("table", { name: "Open at that moment" });
    expect(within(table).getByText("Poc").closest("tr")).toHaveTextContent("150");
  });
  it("has the same runs as a table, by the key t and in the address", async () => {
    const { user } = open();
    await screen.findByText(/No order could take less/);
    await user.keyboard("t");
    expect(window.location.search).toBe("?as=table");
    const rows = within(await screen.findByRole("table", { name: /runs/i })).getAllByRole("row");
    expect(rows).toHaveLength(1 + plan(smallSite(), DATE).runs.length);
    await user.keyboard("t");
    expect(screen.queryByRole("table", { name: /runs/i })).toBeNull();
  });
  it("of another date is in the address; where nothing runs, the next that does is offered", async () => {
    const { user } = open();
    await screen.findByText(/No order could take less/);
    await user.click(screen.getByRole("button", { name: "Night after" }));
    expect(window.location.search).toBe("?date=2026-07-15");
    const next = await screen.findByRole("button", { name: /21/ });
    await user.click(next);
    expect(window.location.search).toBe("?date=2026-07-21");
    expect(await screen.findByText(/No order could take less/)).toBeInTheDocument();
  });
  it("follows an edit, and says what it cuts short", async () => {
    const { draft } = open();
    await screen.findByText(/No order could take less/);
    act(() =>
      draft.edit((f) => ({
        ...f,
        mainlines: f.mainlines.map((m) => ({ ...m, ceilingLpm: 90 })),
      })),
    );
    await waitFor(() => expect(screen.getByText(/station 1 by 10 min/)).toBeInTheDocument());
    expect(screen.getByText(/station 1 by 10 min/)).toHaveTextContent("station 2 by 10 min");
  });
});

describe("six weeks", () => {
  it("show each night's end and water, what runs short, and when a budget is used up", async () => {
    const file = smallSite((s) => {
      (s.sources[0] as { monthlyBudgetM3?: number[] }).monthlyBudgetM3 = Array(12).fill(4);
      program(s).days = { type: "weekdays", days: ["tue", "fri"] };
    });
    const { user } = open("weeks", file);
    const weeks = await screen.findByRole("region", { name: "Six weeks" });
    expect(within(weeks).getByRole("button", { name: /^2026-07-14: ends 22:20, 2,500 L/ })).toBeInTheDocument();
    expect(within(weeks).getByRole("button", { name: /^2026-07-15: no watering/ })).toBeInTheDocument();
    expect(within(weeks).getAllByText(/^5 m³$/)).toHaveLength(6);
    expect(within(screen.getByRole("table", { name: "Budgets" })).getAllByText(/used up on/).length).toBeGreaterThan(0);
    await user.click(within(weeks).getByRole("button", { name: /^2026-07-17/ }));
    expect(window.location.search).toBe("?date=2026-07-17");
  });
  it("of a site in US units count in gallons", async () => {
    open(
      "weeks",
      smallSite((s) => {
        s.site.units = "us";
        (s.sources[0] as { monthlyBudgetM3?: number[] }).monthlyBudgetM3 = Array(12).fill(4);
      }),
    );
    const weeks = await screen.findByRole("region", { name: "Six weeks" });
    expect(within(weeks).getAllByText("0.7 kgal")).toHaveLength(6);
    expect(weeks).toHaveTextContent("Budget, kgal");
    expect(weeks).not.toHaveTextContent("m³");
  });
});

describe("what if", () => {
  it("answers what the night would do, and keeps nothing until the percent is taken", async () => {
    const { user, now } = open("whatif");
    await screen.findByText(/Move or choose something/);
    const before = now();
    fireEvent.change(screen.getByRole("slider", { name: /seasonal percent/ }), { target: { value: "150" } });
    expect(await screen.findByText("22:30")).toBeInTheDocument();
    expect(now()).toBe(before);
    await user.click(screen.getByRole("button", { name: "Take 150 % for the site" }));
    expect(now().site.seasonalPercent).toBe(150);
    expect(screen.getByText(/Move or choose something/)).toBeInTheDocument();
  });
  it("takes a source away, lowers a ceiling, adds a start: each on a site of its own", () => {
    const file = smallSite();
    const none = { percent: 100, out: "", lowered: "", to: 80, start: "", stop: "" };
    expect(changedBy(file, { ...none, out: "src" }).sources[0]?.enabled).toBe(false);
    expect(changedBy(file, { ...none, out: "poc" }).pocs[0]?.lockedOut).toBe(true);
    expect(changedBy(file, { ...none, lowered: "main", to: 50 }).mainlines[0]?.ceilingLpm).toBe(75);
    expect(changedBy(file, { ...none, start: "p" }).programs[0]?.starts).toEqual(["22:00", "02:00"]);
    expect(file).toEqual(smallSite());
  });
});

describe("a better night", () => {
  const slow = smallSite((s) => {
    program(s).maxStationsAtOnce = 1;
  });
  it("is searched within what may change, shown beside the night as it is, and taken in part or whole", async () => {
    const { user, now } = open("better", slow);
    const better = await screen.findByRole("region", { name: "A better night" });
    await waitFor(() => expect(within(better).getByRole("button", { name: "Search" })).toBeEnabled());
    await user.click(within(better).getByRole("button", { name: "Search" }));
    const change = await within(better).findByText(/P: stations at once 1 → /, undefined, { timeout: 8000 });
    expect(change).toBeInTheDocument();
    expect(now()).toBe(slow);
    await user.click(await within(better).findByRole("button", { name: /^Take/ }));
    expect(now().programs[0]?.maxStationsAtOnce).toBeGreaterThan(1);
  }, 15_000);
  it("is not offered to be taken by who only looks", async () => {
    const { user } = open("better", slow, "viewer");
    const better = await screen.findByRole("region", { name: "A better night" });
    await waitFor(() => expect(within(better).getByRole("button", { name: "Search" })).toBeEnabled());
    await user.click(within(better).getByRole("button", { name: "Search" }));
    await within(better).findByText(/P: stations at once 1 → /, undefined, { timeout: 8000 });
    expect(within(better).queryByRole("button", { name: /^Take/ })).toBeNull();
  }, 15_000);
});
