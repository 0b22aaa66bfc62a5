import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { INVENTED } from "@/core/profiles/profile";
import type { Program, SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { EstablishPanel } from "./establish-panel";
import { ProgramsScreen } from "./programs-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));
beforeEach(() => {
  window.history.replaceState(null, "", "/sites/site/programs");
  vi.stubGlobal(
    "fetch",
    async () => new Response(JSON.stringify({ items: [] }), { headers: { "content-type": "application/json" } }),
  );
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

const program = (s: SiteFile, i = 0): Program => s.programs[i] as Program;
const open = (view: string, change: (s: SiteFile) => void = () => {}, role = "manager") => {
  if (view !== "programs") window.history.replaceState(null, "", `/sites/site/programs?view=${view}`);
  return renderOnSite(smallSite(change), <ProgramsScreen />, { role });
};

describe("programs", () => {
  it("one is added and shown; a copy has its stations under a name of its own, and undo takes it away", async () => {
    const { user, now, draft } = open("programs");
    await user.click(screen.getByRole("button", { name: /^Copy/ }));
    expect(screen.getByRole("link", { name: "to other sites, without stations" })).toHaveAttribute(
      "href",
      expect.stringContaining("programAs"),
    );
    await user.click(screen.getByRole("button", { name: "here, with its stations" }));
    expect(now().programs).toHaveLength(2);
    expect(program(now(), 1).runs).toEqual(program(now()).runs);
    expect(program(now(), 1).name).not.toBe("P");
    expect(program(now(), 1).id).not.toBe("p");
    draft.undo();
    expect(now().programs).toHaveLength(1);
  });
  it("are changed by nobody who only looks", () => {
    open("programs", () => {}, "viewer");
    expect(screen.queryByRole("button", { name: /^Copy/ })).toBeNull();
    expect(screen.getByLabelText(/^Stations at once/)).toBeDisabled();
  });
});

describe("the calendar of all", () => {
  it("shows on which dates each waters, holds and controllers that are off left out, and leads to a program", async () => {
    const { user } = open("all", (s) => {
      s.programs.push({ ...program(s), id: "q", name: "Beds", days: { type: "even" } as Program["days"] });
    });
    const calendar = await screen.findByRole("region", { name: "All programs" });
    const cells = (name: string): number =>
      within(within(calendar).getByRole("rowheader", { name }).closest("tr") as HTMLElement).getAllByLabelText(
        /^waters on/,
      ).length;
    expect(cells("P")).toBe(6);
    expect(cells("Beds")).toBeGreaterThan(18);
    await user.click(within(calendar).getByRole("button", { name: "Beds" }));
    expect(window.location.search).toBe("?at=q");
  });
});

describe("site and weather", () => {
  it("the site is held without an end, and again until a day", async () => {
    const { user, now } = open("site");
    await user.click(await screen.findByLabelText("Off, with no end"));
    expect(now().site.holdUntil).toBe("indefinite");
    await user.click(screen.getByLabelText("Off, with no end"));
    await user.type(screen.getByLabelText("Off until (waters again that day)"), "2026-08-02{Tab}");
    expect(now().site.holdUntil).toBe("2026-08-02");
  });
  it("the day's percent from the weather is entered, bypassed and told", async () => {
    const { user, now } = open("site");
    await user.type(await screen.findByLabelText(/^Percent from the weather/), "60{Tab}");
    expect(now().site.weatherPercents).toEqual([{ date: "2026-07-14", percent: 60 }]);
    await user.click(screen.getByLabelText("percent bypassed"));
    expect(now().site.weatherPercentBypassed).toBe(true);
  });
});

describe("a one-off run", () => {
  it("is worked out for a walk, one station, or a program from a station on, and changes nothing", async () => {
    const { user, now } = open("once");
    const before = now();
    const panel = await screen.findByRole("region", { name: "One-off run" });
    // Two minutes each, one after the other.
    expect(within(panel).getByRole("status")).toHaveTextContent(/6 min.*3 openings.*500 L/);
    await user.selectOptions(within(panel).getByLabelText("Kind"), "one station");
    expect(within(panel).getByRole("status")).toHaveTextContent(
      /2 min.*1 opening, 200 L.*ignores rain, wind and frost/,
    );
    await user.selectOptions(within(panel).getByLabelText("Kind"), "a program, now");
    await user.selectOptions(within(panel).getByLabelText("From station"), "2 S2");
    expect(within(panel).getByRole("status")).toHaveTextContent(/2 openings/);
    await user.selectOptions(within(panel).getByLabelText("Skip"), "3 S3");
    expect(within(panel).getByRole("status")).toHaveTextContent(/1 opening/);
    expect(now()).toBe(before);
  });
  it("walks past what is locked out, and says that such a station cannot run", async () => {
    const { user } = open("once", (s) => {
      Object.assign(s.stations[1] as object, { lockedOut: true });
    });
    const panel = await screen.findByRole("region", { name: "One-off run" });
    expect(within(panel).getByRole("status")).toHaveTextContent(/2 openings/);
    await user.selectOptions(within(panel).getByLabelText("Kind"), "one station");
    await user.selectOptions(within(panel).getByLabelText("Station"), "2 S2");
    expect(panel).toHaveTextContent(/Cannot run: 2 S2/);
  });
});

describe("establishing new planting", () => {
  it("writes dated programs with the new stations, and brings them back to the usual one", async () => {
    const site = smallSite((s) => {
      Object.assign(s.stations[2] as object, { planting: "new" });
    });
    const { user, now } = renderOnSite(site, <EstablishPanel program={program(site)} />);
    expect(screen.getByRole("heading", { name: "Establish 1 of 3 stations" })).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: /^Write \d dated programs/ }));
    const dated = now().programs.filter((p) => p.name.startsWith("Establishment"));
    expect(dated.length).toBeGreaterThan(1);
    expect(dated.every((p) => p.runs.map((r) => r.stationId).join() === "s3")).toBe(true);
    expect(program(now()).runs.map((r) => r.stationId)).toEqual(["s1", "s2"]);
    expect(now().programs.find((p) => p.name === "P, after establishment")?.from).toBeDefined();
    expect(screen.getByText(/leave their usual program now and come back to it on/)).toBeInTheDocument();
    expect(dated.slice(1).every((p, i) => (p.from ?? "") > (dated[i]?.until ?? "9"))).toBe(true);
  });
  it("a start that is no time of day is refused at its step, and the steps stand", async () => {
    const site = smallSite();
    const { user } = renderOnSite(site, <EstablishPanel program={program(site)} />);
    const steps = screen.getAllByRole("button", { name: /^Take step/ }).length;
    const field = screen.getByLabelText("Step 1, starts");
    await user.clear(field);
    await user.type(field, "5am{Tab}");
    expect(await screen.findByText(/Step 1: "5am" is no time of day/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Take step 1 out" }));
    expect(screen.getAllByRole("button", { name: /^Take step/ })).toHaveLength(steps - 1);
  });
});

describe("the setup sheet", () => {
  const onMiddle = (s: SiteFile): void => {
    Object.assign(s.controllers[0] as object, { profileId: INVENTED[1]?.id });
    (program(s).runs[0] as { minutes: number }).minutes = 10.4;
    program(s).windows = [{ from: "20:00", to: "06:00" }];
    Object.assign(s.policy, { persistenceS: 20 });
  };
  it("is rounded to what the controller takes, with every difference and the night that follows", async () => {
    open("sheet", onMiddle);
    const sheet = await screen.findByRole("region", { name: "Setup sheet" });
    expect(sheet).toHaveTextContent("As Middle house takes it: 3 settings otherwise.");
    const differences = within(sheet)
      .getByRole("list", { name: "Differences from what was wanted" })
      .querySelectorAll("li");
    expect([...differences].map((d) => d.textContent)).toEqual([
      "Controller: persistence, s 20 → 30",
      "P: hours: water windows → none",
      "1 S1: minutes 10.4 → 10.5",
    ]);
    await waitFor(() => expect(sheet).toHaveTextContent(/The night so rounded ends 22:2\d, as wanted 22:2\d/));
  });
  it("prints, and says what of it is not saved yet", async () => {
    const print = vi.spyOn(window, "print").mockImplementation(() => {});
    const { user, draft } = open("sheet");
    await user.click(await screen.findByRole("button", { name: "Print" }));
    expect(print).toHaveBeenCalledOnce();
    draft.edit((f) => ({ ...f, site: { ...f.site, notes: "x" } }));
    expect(await screen.findByText(/It shows 1 change not saved yet/)).toBeInTheDocument();
  });
});
