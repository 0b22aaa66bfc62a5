import { screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { RoundsPage, RoundsRow } from "@/contracts/rounds";
import { EventStream } from "@/testing/event-stream";
import { refused, server, show } from "@/testing/page-server";
import { Rounds } from "./rounds";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));

beforeEach(() => window.history.replaceState(null, "", "/"));
afterEach(() => vi.unstubAllGlobals());

const NIGHT = {
  date: "2026-07-14",
  finish: "2026-07-15T03:40:00+02:00",
  makespanS: 20_400,
  ratio: 1.1,
  shortfallMin: 0,
  watched: 0.82,
  findings: { errors: 0, warnings: 1, notes: 2 },
  binding: { elementId: "m", name: "North main", ceilingLpm: 220, rule: "velocity", deviceId: null, peakLpm: 210 },
  sketch: "100 100 0",
  litres: 41_000,
};
const row = (name: string, more: Partial<RoundsRow> = {}): RoundsRow => ({
  id: name.toLowerCase(),
  name,
  client: null,
  area: null,
  crew: null,
  stations: 12,
  controllers: 1,
  units: "metric",
  hold: null,
  localDate: "2026-07-14",
  openAlarms: 0,
  lockedOut: 0,
  oldestLearned: "2026-03-02",
  unlearned: 0,
  ofBudget: null,
  version: 3,
  old: false,
  why: [],
  nights: [],
  summary: NIGHT,
  ...more,
});
const CHOICES = [{ kind: "client", value: "client Fenner Care", name: "Fenner Care" }];
const pageOf = (rows: RoundsRow[], more: Partial<RoundsPage> = {}): RoundsPage => ({
  rows,
  found: rows.length,
  all: rows.length,
  openAlarms: rows.reduce((sum, r) => sum + r.openAlarms, 0),
  pageSize: 50,
  ...more,
});
const showRounds = async (page: RoundsPage, role = "manager", asked = "") => {
  window.history.replaceState(null, "", `/${asked}`);
  const sent = server(({ path }) => {
    if (path.endsWith("/choices")) return { choices: CHOICES };
    return path.startsWith("/api/rounds") ? page : { items: [] };
  });
  const user = show(<Rounds user={{ name: "Ada Fennimore", role }} />);
  await waitFor(() => expect(screen.queryByText("Reading the sites…")).toBeNull());
  return { user, sent };
};

describe("rounds", () => {
  const rows = [
    row("Alder Walk", { openAlarms: 2, why: ["2 open alarms", "station 4 locked out"] }),
    row("Brine House", { hold: "2026-08-01", summary: { ...NIGHT, shortfallMin: 14.4 } }),
    row("Cobble Yard", { units: "us", oldestLearned: null, unlearned: 12 }),
  ];
  const names = (): (string | null)[] =>
    screen.getAllByRole("link").flatMap((l) => (l.getAttribute("href")?.endsWith("/night") ? [l.textContent] : []));
  it("comes with the page, and is asked for once more when it listens: what was told before nobody heard", async () => {
    EventStream.install();
    const asked: string[] = [];
    server(({ path }) => {
      if (path.endsWith("/choices")) return { choices: CHOICES };
      if (path.startsWith("/api/rounds?")) asked.push(path);
      return path.startsWith("/api/rounds") ? pageOf([row("Dell Green")]) : { items: [] };
    });
    const first = { asked: "", text: JSON.stringify(pageOf(rows)), at: Date.now() };
    show(<Rounds user={{ name: "Ada Fennimore", role: "manager" }} first={first} />);
    expect(await screen.findByRole("link", { name: "Alder Walk" })).toBeInTheDocument();
    expect(asked).toEqual([]);
    for (const stream of EventStream.opened.filter((o) => o.url === "/api/rounds/live"))
      stream.say({ type: "now", sites: [] });
    expect(await screen.findByRole("link", { name: "Dell Green" }, { timeout: 4000 })).toBeInTheDocument();
    expect(asked).toHaveLength(1);
  });
  it("a night that is being worked out anew says that its figures are of before", async () => {
    await showRounds(pageOf([row("Larch", { old: true }), row("Elm"), row("New", { old: true, summary: null })]));
    expect(screen.getByText(/first night is being worked out/).closest("tr")).toHaveTextContent("New");
    expect(screen.getAllByText(/being worked out anew/)).toHaveLength(1);
    expect(screen.getByText(/being worked out anew/).closest("tr")).toHaveTextContent("Larch");
  });
  it("say why somebody is needed, when the night ends as that site writes it, and what binds", async () => {
    await showRounds(pageOf(rows));
    expect(names()).toEqual(["Alder Walk", "Brine House", "Cobble Yard"]);
    const [all, own] = screen.getAllByRole("link", { name: "2 open alarms" });
    expect(all).toHaveAttribute("href", "/alarms");
    expect(own).toHaveAttribute("href", "/sites/alder walk/log?view=alarms");
    const [, alder, brine, cobble] = screen.getAllByRole("row");
    expect(alder).toHaveTextContent("220 L/min");
    expect(brine).toHaveTextContent("14");
    expect(cobble).toHaveTextContent("58.1 gal/min");
    expect(cobble).toHaveTextContent("never12 not learned");
  });
  it("ask the server for what is found, narrowed and sorted, and begin anew on the first page", async () => {
    const { user, sent } = await showRounds(pageOf(rows, { found: 160, all: 500 }), "manager", "?page=2");
    expect(screen.getByText(/160 of 500 sites/)).toBeInTheDocument();
    expect(screen.getByText("51 to 100 of 160")).toBeInTheDocument();
    await user.type(screen.getByLabelText("Find a site"), "yard");
    await waitFor(() => expect(window.location.search).toBe("?find=yard"));
    await user.selectOptions(await screen.findByLabelText("Of"), "Fenner Care");
    await user.selectOptions(screen.getByLabelText("Show"), "short tonight");
    await user.click(screen.getByRole("button", { name: "Ends" }));
    expect(Object.fromEntries(new URLSearchParams(window.location.search))).toEqual({
      find: "yard",
      within: "client Fenner Care",
      only: "short",
      sort: "ends",
    });
    await waitFor(() => expect(sent.at(-1)?.path).toBe(`/api/rounds?${new URLSearchParams(window.location.search)}`));
    await user.click(screen.getByRole("button", { name: "Next" }));
    expect(window.location.search).toContain("page=2");
  });
  it("show the columns that are chosen, and are sorted the other way round by a second press", async () => {
    const { user } = await showRounds(pageOf(rows), "manager", "?sort=name");
    expect(screen.getByRole("columnheader", { name: "Site" })).toHaveAttribute("aria-sort", "ascending");
    await user.click(screen.getByRole("button", { name: "Site" }));
    expect(window.location.search).toBe("?sort=name&turned=1");
    await user.click(screen.getByRole("button", { name: "Columns" }));
    await user.click(screen.getByRole("checkbox", { name: "Tonight" }));
    await user.click(screen.getByRole("checkbox", { name: "Client" }));
    expect(new URLSearchParams(window.location.search).get("cols")).toBe("now,ends,short,binds,watched,learned,client");
    expect(screen.getByRole("columnheader", { name: "Client" })).toBeInTheDocument();
    expect(screen.queryByRole("columnheader", { name: "Tonight" })).toBeNull();
  });
  it("nothing found says what to do", async () => {
    await showRounds(pageOf([], { all: 3 }));
    expect(screen.getByText(/No site matches/)).toBeInTheDocument();
  });
  it("are kept as a view under a name, and looked at again", async () => {
    window.history.replaceState(null, "", "/?only=short&page=2");
    const sent = server(({ method, path, body }) => {
      if (path.startsWith("/api/rounds")) return path.endsWith("/choices") ? { choices: CHOICES } : pageOf(rows);
      return { items: method === "POST" ? [{ id: "v1", ...(body as object) }] : [] };
    });
    const user = show(<Rounds user={{ name: "Ada", role: "viewer" }} />);
    await user.click(screen.getByRole("button", { name: "Views" }));
    await user.type(screen.getByLabelText("Name of what is shown"), "Short ones");
    await user.click(screen.getByRole("button", { name: "Keep" }));
    expect(await screen.findByRole("link", { name: "Short ones" })).toHaveAttribute("href", "/?only=short");
    expect(sent.findLast((x) => x.method === "POST")?.body).toEqual({
      screen: "rounds",
      name: "Short ones",
      query: "only=short",
    });
    expect(screen.getByRole("button", { name: "Views, now Short ones" })).toBeInTheDocument();
  });
  it("j goes into the rows, Enter opens the site; a viewer makes no site", async () => {
    const { user } = await showRounds(pageOf(rows), "viewer");
    expect(screen.queryByRole("button", { name: "New site" })).toBeNull();
    await user.keyboard("j{Enter}");
    expect(window.location.pathname).toBe("/sites/alder%20walk/night");
  });
  it("a site is made from a name and a zone; a wrong zone is told at its field", async () => {
    const { user } = await showRounds(pageOf([]));
    const sent = server(({ method, path }) => {
      if (path.endsWith("/settings")) return { name: "Us", timeZone: null, units: "metric", school: "watchful" };
      return method === "POST" ? { id: "new" } : { sites: [] };
    });
    expect(screen.getByText(/No site yet/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "New site" }));
    await user.type(screen.getByLabelText("Name of the site"), "Dell Pond");
    await user.clear(screen.getByLabelText("Time zone"));
    await user.type(screen.getByLabelText("Time zone"), "Middle/Earth");
    await user.click(screen.getByRole("button", { name: "Create and draw its waterworks" }));
    await waitFor(() => expect(screen.getByLabelText("Time zone")).toHaveAttribute("aria-invalid", "true"));
    expect(sent.filter((s) => s.method === "POST")).toEqual([]);
    await user.clear(screen.getByLabelText("Time zone"));
    await user.type(screen.getByLabelText("Time zone"), "Europe/Oslo");
    await user.click(screen.getByRole("button", { name: "Create and draw its waterworks" }));
    await waitFor(() => expect(window.location.pathname).toBe("/sites/new/waterworks"));
    expect(sent.find((s) => s.method === "POST")?.body).toEqual({
      create: { name: "Dell Pond", timeZone: "Europe/Oslo", units: "metric" },
    });
  });
  it("a site is begun from another as a pattern", async () => {
    const { user } = await showRounds(pageOf([]));
    const sent = server(({ method, path }) => {
      if (path.endsWith("/settings")) return { name: "Us", timeZone: "Europe/Oslo", units: "us", school: "watchful" };
      return method === "POST" ? { id: "new" } : { sites: [{ id: "s1", name: "Dell Pond" }] };
    });
    await user.click(screen.getByRole("button", { name: "New site" }));
    // What the organisation's sites begin with stands there already.
    await waitFor(() => expect(screen.getByLabelText("Time zone")).toHaveValue("Europe/Oslo"));
    await user.type(screen.getByLabelText("Name of the site"), "Dell Brook");
    await user.selectOptions(await screen.findByLabelText("Begun from"), await screen.findByText("Dell Pond"));
    expect(screen.queryByLabelText("Units shown")).toBeNull();
    await user.click(screen.getByRole("button", { name: "Create from this pattern" }));
    await waitFor(() => expect(window.location.pathname).toBe("/sites/new/waterworks"));
    expect(sent.find((s) => s.method === "POST")?.body).toEqual({
      pattern: { name: "Dell Brook", timeZone: "Europe/Oslo", from: "s1" },
    });
  });
  it("a site file goes in as it is; what the server refuses is told", async () => {
    const { user } = await showRounds(pageOf([]));
    server(() => refused(400, "badSite", "stations[3].mainlineId: there is no mainline “m9”."));
    const file = new File(['{"format":"presa-site"}'], "yard.json", { type: "application/json" });
    await user.upload(screen.getByLabelText("Site file to import"), file);
    expect(await screen.findByText(/there is no mainline “m9”/)).toBeInTheDocument();
  });
  it("by position: each site where it is, the list's search with it; who has no position is counted", async () => {
    vi.spyOn(HTMLElement.prototype, "offsetWidth", "get").mockReturnValue(900);
    vi.spyOn(HTMLElement.prototype, "offsetHeight", "get").mockReturnValue(500);
    window.history.replaceState(null, "", "/?view=places&find=al");
    const place = {
      id: "alder",
      name: "Alder Walk",
      latitudeDeg: 40,
      longitudeDeg: -118,
      needs: true,
      why: "2 open alarms",
    };
    const sent = server(({ path }) => {
      if (path.startsWith("/api/rounds/places")) return { places: [place], without: 3 };
      if (path.endsWith("/choices")) return { choices: CHOICES };
      return path.startsWith("/api/rounds") ? pageOf(rows) : { items: [] };
    });
    const user = show(<Rounds user={{ name: "Ada Fennimore", role: "manager" }} />);
    expect(await screen.findByLabelText("Alder Walk: 2 open alarms")).toBeInTheDocument();
    expect(sent.map((s) => s.path)).toContain("/api/rounds/places?find=al");
    expect(screen.getByText(/3 have no position/)).toBeInTheDocument();
    expect(screen.queryByRole("table")).toBeNull();
    await user.click(screen.getByRole("tab", { name: "List" }));
    expect(window.location.search).toBe("?find=al");
  });
});
