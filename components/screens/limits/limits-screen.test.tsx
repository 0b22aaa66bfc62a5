import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { LimitsScreen } from "./limits-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));
beforeEach(() => window.history.replaceState(null, "", "/sites/site/limits"));

const open = (view = "jaw", file = smallSite(), role = "manager") => {
  if (view !== "jaw") window.history.replaceState(null, "", `/sites/site/limits?view=${view}`);
  return renderOnSite(file, <LimitsScreen />, { role });
};
const row = (name: RegExp): HTMLElement => {
  const found = screen.getAllByRole("button", { name }).find((b) => b.hasAttribute("data-jaw-row"));
  if (!found) throw new Error(`no row ${name}`);
  return found;
};

describe("the jaw", () => {
  it("says of each station what it trips at, and what a break would read", () => {
    open();
    expect(row(/^1 S1/)).toHaveAccessibleName(/expected 100, trips below 75, above 120/);
    expect(row(/^3 S3/)).toHaveAccessibleName(/expected 50, trips below 38|expected 50, trips below 37/);
    expect(screen.getByText(/A broken outlet unseen at/)).toHaveTextContent(/of 3 alone/);
  });
  it("says what the nights' readings would name of what limits miss, over all and of the chosen station", async () => {
    const file = smallSite((s) => {
      Object.assign(s.policy, { highPercent: 60 });
      s.stations.forEach((x) => {
        x.learned = { meanLpm: x.designFlowLpm as number, sdLpm: 0.5, at: "2026-07-01T02:00:00Z" };
      });
    });
    const { user } = open("jaw", file);
    expect(await screen.findByText(/the night's readings name/)).toHaveTextContent(
      /name [1-3] of [1-3] the next morning, [1-3] by the third/,
    );
    await user.click(row(/^2 S2/));
    expect(screen.getByRole("region", { name: "Selected station" })).toHaveTextContent(
      /the night's readings name: a break of \d[\d.]* L\/min and more the next morning, of \d[\d.]* L\/min by the third/,
    );
  });
  it("moves all walls by the arrows, outward and inward, a step of undo each; never past its end", async () => {
    const { draft, now } = open();
    const high = screen.getByRole("slider", { name: "High limit of all stations" });
    const low = screen.getByRole("slider", { name: "Low limit of all stations" });
    fireEvent.keyDown(high, { key: "ArrowRight" });
    fireEvent.keyDown(low, { key: "ArrowLeft" });
    fireEvent.keyDown(low, { key: "ArrowRight" });
    fireEvent.keyDown(low, { key: "ArrowRight" });
    expect(now().policy).toMatchObject({ highPercent: 21, lowPercent: 24 });
    expect(await screen.findByRole("slider", { name: "High limit of all stations" })).toHaveAttribute(
      "aria-valuetext",
      "21 % above expected",
    );
    draft.undo();
    draft.undo();
    expect(now().policy).toMatchObject({ highPercent: 21, lowPercent: 26 });
    expect(now().policy.preset).toBeUndefined();
  });
  it("has one stop among its rows; a row that is chosen gets limits of its own", async () => {
    const { user, now } = open();
    const rows = screen.getAllByRole("button").filter((b) => b.hasAttribute("data-jaw-row"));
    expect(rows.map((r) => r.tabIndex)).toEqual([0, -1, -1]);
    rows[0]?.focus();
    await user.keyboard("{ArrowDown}");
    expect(row(/^2 S2/)).toHaveFocus();
    await user.keyboard("{Enter}");
    expect(window.location.search).toBe("?at=s2");
    const own = screen.getByRole("region", { name: "Selected station" });
    const field = within(own).getByLabelText(/^High, this one/);
    expect(field).toHaveAttribute("placeholder", "20 (site)");
    await user.type(field, "45{Enter}");
    expect(now().stations[1]?.highPercent).toBe(45);
    expect(own).toHaveTextContent("above 145 L/min");
    await user.clear(field);
    await user.keyboard("{Enter}");
    expect(now().stations[1]?.highPercent).toBeUndefined();
  });
  it("judges a station alone or in company: in the fullest set a break hides", async () => {
    const { user } = open();
    await user.click(
      within(screen.getByRole("group", { name: "Judged" })).getByRole("button", { name: "In the fullest set" }),
    );
    expect(window.location.search).toBe("?judged=fullest");
    await waitFor(() => expect(row(/^3 S3/)).toHaveAccessibleName(/expected 150|expected 250/));
  });
  it("as a table has the same figures, by the key t", async () => {
    const { user, now } = open();
    await user.keyboard("t");
    const table = screen.getByRole("table", { name: "Limits as a table" });
    const first = within(table).getAllByRole("row")[1] as HTMLElement;
    expect(first).toHaveTextContent("100");
    expect(first).toHaveTextContent("120");
    const high = within(table).getByLabelText("High limit of 1 S1");
    await user.type(high, "33{Enter}");
    expect(now().stations[0]?.highPercent).toBe(33);
  });
  it("of graded limits has no walls to drag", () => {
    open(
      "jaw",
      smallSite((s) => {
        s.policy.basis = "graded";
        s.policy.bands = [{ fromLpm: 0, percent: 30 }];
      }),
    );
    expect(screen.queryByRole("slider", { name: /limit of all stations/ })).toBeNull();
    expect(row(/^1 S1/)).toHaveAccessibleName(/below 70, above 130/);
  });
  it("cannot be moved by who only looks, and needs stations", () => {
    const { unmount } = open("jaw", smallSite(), "viewer");
    expect(screen.getByRole("slider", { name: "High limit of all stations" })).toHaveAttribute("tabindex", "-1");
    unmount();
    open(
      "jaw",
      smallSite((s) => {
        s.stations = [];
        s.programs = [];
      }),
    );
    expect(screen.getByText(/Limits stand on expected flows/)).toBeInTheDocument();
  });
});

describe("starting points", () => {
  it("are judged on the night and one of them is taken whole; what was worked out before an edit says so", async () => {
    const { user, now, draft } = open("points");
    const points = await screen.findByRole("region", { name: "Starting points compared" });
    const takes = await within(points).findAllByRole("button", { name: /^Take / }, { timeout: 9000 });
    expect(takes.length).toBeGreaterThan(2);
    expect(within(points).getAllByRole("row").length).toBeGreaterThan(3);
    await user.click(takes[0] as HTMLElement);
    expect(now().policy.preset).toBeDefined();
    expect(await within(points).findByText(/worked out before the last change/)).toBeInTheDocument();
    draft.undo();
    expect(now().policy.preset).toBeUndefined();
  }, 15_000);
});

describe("limits of connections and mains", () => {
  it("pass on to the stations below, and an emptied one is inherited again", async () => {
    const { user, now } = open("mains");
    const region = screen.getByRole("region", { name: "Limits of connections and mains" });
    const high = within(region).getAllByLabelText(/^High.* of Main$/)[0] as HTMLElement;
    await user.type(high, "35{Enter}");
    const main = (f: SiteFile) => f.mainlines[0] as SiteFile["mainlines"][number];
    expect(main(now()).policy).toMatchObject({ highPercent: 35 });
    await user.clear(high);
    await user.keyboard("{Enter}");
    expect(main(now()).policy?.highPercent).toBeUndefined();
  });
});
