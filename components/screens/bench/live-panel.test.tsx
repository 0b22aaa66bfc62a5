import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { FieldStatus } from "@/contracts/field";
import { EventStream } from "@/testing/event-stream";
import { savedFiles } from "@/testing/saved-files";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { LivePanel } from "./live-panel";

vi.mock("@/components/charts/readings-chart", () => ({ ReadingsChart: () => null }));

const status = (more: Partial<FieldStatus> = {}): FieldStatus => ({
  broker: "mqtt://broker.example",
  gateway: {
    account: "g-0123456789abcdef",
    state: "live",
    heardAt: "2026-07-14T20:05:00.000Z",
    says: { simulated: true, pace: 30, faults: [] } as unknown as NonNullable<FieldStatus["gateway"]>["says"],
  },
  stream: { readings: 4210, events: 12, repeats: 3, lost: 0, refused: 0, lastAt: "2026-07-14T20:05:00.000Z" },
  rows: [],
  open: ["s1"],
  events: [{ at: "2026-07-14T20:00:00.000Z", type: "open", subjectId: "s1", reason: "" }],
  ...more,
});
type Sent = { method: string; path: string; body: unknown };
const KEY = { broker: "mqtt://broker.example", account: "g-new", password: "told once" };
function server(first: FieldStatus, refuse?: string): Sent[] & { now?: FieldStatus } {
  const sent: Sent[] & { now?: FieldStatus } = [];
  sent.now = first;
  EventStream.install();
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const method = init?.method ?? "GET";
    const answer = (body: unknown, code = 200): Response =>
      new Response(JSON.stringify(body), { status: code, headers: { "content-type": "application/json" } });
    if (method !== "GET") {
      sent.push({ method, path, body: init?.body ? JSON.parse(String(init.body)) : null });
      return refuse === undefined ? answer(KEY) : answer({ error: { code: "refused", message: refuse } }, 400);
    }
    return answer(sent.now);
  });
  return sent;
}
const reading = (flow: number, more: object = {}) => ({
  type: "reading",
  at: "2026-07-14T20:05:01.000Z",
  flow: { fs: flow },
  pressure: {},
  open: ["s1"],
  running: 1,
  valves: ["mv"],
  pumps: [],
  lost: 0,
  repeats: 3,
  readings: 4211,
  ...more,
});
afterEach(() => vi.unstubAllGlobals());
const open = (role = "manager", file = smallSite()) => renderOnSite(file, <LivePanel />, { role });

describe("a site read live", () => {
  it("without a gateway says what one is; a manager sets one up and is told its password once", async () => {
    const sent = server(status({ gateway: null, stream: null, open: [], events: [] }));
    const { user } = open();
    expect(await screen.findByText(/No gateway reads this site/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Set up a gateway" }));
    expect(await screen.findByText("told once")).toBeInTheDocument();
    expect(screen.getByText("presa/1/g-new/…")).toBeInTheDocument();
    expect(sent[0]).toEqual({ method: "POST", path: "/api/sites/site/field", body: {} });
    const saved = savedFiles();
    await user.click(screen.getByRole("button", { name: "Save as a file" }));
    expect(JSON.parse((await saved[0]?.text) ?? "")).toEqual(KEY);
    await user.click(screen.getByRole("button", { name: "Close" }));
    expect(screen.queryByText("told once")).toBeNull();
  });
  it("where the installation has no broker says so, and sets nothing up", async () => {
    server(status({ broker: null, gateway: null, stream: null, open: [], events: [] }));
    open();
    expect(await screen.findByText(/no broker for gateways/)).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Set up a gateway" })).toBeDisabled();
  });
  it("gets a new account after a question, and no second one by a slip", async () => {
    const sent = server(status());
    const { user } = open();
    await user.click(await screen.findByRole("button", { name: "New account…" }));
    expect(sent).toHaveLength(0);
    await user.click(screen.getByRole("button", { name: "Make a new account" }));
    expect(await screen.findByText("told once")).toBeInTheDocument();
    expect(sent).toHaveLength(1);
  });
  it("tells what flows against what should, second by second, and where it trips", async () => {
    server(status());
    open();
    const gateway = await screen.findByLabelText("Gateway");
    EventStream.last.say(reading(98));
    await waitFor(() => expect(gateway).toHaveTextContent("98 L/min"));
    expect(gateway).toHaveTextContent("live");
    expect(gateway).toHaveTextContent(/tripsabove 120 L\/min, below 75 L\/min/);
    EventStream.last.say(reading(140));
    await waitFor(() => expect(gateway).toHaveTextContent("140 L/min over"));
    expect(screen.getByText(/readings and 12 events kept/)).toHaveTextContent("3 came twice and were dropped, 0 lost");
    expect(screen.getByRole("table", { name: "Open now" })).toHaveTextContent("1 S1100 L/min");
  });
  it("a gateway that cannot be reached says so in words and shape", async () => {
    server(status({ gateway: { ...(status().gateway as NonNullable<FieldStatus["gateway"]>), state: "unreachable" } }));
    open();
    expect(await screen.findByText(/broker that gateways speak through cannot be reached/)).toBeInTheDocument();
    expect(screen.getByLabelText("Gateway")).toHaveTextContent("not reachable");
  });
  it("a simulated site is played from an hour on, with a fault; what is refused is told", async () => {
    const sent = server(status());
    const { user } = open();
    const play = await screen.findByRole("group", { name: "Play the simulated site" });
    await user.click(within(play).getByRole("button", { name: "fault" }));
    await user.click(within(play).getByRole("button", { name: "Go on where it is, with these faults" }));
    expect(await within(play).findByText("The faults are on it.")).toBeInTheDocument();
    expect(sent[0]).toMatchObject({
      path: "/api/sites/site/field/play",
      body: { pace: 30, faults: [{ kind: "brokenLateral" }] },
    });
    await user.click(within(play).getByRole("button", { name: "Play from there" }));
    // The evening before at 20:00 in Vienna is 18:00 in UTC.
    await waitFor(() => expect(sent[1]?.body).toMatchObject({ from: "2026-07-13T18:00:00.000Z" }));
    server(status(), "The gateway does not play.");
    await user.click(within(play).getByRole("button", { name: "Play from there" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("The gateway does not play.");
  });
  it("is listened to no more when one says so, and the stream is closed with the page", async () => {
    const sent = server(status());
    const { user, unmount } = open();
    await user.click(await screen.findByRole("button", { name: "Stop listening…" }));
    await user.click(screen.getByRole("button", { name: "Stop listening" }));
    await waitFor(() => expect(sent[0]).toMatchObject({ method: "DELETE", path: "/api/sites/site/field" }));
    const stream = EventStream.last;
    unmount();
    expect(stream.closed).toBe(true);
  });
  it("is watched, not played, by who only looks", async () => {
    server(status());
    open("viewer");
    await screen.findByLabelText("Gateway");
    expect(screen.queryByRole("group", { name: "Play the simulated site" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Stop listening…" })).toBeNull();
  });
});
