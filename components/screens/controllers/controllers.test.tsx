import { render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { DataProvider } from "@/components/data/data-provider";
import { handOver } from "@/components/data/handed-over";
import type { Line } from "@/components/data/use-controllers";
import type { ControllersStatus, ControllerStatus, NotedDifference } from "@/contracts/controllers";
import { EventStream } from "@/testing/event-stream";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { AllControllers } from "./all-controllers";
import { ControllersScreen } from "./controllers-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/charts/readings-chart", () => ({ ReadingsChart: () => null }));

const starts: NotedDifference = {
  path: "programs[p].starts",
  what: "program P: starts",
  presa: "22:00",
  sent: "22:00",
  controller: "21:15",
  moved: "controller",
  noted: null,
};
const ctl = (more: Partial<ControllerStatus> = {}): ControllerStatus => ({
  id: "ctl",
  name: "Gate house",
  read: {
    at: new Date().toISOString(),
    number: 3,
    byHandAt: "2026-07-14T05:00:00.000Z",
    clockOffS: 0,
    lockouts: [],
    differences: [starts],
  },
  send: null,
  ...more,
});
const status = (more: Partial<ControllersStatus> = {}): ControllersStatus => ({
  speaks: "orders",
  simulated: true,
  state: "live",
  heardAt: new Date().toISOString(),
  setAside: { count: 0, words: null },
  refused: {},
  readBackAt: "05:00",
  controllers: [ctl()],
  sends: [],
  orders: [],
  ...more,
});
type Sent = { method: string; path: string; body: unknown };
function server(now: ControllersStatus, refuse?: string): Sent[] {
  const sent: Sent[] = [];
  EventStream.install();
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const method = init?.method ?? "GET";
    const answer = (body: unknown, code = 200): Response =>
      new Response(JSON.stringify(body), { status: code, headers: { "content-type": "application/json" } });
    if (method === "GET")
      return answer(
        path.endsWith("/field") ? { broker: null, gateway: null, stream: null, rows: [], open: [], events: [] } : now,
      );
    sent.push({ method, path, body: init?.body ? JSON.parse(String(init.body)) : null });
    return refuse === undefined ? answer({}) : answer({ error: { code: "conflict", message: refuse } }, 409);
  });
  return sent;
}
afterEach(() => {
  vi.unstubAllGlobals();
  window.history.replaceState(null, "", "/sites/site/controllers");
});
const open = (role = "manager", file = smallSite()) => renderOnSite(file, <ControllersScreen />, { role });

describe("send and read back", () => {
  it("shows what differs, who moved, and takes the controller's or leaves it with a note", async () => {
    const sent = server(status());
    const { user } = open();
    const table = await screen.findByRole("table", { name: "Differences at Gate house" });
    expect(within(table).getByRole("row", { name: /program P: starts/ })).toHaveTextContent(
      "22:0022:0021:15changed at the controller",
    );
    expect(screen.getByText(/someone set it at the controller/)).toBeInTheDocument();
    expect(screen.getByText(/opens no real valves/)).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Take the controller's" })).toBeDisabled();
    await user.click(within(table).getByLabelText("program P: starts"));
    await user.click(screen.getByRole("button", { name: "Take the controller's" }));
    expect(sent[0]).toEqual({
      method: "PATCH",
      path: "/api/sites/site/controllers",
      body: { answer: "take", version: 3, controllerId: "ctl", paths: ["programs[p].starts"] },
    });
    await user.click(within(table).getByLabelText("program P: starts"));
    await user.click(screen.getByRole("button", { name: "Leave it, noted…" }));
    const dialog = screen.getByRole("dialog", { name: "Leave it as it is" });
    await user.type(within(dialog).getByLabelText("Why"), "the client wants it");
    await user.tab();
    await user.click(within(dialog).getByRole("button", { name: "Leave it" }));
    expect(sent[1]?.body).toMatchObject({ answer: "leave", words: "the client wants it" });
  });
  it("sends after saying what changes there, and tells what was refused", async () => {
    const sent = server(status({ state: "silent" }), "The site was saved since you looked.");
    const { user } = open();
    await user.click(await screen.findByRole("button", { name: "Send…" }));
    const dialog = screen.getByRole("dialog", { name: "Send to the controllers" });
    expect(dialog).toHaveTextContent("1 item change there");
    expect(dialog).toHaveTextContent(/program P: starts: 21:15 .*22:00/);
    expect(dialog).toHaveTextContent(/silent now: the settings wait/);
    await user.click(within(dialog).getByRole("button", { name: "Send to 1 controller" }));
    expect(sent[0]).toMatchObject({ method: "POST", body: { version: 3, controllerIds: ["ctl"] } });
    expect(await screen.findByText("The site was saved since you looked.")).toBeInTheDocument();
  });
  it("a wrong clock and a lockout at one end are told, and mended by an order", async () => {
    const read = ctl().read as NonNullable<ControllerStatus["read"]>;
    const sent = server(
      status({
        controllers: [ctl({ read: { ...read, clockOffS: 2400, lockouts: ["s1"], differences: [], byHandAt: null } })],
      }),
    );
    const { user } = open();
    expect(await screen.findByText(/Its clock is 40 min ahead/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Set the clock right" }));
    expect(sent[0]).toMatchObject({ path: "/api/sites/site/orders", body: { what: { kind: "clock" } } });
    expect(screen.getByText(/Locked out at the controller, not in Presa: 1 S1/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Free there" }));
    expect(sent[1]?.body).toMatchObject({ what: { kind: "clear", ids: ["s1"] } });
  });
  it("without a gateway says what one is for; one of the first version takes nothing; who only looks changes nothing", async () => {
    server(status({ speaks: "none", state: null, heardAt: null }));
    const first = open();
    expect(await screen.findByText(/No gateway of this site has been heard/)).toBeInTheDocument();
    expect(screen.queryByRole("button", { name: "Send…" })).toBeNull();
    first.unmount();
    server(status({ speaks: "listenOnly" }));
    const second = open();
    expect(await screen.findByText(/tells what it reads and takes nothing/)).toBeInTheDocument();
    second.unmount();
    server(status());
    open("viewer");
    await screen.findByRole("table", { name: "Differences at Gate house" });
    for (const name of ["Send…", "Read back", "Take the controller's"])
      expect(screen.queryByRole("button", { name })).toBeNull();
  });
  it("is asked anew when a controller answers", async () => {
    const now = status();
    server(now);
    open();
    await screen.findByRole("table", { name: "Differences at Gate house" });
    const read = ctl().read as NonNullable<ControllerStatus["read"]>;
    now.controllers = [ctl({ read: { ...read, differences: [], byHandAt: null } })];
    EventStream.last.say({ type: "controllers" });
    expect(await screen.findByText("holds what Presa holds")).toBeInTheDocument();
  });
});

describe("run now", () => {
  it("asks for stations, programs, walks, hoses and off days, each with its end", async () => {
    const sent = server(
      status({
        controllers: [ctl({ read: { ...(ctl().read as NonNullable<ControllerStatus["read"]>), differences: [] } })],
      }),
    );
    const { user } = open();
    await user.click(await screen.findByRole("tab", { name: /Run now/ }));
    await user.click(await screen.findByRole("button", { name: "Run it" }));
    expect(sent[0]?.body).toMatchObject({ what: { kind: "run", runs: [{ stationId: "s1", minutes: 5 }] } });
    await user.click(screen.getByRole("button", { name: "Begin it" }));
    expect(sent[1]?.body).toMatchObject({ what: { kind: "program", programId: "p" } });
    await user.click(screen.getByRole("button", { name: "Walk" }));
    expect(sent[2]?.body).toMatchObject({ what: { kind: "walk", controllerId: "ctl", minutes: 2 } });
    await user.click(screen.getByRole("button", { name: "Open it" }));
    expect(sent[3]?.body).toMatchObject({ what: { kind: "hand", pocId: "poc", minutes: 20 } });
    await user.click(screen.getByRole("button", { name: "Off until then" }));
    expect(sent[4]?.body).toMatchObject({ what: { kind: "off", until: expect.stringMatching(/^\d{4}-\d\d-\d\d$/) } });
    await user.click(screen.getByRole("button", { name: "Skip to the next" }));
    await user.click(screen.getByRole("button", { name: "Stop everything" }));
    expect(sent.slice(5).map((s) => (s.body as { what: { kind: string } }).what.kind)).toEqual(["skip", "stop"]);
    expect(screen.getByText(/nobody in a valve box/)).toBeInTheDocument();
  });
  it("tells what became of it, in the history too", async () => {
    server(
      status({
        orders: [
          {
            id: "o",
            what: { kind: "check", controllerId: "ctl" },
            state: "done",
            reason: null,
            milliamps: { s1: 230, s2: 0 },
            askedByName: "Ada Fennimore",
            askedAt: "2026-07-14T08:00:00.000Z",
            expiresAt: "2026-07-14T08:10:00.000Z",
            answeredAt: "2026-07-14T08:00:02.000Z",
          },
        ],
        sends: [
          {
            id: "s",
            controllerId: "ctl",
            number: 4,
            version: 3,
            state: "partly",
            reason: null,
            items: [
              {
                path: "a",
                what: "program P: days",
                outcome: "refused",
                value: "tue",
                reason: "it does not know this rule of days",
              },
              { path: "b", what: "program P: starts", outcome: "taken", value: "22:00" },
            ],
            askedByName: "Ada Fennimore",
            askedAt: "2026-07-14T08:00:00.000Z",
            sentAt: "2026-07-14T08:00:01.000Z",
            answeredAt: "2026-07-14T08:00:02.000Z",
          },
        ],
      }),
    );
    const { user } = open();
    await user.click(await screen.findByRole("tab", { name: /History/ }));
    const sends = screen.getByRole("table", { name: "Settings sent" });
    expect(sends).toHaveTextContent(/program P: days: refused, it holds tue \(it does not know this rule of days\)/);
    expect(sends).not.toHaveTextContent("taken, 22:00");
    await user.click(within(sends).getByRole("button", { name: "1 taken" }));
    expect(sends).toHaveTextContent("program P: starts: taken, 22:00");
    expect(screen.getByRole("table", { name: "Orders" })).toHaveTextContent("no current at 2");
  });
});

describe("over all sites", () => {
  const line = (name: string, more: Partial<Line> = {}): Line => ({
    siteId: name.toLowerCase(),
    siteName: name,
    version: 3,
    controllerId: "c",
    controllerName: "Shed",
    speaks: "orders",
    state: "live",
    heardAt: new Date().toISOString(),
    readAt: new Date().toISOString(),
    differs: 0,
    byHand: 0,
    clockOffS: 0,
    send: null,
    ...more,
  });
  it("those with a finding come first; ticked ones are sent to after saying what is lost there", async () => {
    const sent: Sent[] = [];
    const lines = [
      line("Alder"),
      line("Birch", { differs: 2, byHand: 1 }),
      line("Cedar", { speaks: "none", state: null }),
    ];
    vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
      const method = init?.method ?? "GET";
      if (method !== "GET") sent.push({ method, path, body: JSON.parse(String(init?.body)) });
      return new Response(
        JSON.stringify(method === "GET" ? { readBackAt: "05:00", lines } : { asked: 1, not: ["Cedar: it is gone"] }),
        { headers: { "content-type": "application/json" } },
      );
    });
    render(
      <DataProvider>
        <AllControllers who="Ada Fennimore, manager" canEdit isManager />
      </DataProvider>,
    );
    const user = userEvent.setup();
    const table = await screen.findByRole("table", { name: "Controllers of all sites" });
    await waitFor(() => expect(within(table).getAllByRole("row")).toHaveLength(4));
    expect(within(table).getAllByRole("row")[1]).toHaveTextContent(
      /Birch.*someone changed 1 setting at the controller/,
    );
    expect(within(table).getByLabelText("Cedar, Shed")).toBeDisabled();
    await user.click(within(table).getByLabelText("Birch, Shed"));
    await user.click(screen.getByRole("button", { name: "Send to 1 ticked…" }));
    const dialog = screen.getByRole("dialog", { name: "Send to many controllers" });
    expect(dialog).toHaveTextContent("1 of them set by someone at the controller and lost by this");
    await user.click(within(dialog).getByRole("button", { name: "Send to 1 site" }));
    expect(sent[0]).toEqual({
      method: "POST",
      path: "/api/controllers",
      body: { sites: [{ siteId: "birch", version: 3, controllerIds: ["c"] }] },
    });
    expect(await screen.findByText("Cedar: it is gone")).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Read back all" }));
    expect(sent[1]).toMatchObject({ path: "/api/controllers/read", body: { siteIds: ["alder", "birch"] } });
  });

  it("has many learn what is stale, at an hour of each site's own; what is in the way of one is told before", async () => {
    const sent: { path: string; body: { sites: object[] } }[] = [];
    const lines = ["Alder", "Birch"].map((name) => line(name, {}));
    vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
      if (init?.method === "POST") sent.push({ path, body: JSON.parse(String(init.body)) });
      let answer: object = { readBackAt: "05:00", lines };
      if (path.endsWith("/ready"))
        answer = [
          { siteId: "alder", stale: 4, all: 9, refused: 2, why: null },
          { siteId: "birch", stale: 0, all: 0, refused: 0, why: "This gateway only tells what it reads." },
        ];
      else if (init?.method === "POST") answer = { asked: 1, not: [] };
      return new Response(JSON.stringify(answer), { headers: { "content-type": "application/json" } });
    });
    // Ticked at Many sites.
    handOver(new Set(["alder", "birch"]));
    render(
      <DataProvider>
        <AllControllers who="Ada Fennimore, technician" canEdit isManager={false} />
      </DataProvider>,
    );
    const user = userEvent.setup();
    for (const name of ["Alder, Shed", "Birch, Shed"])
      await waitFor(() => expect(screen.getByLabelText(name)).toBeChecked());
    await user.click(screen.getByRole("button", { name: "Learn at 2 ticked…" }));
    const dialog = screen.getByRole("dialog", { name: "Learn at many controllers" });
    expect(dialog).toHaveTextContent(/nobody in a valve box/);
    expect(await within(dialog).findByText("This gateway only tells what it reads.")).toBeInTheDocument();
    expect(dialog).toHaveTextContent("2 stale cannot be learned as they stand");
    await user.click(within(dialog).getByRole("button", { name: "Learn 4 stations on 1 site" }));
    expect(await screen.findByText("1 site asked.")).toBeInTheDocument();
    expect(sent.at(-1)).toMatchObject({
      path: "/api/controllers/learn",
      body: { which: "stale", hours: { from: "22:00" }, sites: [{ siteId: "alder", controllerIds: ["c"] }] },
    });
  });
});
