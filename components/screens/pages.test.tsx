import { render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { DataProvider } from "@/components/data/data-provider";
import type { AlarmList } from "@/contracts/alarms";
import type { RoundsPage, RoundsRow } from "@/contracts/rounds";
import { AlarmsScreen } from "./alarms/alarms-screen";
import { LibraryScreen } from "./library/library-screen";
import { ProfilesScreen } from "./profiles/profiles-screen";
import { Rounds } from "./rounds/rounds";
import { SignIn } from "./sign-in/sign-in";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));

type Sent = { method: string; path: string; body: unknown };
const server = (answer: (sent: Sent) => unknown | Response): Sent[] => {
  const sent: Sent[] = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const text = init?.body ? String(init.body) : null;
    const json = (init?.headers as Record<string, string> | undefined)?.["content-type"] === "application/json";
    const one = {
      method: init?.method ?? "GET",
      path,
      body: text !== null && json && /^[[{]/.test(text) ? JSON.parse(text) : text,
    };
    sent.push(one);
    const found = answer(one);
    return found instanceof Response
      ? found
      : new Response(JSON.stringify(found), { headers: { "content-type": "application/json" } });
  });
  return sent;
};
const refused = (status: number, code: string, message: string): Response =>
  new Response(JSON.stringify({ error: { code, message } }), {
    status,
    headers: { "content-type": "application/json" },
  });
const show = (page: React.ReactNode) => {
  render(<DataProvider>{page}</DataProvider>);
  return userEvent.setup();
};
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
    const sent = server(() => ({ id: "new" }));
    expect(screen.getByText(/No site yet/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "New site" }));
    await user.type(screen.getByLabelText("Name of the site"), "Dell Pond");
    await user.clear(screen.getByLabelText("Time zone"));
    await user.type(screen.getByLabelText("Time zone"), "Middle/Earth");
    await user.click(screen.getByRole("button", { name: "Create and draw its waterworks" }));
    await waitFor(() => expect(screen.getByLabelText("Time zone")).toHaveAttribute("aria-invalid", "true"));
    expect(sent).toEqual([]);
    await user.clear(screen.getByLabelText("Time zone"));
    await user.type(screen.getByLabelText("Time zone"), "Europe/Oslo");
    await user.click(screen.getByRole("button", { name: "Create and draw its waterworks" }));
    await waitFor(() => expect(window.location.pathname).toBe("/sites/new/waterworks"));
    expect(sent[0]?.body).toEqual({ create: { name: "Dell Pond", timeZone: "Europe/Oslo", units: "metric" } });
  });
  it("a site file goes in as it is; what the server refuses is told", async () => {
    const { user } = await showRounds(pageOf([]));
    server(() => refused(400, "badSite", "stations[3].mainlineId: there is no mainline “m9”."));
    const file = new File(['{"format":"presa-site"}'], "yard.json", { type: "application/json" });
    await user.upload(screen.getByLabelText("Site file to import"), file);
    expect(await screen.findByText(/there is no mainline “m9”/)).toBeInTheDocument();
  });
});

describe("signing in", () => {
  it("tells what is missing at its field, and what the server says, without losing what was typed", async () => {
    const sent = server(() => refused(401, "signIn", "E-mail or password is wrong."));
    const user = show(<SignIn />);
    await user.type(screen.getByLabelText("E-mail"), "ada");
    await user.click(screen.getByRole("button", { name: "Sign in" }));
    expect(await screen.findByText(/Write the whole address/)).toBeInTheDocument();
    expect(screen.getByText("The password is needed.")).toBeInTheDocument();
    expect(sent).toEqual([]);
    await user.type(screen.getByLabelText("E-mail"), "@presa.example");
    await user.type(screen.getByLabelText("Password"), "no");
    await user.click(screen.getByRole("button", { name: "Sign in" }));
    expect(await screen.findByText("E-mail or password is wrong.")).toBeInTheDocument();
    expect(screen.getByLabelText("E-mail")).toHaveValue("ada@presa.example");
    expect(screen.getByRole("button", { name: "Sign in" })).toBeEnabled();
  });
});

describe("the library", () => {
  const kept = {
    id: "k1",
    name: "House meter 50",
    note: "yard stock",
    keptBy: "Ada Fennimore",
    keptAt: "2026-07-01T08:00:00.000Z",
    body: { kind: "meter", continuousMaxLpm: 500 },
  };
  it("lists the organisation's own and the generic ones, found together; one is taken out", async () => {
    const sent = server(({ method }) => ({ items: method === "DELETE" ? [] : [kept] }));
    const user = show(<LibraryScreen canEdit who="Ada Fennimore, manager" />);
    const own = await screen.findByRole("table", { name: "Your organisation's devices" });
    expect(own).toHaveTextContent("House meter 50");
    await user.type(screen.getByLabelText("Find a device"), "house");
    expect(within(screen.getByRole("table", { name: "Generic devices" })).getAllByRole("row")).toHaveLength(1);
    await user.click(within(own).getByRole("button", { name: "Take House meter 50 out of the library" }));
    expect(await screen.findByText(/Nothing kept yet/)).toBeInTheDocument();
    expect(sent.at(-1)).toMatchObject({ method: "DELETE", path: "/api/library/k1" });
  });
  it("rows of a CSV that are refused are told by line; the others are there", async () => {
    server(({ method }) =>
      method === "POST"
        ? { items: [kept], kept: 1, refused: [{ line: 3, problem: "There is no kind “valve”." }], others: [] }
        : { items: [] },
    );
    const user = show(<LibraryScreen canEdit who="Ada Fennimore, manager" />);
    await user.upload(screen.getByLabelText(/^Import CSV/), new File(["name,kind"], "lib.csv", { type: "text/csv" }));
    expect(await screen.findByText(/line 3: There is no kind “valve”/)).toBeInTheDocument();
    expect(screen.getByRole("table", { name: "Your organisation's devices" })).toHaveTextContent("House meter 50");
  });
  it("a CSV replaces no sheet unasked: which would be is said, and one press takes them", async () => {
    const sent = server(({ method, path }) =>
      method === "POST"
        ? { items: [kept], kept: 1, refused: [], others: path.endsWith("replace=1") ? [] : ["House meter 50"] }
        : { items: [kept] },
    );
    const user = show(<LibraryScreen canEdit who="Ada Fennimore, manager" />);
    await user.upload(screen.getByLabelText(/^Import CSV/), new File(["name,kind"], "lib.csv", { type: "text/csv" }));
    const report = await screen.findByRole("status");
    expect(report).toHaveTextContent("Left as they are, with another sheet in the file: House meter 50.");
    await user.click(within(report).getByRole("button", { name: "Take the file's sheet" }));
    await waitFor(() => expect(screen.getByRole("status")).toHaveTextContent("1 device kept."));
    expect(sent.at(-1)).toMatchObject({ path: "/api/library/csv?replace=1", body: "name,kind" });
  });
  it("is not changed by who only looks, and says when it cannot be read", async () => {
    server(() => refused(500, "oops", "The library could not be read."));
    show(<LibraryScreen canEdit={false} who="Olav Brekke, viewer" />);
    expect(await screen.findByRole("alert", undefined, { timeout: 5000 })).toHaveTextContent("could not be read");
    expect(screen.queryByLabelText(/^Import CSV/)).toBeNull();
  });
});

describe("kinds of controller", () => {
  it("one is begun from an invented kind, named, and kept with what it can take", async () => {
    const sent = server(({ method, body }) => ({
      items: method === "POST" ? [{ ...(body as { profile: object }).profile, id: "p1" }] : [],
    }));
    const user = show(<ProfilesScreen canEdit who="Ada Fennimore, manager" />);
    const keep = screen.getByRole("button", { name: "Keep this kind" });
    expect(keep).toBeDisabled();
    await user.click(screen.getByRole("button", { name: "Begin from Plain wall clock" }));
    await user.type(screen.getByLabelText("Its name among you"), "Pump house clock{Tab}");
    await user.click(screen.getByLabelText("cycle and soak"));
    await user.click(keep);
    await waitFor(() =>
      expect(screen.getByRole("table", { name: "Kinds of controller" })).toHaveTextContent("Pump house clock"),
    );
    expect(sent.at(-1)).toMatchObject({
      path: "/api/profiles",
      body: { profile: { name: "Pump house clock", atOnce: 1, cycleAndSoak: true }, seen: null },
    });
    expect(keep).toBeDisabled();
  });
});

describe("ranges of a kind of controller", () => {
  it("are asked for where it takes flow limits; one that ends before it begins is not kept", async () => {
    const sent = server(({ method, body }) => ({
      items: method === "POST" ? [{ ...(body as { profile: object }).profile, id: "p1" }] : [],
    }));
    const user = show(<ProfilesScreen canEdit who="Ada Fennimore, manager" />);
    await user.click(screen.getByRole("button", { name: "Begin from Plain wall clock" }));
    expect(screen.queryByLabelText(/^Limits from/)).toBeNull();
    await user.click(screen.getByLabelText("flow limits"));
    await user.type(screen.getByLabelText("Its name among you"), "Gate clock{Tab}");
    await user.type(screen.getByLabelText(/^Limits from/), "60{Tab}");
    await user.type(screen.getByLabelText(/^Limits to/), "20{Tab}");
    expect(screen.getByText(/Limits ends before it begins/)).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Keep this kind" })).toBeDisabled();
    await user.clear(screen.getByLabelText(/^Limits to/));
    await user.type(screen.getByLabelText(/^Limits to/), "200{Tab}");
    await user.click(screen.getByLabelText("by half-month"));
    await user.click(screen.getByRole("button", { name: "Keep this kind" }));
    const table = screen.getByRole("table", { name: "Kinds of controller" });
    await waitFor(() => expect(table).toHaveTextContent("60 to 200 %"));
    expect(sent.at(-1)?.body).toMatchObject({
      profile: { limitFromPercent: 60, limitToPercent: 200, halfMonth: true },
    });
  });
});

describe("alarms of all sites", () => {
  const list: AlarmList = {
    alarms: [
      {
        id: "a1",
        siteId: "alder",
        siteName: "Alder Walk",
        at: "2026-07-14T21:40:00.000Z",
        kind: "burst",
        subjectId: "poc",
        measuredLpm: 420,
        expectedLpm: 200,
        message: "Burst limit passed at North gate.",
        locked: ["poc"],
        state: "open",
        cause: null,
        assignedTo: null,
        assignedToName: null,
        acknowledgedAt: null,
        acknowledgedByName: null,
        clearedAt: null,
        clearedByName: null,
        rehearsed: false,
        nightLostL: null,
        nightUnwateredMin: null,
        departedFrom: null,
        departedMin: null,
        departedL: null,
        siteUnits: "us",
        siteZone: "America/Denver",
      },
    ],
    entries: [],
    found: 1,
    pageSize: 50,
    people: [
      { id: "u1", name: "Ada Fennimore" },
      { id: "u2", name: "Odd Brennmoen" },
    ],
  };
  it("are asked for as filtered, each told by its own site's clock and units", async () => {
    const sent = server(({ path }) => (path.endsWith("/sites") ? { sites: [] } : list));
    const user = show(<AlarmsScreen canEdit userId="u1" who="Ada Fennimore, manager" />);
    const card = await screen.findByRole("article");
    expect(within(card).getByRole("link", { name: "Alder Walk" })).toHaveAttribute(
      "href",
      "/sites/alder/log?view=alarms&at=a1",
    );
    // 21:40 in UTC is 15:40 in Denver.
    expect(card).toHaveTextContent("15:40");
    expect(card).toHaveTextContent("111 gal/min");
    await user.selectOptions(screen.getAllByLabelText("For")[0] as HTMLElement, "me");
    await user.selectOptions(screen.getByLabelText("Kind"), "burst");
    await waitFor(() => expect(sent.at(-1)?.path).toMatch(/state=open&kind=burst&assigned=u1/));
    expect(window.location.search).toBe("?for=u1&kind=burst");
  });
  it("that have one cause are ticked and cleared together; what was not is told", async () => {
    const sent = server(({ method, path }) => {
      if (path.endsWith("/sites")) return { sites: [{ id: "alder", name: "Alder Walk" }] };
      if (method !== "POST") return path.startsWith("/api/views") ? { items: [] } : list;
      return { asked: 0, not: ["This alarm was cleared by Odd already."] };
    });
    const user = show(<AlarmsScreen canEdit userId="u1" who="Ada Fennimore, manager" />);
    await user.click(await screen.findByRole("checkbox", { name: /Tick this alarm of Alder Walk/ }));
    const together = screen.getByRole("form", { name: "Clear together" });
    await user.type(within(together).getByLabelText("Their cause, as found"), "frozen main");
    await user.click(within(together).getByRole("button", { name: "Clear 1" }));
    expect(await within(together).findByText(/cleared by Odd already/)).toBeInTheDocument();
    expect(sent.find((s) => s.method === "POST")?.body).toEqual({
      alarms: [{ siteId: "alder", alarmId: "a1" }],
      cause: "frozen main",
      repaired: false,
    });
  });
  it("of which there are none says so", async () => {
    server(() => ({ ...list, alarms: [], found: 0 }));
    show(<AlarmsScreen canEdit={false} userId="u1" who="Olav Brekke, viewer" />);
    expect(await screen.findByText("None like this.")).toBeInTheDocument();
  });
});
