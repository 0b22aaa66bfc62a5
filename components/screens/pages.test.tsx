import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { AlarmList } from "@/contracts/alarms";
import { AlarmsScreen } from "./alarms/alarms-screen";
import { LibraryScreen } from "./library/library-screen";
import { ProfilesScreen } from "./profiles/profiles-screen";
import { refused, server, show } from "@/testing/page-server";
import { SignIn } from "./sign-in/sign-in";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));

beforeEach(() => window.history.replaceState(null, "", "/"));
afterEach(() => vi.unstubAllGlobals());

describe("signing in", () => {
  it("tells what is missing at its field, and what the server says, without losing what was typed", async () => {
    const sent = server(() => refused(401, "signIn", "E-mail or password is wrong."));
    const user = show(<SignIn to="/" />);
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
    more: false,
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
