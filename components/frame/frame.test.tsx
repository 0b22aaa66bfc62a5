import { act, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { CommandLine } from "./command-line";
import { LeaveGuard } from "./leave-guard";
import { PipeNav } from "./pipe-nav";
import { ThumbBar } from "./thumb-bar";
import { TopRow } from "./top-row";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));

const at = (address: string): void => window.history.replaceState(null, "", address);
beforeEach(() => at("/sites/site/night"));
afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
  document.documentElement.dataset["theme"] = "day";
});

describe("the pipe across the top", () => {
  const step = (name: RegExp): HTMLElement => screen.getByRole("link", { name });
  it("is the work in its order; where one is, is said; a new site is proven in nothing", async () => {
    renderOnSite(smallSite(), <PipeNav />);
    const steps = within(screen.getByRole("navigation", { name: "Steps of the work" })).getAllByRole("link");
    expect(steps.map((s) => s.getAttribute("href"))).toEqual(
      ["waterworks", "sensors", "stations", "programs", "learn", "night", "limits", "bench", "controllers", "log"].map(
        (s) => `/sites/site/${s}`,
      ),
    );
    expect(step(/^Night/)).toHaveAttribute("aria-current", "page");
    expect(step(/^Sensors/)).not.toHaveAttribute("aria-current");
    for (const s of steps) expect(s).not.toHaveAccessibleName(/\bproven\./);
    await waitFor(() => expect(step(/^Night/)).toHaveAccessibleName(/entered/));
  });
  it("a step that has nothing is empty, and says why", () => {
    renderOnSite(
      smallSite((s) => {
        s.programs = [];
      }),
      <PipeNav />,
    );
    expect(step(/^Programs/)).toHaveAccessibleName(/empty/);
    expect(step(/^Programs/)).toHaveAttribute("title", expect.stringMatching(/^4 Programs, empty\. ./));
  });
});

describe("the row at the top", () => {
  const row = (file: SiteFile, role = "manager") =>
    renderOnSite(
      file,
      <LeaveGuard siteId="site">
        <TopRow onKeys={onKeys} onSearch={vi.fn()} onSites={onSites} />
      </LeaveGuard>,
      { role },
    );
  const [onKeys, onSites] = [vi.fn(), vi.fn()];
  it("tells the site and its own time, wherever the person sits", () => {
    vi.useFakeTimers({ now: new Date("2026-07-14T20:05:00Z"), shouldAdvanceTime: true });
    row(smallSite());
    expect(screen.getByRole("heading", { level: 1, name: "Small" })).toBeInTheDocument();
    expect(screen.getByTitle("The site's own time")).toHaveTextContent("Tue 14 Jul 22:05");
    act(() => void vi.advanceTimersByTime(60_000));
    expect(screen.getByTitle("The site's own time")).toHaveTextContent("22:06");
  });
  it("is loud about a hold and about what is locked out", () => {
    const held = (holdUntil: string): SiteFile =>
      smallSite((s) => {
        s.site.holdUntil = holdUntil;
        (s.stations[0] as { lockedOut?: boolean }).lockedOut = true;
        (s.mainlines[0] as { lockedOut?: boolean }).lockedOut = true;
      });
    const { unmount } = row(held("indefinite"));
    expect(screen.getByText("OFF, no end set")).toBeInTheDocument();
    expect(screen.getByTitle("Locked out: Main, 1 S1")).toHaveTextContent("Locked out: Main and 1 more");
    unmount();
    row(held("2026-07-20"));
    expect(screen.getByText("Off until 20 Jul 2026")).toBeInTheDocument();
  });
  it("of a calm site says nothing of either", () => {
    row(smallSite());
    expect(screen.queryByText(/OFF|Off until|Locked out/)).toBeNull();
  });
  it("asks for the sites, and for the keys behind the person", async () => {
    const { user } = row(smallSite());
    await user.click(screen.getByRole("button", { name: "Small: go to another site" }));
    expect(onSites).toHaveBeenCalledOnce();
    await user.click(screen.getByRole("button", { name: "Ada Fennimore, manager" }));
    await user.click(screen.getByRole("button", { name: "Keys and words" }));
    expect(onKeys).toHaveBeenCalledOnce();
    expect(screen.queryByRole("button", { name: "Keys and words" })).toBeNull();
  });
  it("turns units and theme, and remembers the theme", async () => {
    const kept: unknown[] = [];
    vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
      if (path === "/api/account") kept.push(JSON.parse(String(init?.body)));
      return new Response("{}", { headers: { "content-type": "application/json" } });
    });
    const { user, draft } = row(smallSite());
    await user.click(screen.getByRole("button", { name: "Ada Fennimore, manager" }));
    await user.click(screen.getByRole("button", { name: "Metric: change" }));
    expect(draft.store.getState().units).toBe("us");
    expect(screen.getByRole("button", { name: "US units: change" })).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Night theme" }));
    expect(document.documentElement.dataset["theme"]).toBe("night");
    expect(document.cookie).toContain("presa_theme=night");
    expect(kept).toEqual([{ theme: "night" }]);
    expect(await screen.findByRole("button", { name: "Day theme" })).toBeInTheDocument();
  });
  it("says who only looks, and lets everyone out", async () => {
    const asked: string[] = [];
    vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
      asked.push(`${init?.method ?? "GET"} ${path}`);
      return new Response("{}", { headers: { "content-type": "application/json" } });
    });
    const assign = vi.fn();
    vi.stubGlobal("location", { ...window.location, assign });
    const { user } = row(smallSite(), "viewer");
    await user.click(screen.getByRole("button", { name: "Ada Fennimore, viewer (looking only)" }));
    await user.click(screen.getByRole("button", { name: "Sign out" }));
    await waitFor(() => expect(asked).toContain("DELETE /api/session"));
  });
});

describe("the bar under the thumb", () => {
  it("has the five jobs of the field, each a way to it at this site", () => {
    at("/sites/site/learn");
    renderOnSite(smallSite(), <ThumbBar />);
    const jobs = within(screen.getByRole("navigation", { name: "Jobs in the field" })).getAllByRole("link");
    expect(jobs.map((j) => j.textContent)).toEqual(["Site", "Walk", "Learn, prove", "Alarms", "Visit"]);
    expect(jobs.map((j) => j.getAttribute("href"))).toEqual(
      ["site", "walk", "learn", "alarms", "visit"].map((job) => `/field?site=site&job=${job}`),
    );
  });
});

describe("the command line", () => {
  const open = (mode: "all" | "sites", onClose = vi.fn()) => {
    vi.stubGlobal(
      "fetch",
      async () =>
        new Response(
          JSON.stringify({
            sites: [
              { id: "site", name: "Small" },
              { id: "b", name: "Brook Street yard" },
            ],
          }),
          {
            headers: { "content-type": "application/json" },
          },
        ),
    );
    return {
      ...renderOnSite(
        smallSite(),
        <LeaveGuard siteId="site">
          <CommandLine mode={mode} onClose={onClose} />
        </LeaveGuard>,
      ),
      onClose,
    };
  };
  it("finds a station by its name and goes there", async () => {
    const { user, onClose } = open("all");
    await user.type(screen.getByRole("combobox"), "2 S2");
    await user.click(await screen.findByText("2 S2"));
    expect(onClose).toHaveBeenCalledOnce();
    expect(window.location.pathname + window.location.search).toBe("/sites/site/stations?at=s2");
  });
  it("goes to a view of a screen, and does what has a name", async () => {
    const { user, draft, now } = open("all");
    act(() => draft.edit((f) => ({ ...f, site: { ...f.site, notes: "x" } })));
    await user.click(screen.getByText("Undo"));
    expect(now().site.notes).toBeUndefined();
    await user.click(screen.getByText("Water by month"));
    expect(window.location.pathname + window.location.search).toBe("/sites/site/programs?view=year");
  });
  it("as a list of sites has these alone, and says which is here", async () => {
    const { user } = open("sites");
    expect(await screen.findByText("Brook Street yard")).toBeInTheDocument();
    expect(screen.getByText("Small").closest("[cmdk-item]")).toHaveTextContent("here");
    expect(screen.queryByText("Undo")).toBeNull();
    await user.type(screen.getByRole("combobox"), "nothing like it");
    expect(screen.getByText("Nothing is called that.")).toBeInTheDocument();
    await user.clear(screen.getByRole("combobox"));
    await user.click(screen.getByText("Brook Street yard"));
    expect(window.location.pathname).toBe("/sites/b/night");
  });
});
