import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { BenchScreen } from "./bench-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));
// What the chart draws is a canvas, which a test cannot see; the same readings are in the events.
vi.mock("@/components/charts/readings-chart", () => ({ ReadingsChart: () => null }));

let sites = 0;
const open = (view: string, { file = smallSite(), role = "manager" }: { file?: SiteFile; role?: string } = {}) => {
  const siteId = `site${sites++}`;
  window.history.replaceState(null, "", `/sites/${siteId}/bench?view=${view}`);
  return { ...renderOnSite(file, <BenchScreen />, { siteId, role }), siteId };
};
const answers = (answer: (path: string, body: Record<string, unknown> | null) => unknown) => {
  const sent: { path: string; body: Record<string, unknown> | null }[] = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const body = init?.body ? (JSON.parse(String(init.body)) as Record<string, unknown>) : null;
    sent.push({ path, body });
    return new Response(JSON.stringify(answer(path, body)), { headers: { "content-type": "application/json" } });
  });
  return sent;
};
afterEach(() => vi.unstubAllGlobals());

const result = (): HTMLElement => screen.getByLabelText("Result");

describe("one night on the bench", () => {
  it("opens on tonight's braid; a calm night runs as planned, with nothing told", async () => {
    const { user } = open("night");
    await waitFor(() => expect(document.querySelectorAll("[data-run]")).toHaveLength(3));
    expect(screen.getByText(/No fault: an ordinary night/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Run the night" }));
    await waitFor(() => expect(result()).toHaveTextContent("alarms0"));
    expect(result()).toHaveTextContent("locked outnone");
    expect(result()).toHaveTextContent("not waterednothing");
    expect(screen.queryByRole("list", { name: "Verdict" })).toBeNull();
  });
  it("a fault is armed and pressed onto a ribbon; it begins inside the run, is found, and the verdict says so in words", async () => {
    const { user } = open("night");
    await waitFor(() => expect(document.querySelectorAll("[data-run]")).toHaveLength(3));
    const chip = within(screen.getByRole("group", { name: "Faults to drop" })).getByRole("button", {
      name: /broken lateral/i,
    });
    await user.click(chip);
    expect(chip).toHaveAttribute("aria-pressed", "true");
    await user.click(document.querySelector('[data-run^="s2|"]') as Element);
    expect(chip).toHaveAttribute("aria-pressed", "false");
    const faults = screen.getByRole("group", { name: "Faults" });
    // Station 2 runs from 22:10 to 22:20: a third into it is 22:13:20.
    expect(within(faults).getByDisplayValue("22:13:20")).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Run the night" }));
    const verdict = await screen.findByRole("list", { name: "Verdict" });
    expect(verdict).toHaveTextContent(/2 S2/);
    expect(result()).toHaveTextContent("locked outstation 2 S2");
    expect(screen.getByRole("list", { name: "Alarms" })).toHaveTextContent("High flow at station 2 S2");
  });
  it("a run of other faults or an earlier site says that it is old; Space runs it again", async () => {
    const { user, draft } = open("night");
    await waitFor(() => expect(document.querySelectorAll("[data-run]")).toHaveLength(3));
    await user.keyboard(" ");
    await waitFor(() => expect(result()).toBeInTheDocument());
    expect(screen.queryByText(/This run is of another night/)).toBeNull();
    draft.edit((f) => ({ ...f, policy: { ...f.policy, highPercent: 90 } }));
    expect(
      await screen.findByText(/This run is of another night, other faults, or the site before/),
    ).toBeInTheDocument();
    await user.keyboard(" ");
    await waitFor(() => expect(screen.queryByText(/This run is of another night/)).toBeNull());
  });
  it("is taken into the log with just what was asked, and not with unsaved changes", async () => {
    const file = smallSite();
    const sent = answers((path) => {
      if (path.endsWith("/bench")) return { alarms: 0, version: 4 };
      // Someone saved between the two requests: the revision comes with its own number.
      return path.endsWith("/facts")
        ? { openAlarms: 0, calm: null, faulted: null, there: null, nights: null }
        : { version: 5, file };
    });
    const { user, draft, siteId } = open("night", { file });
    await user.click(screen.getByRole("button", { name: "Run the night" }));
    const take = await screen.findByRole("button", { name: "Take this night into the log" });
    await user.click(take);
    expect(await screen.findByText("In the log: 0 alarms.")).toBeInTheDocument();
    expect(sent[0]).toEqual({
      path: `/api/sites/${siteId}/bench`,
      body: { date: "2026-07-14", faults: [], seed: 1, exact: false },
    });
    expect(draft.store.getState().version).toBe(5);
    draft.edit((f) => ({ ...f, site: { ...f.site, notes: "x" } }));
    await waitFor(() => expect(take).toBeDisabled());
  });
  it("events are read one by one, and the ordinary ones only when asked for", async () => {
    const { user } = open("night");
    await user.click(screen.getByRole("button", { name: "Run the night" }));
    const events = await screen.findByRole("region", { name: "Events" });
    expect(events).toHaveTextContent("Nothing but valves in their turn.");
    await user.click(within(events).getByLabelText("only what matters"));
    const rows = within(events).getAllByRole("row");
    expect(rows.length).toBeGreaterThan(6);
    const time = screen.getByRole("slider", { name: "Time of the night" });
    const before = time.getAttribute("value");
    await user.keyboard("]");
    await user.keyboard("]");
    expect(screen.getByRole("slider", { name: "Time of the night" })).not.toHaveValue(before);
  });
  it("a date on which nothing runs says so", async () => {
    const { user } = open("night");
    await user.click(screen.getByRole("button", { name: "Night after" }));
    expect(await screen.findByText("Nothing runs on this date; choose another.")).toBeInTheDocument();
  });
});

describe("a fault sweep", () => {
  it("plays every fault on every station under each policy, and names the worst gaps", async () => {
    const { user } = open("sweep");
    const sweep = await screen.findByRole("region", { name: "Fault sweep" });
    await user.click(within(sweep).getByRole("button", { name: /^(Sweep|Run|Start)/ }));
    const stations = await within(sweep).findByRole("table", { name: "Station by station" }, { timeout: 8000 });
    expect(within(stations).getAllByRole("row").length).toBeGreaterThanOrEqual(4);
    const sum = within(sweep).getByRole("table", { name: "In sum" });
    expect(within(sum).getAllByRole("row").length).toBeGreaterThanOrEqual(3);
  }, 15_000);
  it("of nothing to break says so", async () => {
    const { user } = open("sweep", {
      file: smallSite((s) => {
        (s.programs[0] as { enabled?: boolean }).enabled = false;
      }),
    });
    const sweep = await screen.findByRole("region", { name: "Fault sweep" });
    await user.click(within(sweep).getByRole("button", { name: /^(Sweep|Run|Start)/ }));
    expect(await within(sweep).findByText(/Nothing that these faults belong on runs/)).toBeInTheDocument();
  });
});

describe("a drill", () => {
  it("tells nothing of what is hidden; each thing asked takes its minutes and is in the notebook", async () => {
    answers(() => ({ people: [], drills: [] }));
    const { user } = open("drill");
    await user.click(await screen.findByRole("button", { name: "Begin a drill" }));
    const notebook = await screen.findByRole("region", { name: "Notebook" });
    await user.click(await screen.findByRole("button", { name: /^Read (?!a gauge)/ }));
    const checks = within(notebook).getByRole("table", { name: "Checks made" });
    expect(within(checks).getAllByRole("row")).toHaveLength(2);
    expect(screen.getByRole("button", { name: "Give this one up, begin another" })).toBeInTheDocument();
  });
  it("cannot begin where nothing runs behind a sensor", async () => {
    answers(() => ({ people: [], drills: [] }));
    const { user } = open("drill", {
      file: smallSite((s) => {
        s.pocs[0]?.devices.pop();
      }),
    });
    await user.click(await screen.findByRole("button", { name: "Begin a drill" }));
    expect(await screen.findByRole("alert")).toHaveTextContent(/Nothing runs behind a flow sensor on this date/);
  });
});
