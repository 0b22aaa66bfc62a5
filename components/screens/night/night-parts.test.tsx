import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Program, SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { savedFiles } from "@/testing/saved-files";
import { smallSite } from "@/testing/small-site";
import { NightScreen } from "./night-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));

const program = (s: SiteFile): Program => s.programs[0] as Program;
const open = (view: string, file: SiteFile, role = "manager") => {
  window.history.replaceState(null, "", `/sites/site/night${view === "braid" ? "" : `?view=${view}`}`);
  return renderOnSite(file, <NightScreen />, { role });
};
beforeEach(() => window.history.replaceState(null, "", "/sites/site/night"));
afterEach(() => vi.restoreAllMocks());

describe("what if: one thing turned", () => {
  const answer = (): HTMLElement => within(screen.getByRole("region", { name: "What if" })).getByRole("status");
  const choose = (name: string): HTMLElement => screen.getByRole("combobox", { name });

  it("a source out of service leaves the stations dry, and says by how many minutes", async () => {
    const { user } = open("whatif", smallSite());
    await screen.findByText(/Move or choose something/);
    await user.selectOptions(choose("out of service"), "Source");
    await waitFor(() => expect(answer()).toHaveTextContent("30 min unwatered (now 0)"));
    expect(answer()).toHaveTextContent("0 L (now 2,500 L)");
    await user.click(screen.getByRole("button", { name: "As it is" }));
    expect(answer()).toHaveTextContent("Nothing of it is kept.");
  });
  it("a lower ceiling is asked for in percent, and makes the night longer", async () => {
    const { user, now } = open("whatif", smallSite());
    await screen.findByText(/Move or choose something/);
    await user.selectOptions(choose("ceiling lowered to 80 %"), "Main");
    // 80 % of 150 is 120: no two of them together any more.
    await waitFor(() => expect(answer()).toHaveTextContent("Ends 22:30 (now 22:20)"));
    fireEvent.change(screen.getByRole("slider", { name: "Ceiling lowered to, percent" }), { target: { value: "50" } });
    // 75 carries station 3 alone.
    await waitFor(() => expect(answer()).toHaveTextContent("20 min unwatered (now 0)"));
    expect(now().mainlines[0]?.ceilingLpm).toBe(150);
  });
  it("one more start doubles the water; thirty such nights are held against the month's budget", async () => {
    const { user } = open(
      "whatif",
      smallSite((s) => {
        (s.sources[0] as SiteFile["sources"][number]).monthlyBudgetM3 = Array(12).fill(100);
      }),
    );
    await screen.findByText(/Move or choose something/);
    await user.selectOptions(choose("one more start of"), "P");
    await waitFor(() => expect(answer()).toHaveTextContent("5,000 L (now 2,500 L)"));
    expect(answer()).toHaveTextContent("thirty such nights 150 m³ of the month's 100 m³");
  });
  it("an input that says stop names the stations that stop; a bypassed one stops none", async () => {
    const withInput = (bypassed: boolean): SiteFile =>
      smallSite((s) => {
        s.weatherInputs = [{ id: "rain", name: "Rain", kind: "rain", ...(bypassed && { bypassed }) }];
      });
    const { user, unmount } = open("whatif", withInput(false));
    await screen.findByText(/Move or choose something/);
    await user.selectOptions(choose("an input says stop"), "Rain");
    await waitFor(() => expect(answer()).toHaveTextContent("3 stations stop, 0 water on"));
    unmount();
    const again = open("whatif", withInput(true));
    await screen.findByText(/Move or choose something/);
    await again.user.selectOptions(choose("an input says stop"), "Rain (bypassed)");
    await waitFor(() => expect(answer()).toHaveTextContent("no station stops"));
  });
  it("is turned by who only looks, and taken by nobody of them", async () => {
    open("whatif", smallSite(), "viewer");
    await screen.findByText(/Move or choose something/);
    fireEvent.change(screen.getByRole("slider", { name: /seasonal percent/ }), { target: { value: "50" } });
    await waitFor(() => expect(answer()).toHaveTextContent("1,250 L (now 2,500 L)"));
    expect(screen.queryByRole("button", { name: /^Take 50 %/ })).toBeNull();
  });
});

describe("the runs as a table", () => {
  const table = (): HTMLElement => screen.getByRole("table", { name: "Runs of the night" });
  const column = (n: number): (string | null)[] =>
    within(table())
      .getAllByRole("row")
      .slice(1)
      .map((r) => within(r).getAllByRole("cell")[n]?.textContent ?? null);
  const asTable = async (file: SiteFile) => {
    const view = open("braid", file);
    await screen.findByText(/No order could take less/);
    await view.user.keyboard("t");
    await screen.findByRole("table", { name: "Runs of the night" });
    return view;
  };

  it("tells of each run when, how long, what and why then", async () => {
    await asTable(smallSite());
    expect(within(table()).getAllByRole("row")[1]).toHaveTextContent(/22:00:00.*22:10:00.*10\.0.*1 S1.*P.*1.*100/);
    expect(column(3)).toEqual(["1 S1", "3 S3", "2 S2"]);
    expect(column(7)[2]).toMatch(/waited 10 min/);
  });
  it("sorts by station, and back by flow; a row chosen is told beside it", async () => {
    const { user } = await asTable(smallSite());
    await user.click(within(table()).getByRole("button", { name: "Station" }));
    expect(column(3)).toEqual(["1 S1", "2 S2", "3 S3"]);
    await user.click(within(table()).getByRole("button", { name: /^Flow/ }));
    expect(column(6)).toEqual(["50.0", "100.0", "100.0"]);
    await user.click(within(table()).getByText("3 S3"));
    expect(screen.getByRole("region", { name: "Selected run" })).toHaveTextContent(/3 S3.*50 L\/min, 500 L/);
  });
  it("a night past midnight says the next day; a station without a figure has a dash", async () => {
    await asTable(
      smallSite((s) => {
        program(s).starts = ["23:55"];
        const third = s.stations[2] as { designFlowLpm?: number };
        third.designFlowLpm = undefined as unknown as number;
        delete third.designFlowLpm;
      }),
    );
    expect(within(table()).getAllByText(/^00:05:00.+/).length).toBeGreaterThan(0);
    expect(column(6)).toContain("–");
  });
});

describe("the night as files", () => {
  it("are its runs, six weeks for a calendar and the picture, each named by site and date", async () => {
    const files = savedFiles();
    const { user } = open("braid", smallSite());
    await screen.findByText(/No order could take less/);
    const save = async (what: string): Promise<void> => {
      await user.click(screen.getByRole("button", { name: "Take out" }));
      await user.click(screen.getByRole("button", { name: what }));
    };
    await save("Runs (CSV)");
    expect(files[0]?.name).toBe("small-2026-07-14-runs.csv");
    const lines = (await files[0]?.text)?.trim().split("\n") ?? [];
    expect(lines).toHaveLength(4);
    expect(lines[1]).toMatch(/^2026-07-14T22:00:00.*,10,Controller,1,S1,P,1,100,1000$/);
    await save("Six weeks (iCalendar)");
    await waitFor(() => expect(files).toHaveLength(2));
    expect(files[1]?.name).toBe("small-watering.ics");
    expect((await files[1]?.text)?.match(/BEGIN:VEVENT/g)).toHaveLength(6);
    await save("Picture (SVG)");
    await waitFor(() => expect(files).toHaveLength(3));
    expect(files[2]?.name).toBe("small-2026-07-14-braid.svg");
    expect(await files[2]?.text).toMatch(/<svg[^>]*xmlns/);
  });
});

describe("six weeks", () => {
  it("name what bites on a night, and how many minutes stay dry", async () => {
    open(
      "weeks",
      smallSite((s) => {
        program(s).days = { type: "weekdays", days: ["tue"] };
        (s.stations[0] as { designFlowLpm?: number }).designFlowLpm = 200;
      }),
    );
    const weeks = await screen.findByRole("region", { name: "Six weeks" });
    const night = within(weeks).getByRole("button", { name: /^2026-07-14/ });
    expect(night).toHaveAccessibleName(/10 min unwatered/);
    expect(night).toHaveAccessibleName(/above a ceiling/);
    expect(within(night).getByText(/min short/)).toBeInTheDocument();
  });
  it("begin with the Monday of the week of the night shown, and follow an edit", async () => {
    const { draft } = open("weeks", smallSite());
    const weeks = await screen.findByRole("region", { name: "Six weeks" });
    const nights = within(weeks).getAllByRole("button");
    expect(nights).toHaveLength(42);
    expect(nights[0]).toHaveAccessibleName(/^2026-07-13/);
    expect(nights[41]).toHaveAccessibleName(/^2026-08-23/);
    expect(screen.queryByRole("table", { name: "Budgets" })).toBeNull();
    act(() =>
      draft.edit((f) => ({
        ...f,
        programs: f.programs.map((p) => ({ ...p, days: { type: "weekdays", days: ["wed"] } })),
      })),
    );
    expect(await screen.findByRole("button", { name: /^2026-07-15: ends 22:20/ })).toBeInTheDocument();
    expect(screen.getByRole("button", { name: /^2026-07-14: no watering/ })).toBeInTheDocument();
  });
});

describe("a better night, in part", () => {
  const two = (): SiteFile =>
    smallSite((s) => {
      s.programs = [1, 2, 3].map((n) => ({
        ...program(s),
        id: `p${n}`,
        name: `P${n}`,
        maxStationsAtOnce: 1,
        starts: [`2${n}:00`],
        runs: [{ stationId: `s${n}`, minutes: 10 }],
      }));
    });
  it("what is left out is not taken; what was searched before an edit is not offered", async () => {
    const { user, draft, now } = open("better", two());
    const better = await screen.findByRole("region", { name: "A better night" });
    await waitFor(() => expect(within(better).getByRole("button", { name: "Search" })).toBeEnabled());
    await user.click(within(better).getByRole("checkbox", { name: "start times" }));
    await user.click(within(better).getByRole("button", { name: "Search" }));
    const list = await within(better).findByRole("list", { name: "Settings to change" }, { timeout: 8000 });
    const settings = within(list).getAllByRole("checkbox");
    const all = settings.length;
    expect(within(better).getByRole("button", { name: `Take all of ${all} settings into the draft` })).toBeEnabled();
    for (const s of settings) await user.click(s);
    expect(within(better).getByRole("button", { name: new RegExp(`^Take 0 of ${all}`) })).toBeDisabled();
    act(() => draft.edit((f) => ({ ...f, site: { ...f.site, notes: "gate code at the office" } })));
    expect(await within(better).findByText(/The site has changed since this search/)).toBeInTheDocument();
    expect(within(better).queryByRole("list", { name: "Settings to change" })).toBeNull();
    expect(now().programs.map((p) => p.starts)).toEqual([["21:00"], ["22:00"], ["23:00"]]);
  }, 15_000);
  it("that cannot be better says so, and what else could be allowed", async () => {
    const { user } = open(
      "better",
      smallSite((s) => {
        program(s).runs = [{ stationId: "s1", minutes: 10 }];
      }),
    );
    const better = await screen.findByRole("region", { name: "A better night" });
    await waitFor(() => expect(within(better).getByRole("button", { name: "Search" })).toBeEnabled());
    await user.click(within(better).getByRole("button", { name: "Search" }));
    expect(
      await within(better).findByText(/No better night was found/, undefined, { timeout: 8000 }),
    ).toBeInTheDocument();
  }, 15_000);
});
