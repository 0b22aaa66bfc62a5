import { act, screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import type { FieldStatus } from "@/contracts/field";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { LivePanel } from "./live-panel";

vi.mock("@/components/charts/readings-chart", () => ({ ReadingsChart: () => null }));

const status = (more: Partial<FieldStatus> = {}): FieldStatus => ({
  version: 3,
  gateway: {
    url: "mqtt://127.0.0.1:18830",
    topic: "small",
    state: "live",
    heardAt: "2026-07-14T20:05:00.000Z",
    says: { simulated: true, pace: 30, faults: [] } as unknown as NonNullable<FieldStatus["gateway"]>["says"],
  },
  stream: { readings: 4210, events: 12, repeats: 3, lost: 0, lastAt: "2026-07-14T20:05:00.000Z" },
  rows: [],
  open: ["s1"],
  events: [{ at: "2026-07-14T20:00:00.000Z", type: "open", subjectId: "s1", reason: "" }],
  ...more,
});
/** A live stream on which the test speaks. */
class Stream {
  static last: Stream | null = null;
  onmessage: ((event: { data: string }) => void) | null = null;
  closed = false;
  constructor(readonly url: string) {
    Stream.last = this;
  }
  close(): void {
    this.closed = true;
  }
  say(news: object): void {
    act(() => this.onmessage?.({ data: JSON.stringify(news) }));
  }
}
type Sent = { method: string; path: string; body: unknown };
function server(first: FieldStatus, file: SiteFile, refuse?: string): Sent[] & { now?: FieldStatus } {
  const sent: Sent[] & { now?: FieldStatus } = [];
  sent.now = first;
  vi.stubGlobal("EventSource", Stream);
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const method = init?.method ?? "GET";
    const answer = (body: unknown, code = 200): Response =>
      new Response(JSON.stringify(body), { status: code, headers: { "content-type": "application/json" } });
    if (method !== "GET") {
      sent.push({ method, path, body: init?.body ? JSON.parse(String(init.body)) : null });
      return refuse === undefined ? answer({}) : answer({ error: { code: "refused", message: refuse } }, 400);
    }
    return answer(path.endsWith("/file") ? file : sent.now);
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
afterEach(() => {
  vi.unstubAllGlobals();
  Stream.last = null;
});
const open = (role = "manager", file = smallSite()) => renderOnSite(file, <LivePanel />, { role });

describe("a site read live", () => {
  it("without a gateway says what one is; a manager names its address", async () => {
    const sent = server(status({ gateway: null, stream: null, open: [], events: [] }), smallSite());
    const { user } = open();
    expect(await screen.findByText(/No gateway reads this site/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Listen to it" }));
    await waitFor(() =>
      expect(sent[0]).toEqual({
        method: "POST",
        path: "/api/sites/site/field",
        body: { url: "mqtt://127.0.0.1:18830", topic: "small" },
      }),
    );
  });
  it("tells what flows against what should, second by second, and where it trips", async () => {
    server(status(), smallSite());
    open();
    const gateway = await screen.findByLabelText("Gateway");
    Stream.last?.say(reading(98));
    await waitFor(() => expect(gateway).toHaveTextContent("98 L/min"));
    expect(gateway).toHaveTextContent("live");
    expect(gateway).toHaveTextContent(/tripsabove 120 L\/min, below 75 L\/min/);
    Stream.last?.say(reading(140));
    await waitFor(() => expect(gateway).toHaveTextContent("140 L/min over"));
    expect(screen.getByText(/readings and 12 events kept/)).toHaveTextContent("3 came twice and were dropped, 0 lost");
    expect(screen.getByRole("table", { name: "Open now" })).toHaveTextContent("1 S1100 L/min");
  });
  it("a gateway that cannot be reached says so in words and shape", async () => {
    server(
      status({ gateway: { ...(status().gateway as NonNullable<FieldStatus["gateway"]>), state: "unreachable" } }),
      smallSite(),
    );
    open();
    expect(await screen.findByText(/Nothing answers at mqtt:\/\/127\.0\.0\.1:18830/)).toBeInTheDocument();
    expect(screen.getByLabelText("Gateway")).toHaveTextContent("not reachable");
  });
  it("what it locked out comes into the configuration, unless somebody is changing it", async () => {
    const locked = smallSite((s) => {
      Object.assign(s.stations[0] as object, { lockedOut: true });
    });
    server(status({ version: 4 }), locked);
    const { now, draft, unmount } = open();
    await waitFor(() => expect(now().stations[0]?.lockedOut).toBe(true));
    expect(draft.store.getState().version).toBe(4);
    unmount();
    const sent = server(status(), locked);
    const second = open();
    await screen.findByLabelText("Gateway");
    second.draft.edit((f) => ({ ...f, site: { ...f.site, notes: "mine" } }));
    sent.now = status({ version: 4 });
    Stream.last?.say(reading(98));
    await waitFor(() => expect(screen.getByLabelText("Gateway")).toHaveTextContent("98 L/min"));
    expect(second.now().stations[0]?.lockedOut).toBeUndefined();
    expect(second.now().site.notes).toBe("mine");
  });
  it("a simulated site is played from an hour on, with a fault; what is refused is told", async () => {
    const sent = server(status(), smallSite());
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
    server(status(), smallSite(), "The gateway does not play.");
    await user.click(within(play).getByRole("button", { name: "Play from there" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("The gateway does not play.");
  });
  it("is listened to no more when one says so, and the stream is closed with the page", async () => {
    const sent = server(status(), smallSite());
    const { user, unmount } = open();
    await user.click(await screen.findByRole("button", { name: "Stop listening" }));
    await waitFor(() => expect(sent[0]).toMatchObject({ method: "DELETE", path: "/api/sites/site/field" }));
    unmount();
    expect(Stream.last?.closed).toBe(true);
  });
  it("is watched, not played, by who only looks", async () => {
    server(status(), smallSite());
    open("viewer");
    await screen.findByLabelText("Gateway");
    expect(screen.queryByRole("group", { name: "Play the simulated site" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Stop listening" })).toBeNull();
  });
});
