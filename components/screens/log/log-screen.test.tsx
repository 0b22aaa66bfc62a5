import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Alarm, AlarmEntry } from "@/contracts/alarms";
import type { LogBook, RevisionHead } from "@/contracts/log";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { LogScreen } from "./log-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));

const alarm = (more: Partial<Alarm> = {}): Alarm => ({
  id: "a1",
  siteId: "site",
  siteName: "Small",
  at: "2026-07-14T21:40:00.000Z",
  kind: "stationHigh",
  subjectId: "s2",
  measuredLpm: 168,
  expectedLpm: 100,
  message: "High flow at station 2 S2: 168 L/min read, 100 L/min expected.",
  locked: ["s2"],
  state: "open",
  cause: null,
  assignedTo: null,
  assignedToName: null,
  acknowledgedAt: null,
  acknowledgedByName: null,
  clearedAt: null,
  clearedByName: null,
  rehearsed: false,
  nightLostL: 4100,
  nightUnwateredMin: 8,
  departedFrom: null,
  departedMin: null,
  departedL: null,
  ...more,
});
const entry = (more: Partial<AlarmEntry>): AlarmEntry => ({
  id: "e1",
  alarmId: "a1",
  at: "2026-07-15T06:10:00.000Z",
  madeByName: "Odd Brennmoen",
  action: "note",
  words: "drove out",
  hasPhoto: false,
  ...more,
});
const revision = (version: number, words: string[]): RevisionHead => ({
  version,
  note: version === 3 ? "limits" : "",
  madeAt: `2026-07-1${version}T08:00:00.000Z`,
  madeByName: "Ada Fennimore",
  changes: words.map((w, i) => ({ path: `stations[${i}]`, words: w })),
});
const BOOK: LogBook = {
  alarms: [alarm()],
  entries: [entry({})],
  revisions: [revision(3, ["Station 1: high 20 → 25 %", "Station 2: high 20 → 25 %"]), revision(2, ["S3 renamed"])],
  people: [
    { id: "u1", name: "Ada Fennimore" },
    { id: "u2", name: "Odd Brennmoen" },
  ],
};

type Sent = { method: string; path: string; body: Record<string, unknown> | null };
/** A server that keeps a log, and lets the test say what an act makes of it. */
function server(book: LogBook, onAct: (sent: Sent, book: LogBook) => Response | LogBook = (_, b) => b): Sent[] {
  const sent: Sent[] = [];
  let now = book;
  const answer = (body: unknown, status = 200): Response =>
    new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const method = init?.method ?? "GET";
    const body = init?.body ? (JSON.parse(String(init.body)) as Record<string, unknown>) : null;
    if (method === "GET") return answer(now);
    sent.push({ method, path, body });
    const next = onAct({ method, path, body }, now);
    if (next instanceof Response) return next;
    now = next;
    return answer({ version: 3, file: smallSite() });
  });
  return sent;
}
const refused = (status: number, code: string, message: string): Response =>
  new Response(JSON.stringify({ error: { code, message } }), {
    status,
    headers: { "content-type": "application/json" },
  });
const open = (view: string, role = "manager", file = smallSite()) => {
  window.history.replaceState(null, "", `/sites/site/log?view=${view}`);
  return renderOnSite(file, <LogScreen />, { role });
};
beforeEach(() => window.history.replaceState(null, "", "/sites/site/log"));
afterEach(() => vi.unstubAllGlobals());

describe("an alarm", () => {
  const card = (): HTMLElement => screen.getByRole("article", { name: /^Alarm / });
  it("says what was read, what it locks and what the night lost, in the site's units", async () => {
    server(BOOK);
    open("alarms");
    expect(await screen.findByText(/168 L\/min, expected 100 L\/min; locks out station 2 S2/)).toHaveTextContent(
      /lost 4,100 L and left 8 min unwatered/,
    );
  });
  it("is acknowledged, and the focus goes on to the cause", async () => {
    const sent = server(BOOK, (_, b) => ({ ...b, alarms: b.alarms.map((a) => ({ ...a, state: "acknowledged" })) }));
    const { user } = open("alarms");
    await user.click(await screen.findByRole("button", { name: "Acknowledge" }));
    await waitFor(() => expect(screen.queryByRole("button", { name: "Acknowledge" })).toBeNull());
    expect(sent).toMatchObject([{ path: "/api/sites/site/alarms/a1", body: { action: "acknowledge" } }]);
    expect(screen.getByLabelText("Cause, as found")).toHaveFocus();
  });
  it("is not cleared without a cause; cleared, it asks for the flow to be learned again, and keeps the focus", async () => {
    const sent = server(BOOK, ({ body }, b) => ({
      ...b,
      alarms: b.alarms.map((a) => ({ ...a, state: "cleared", cause: String(body?.["cause"]), clearedByName: "Ada" })),
    }));
    const { user } = open("alarms");
    const clear = await screen.findByRole("button", { name: "Clear and unlock" });
    expect(clear).toBeDisabled();
    await user.type(screen.getByLabelText("Cause, as found"), "broken riser");
    await user.click(clear);
    await waitFor(() => expect(card()).toHaveTextContent("had locked out station 2 S2"));
    expect(sent[0]?.body).toEqual({ action: "clear", cause: "broken riser", repaired: true });
    expect(card()).toHaveFocus();
    expect(screen.getByRole("link", { name: "Repaired? Learn it again" })).toHaveAttribute("href", "/sites/site/learn");
  });
  it("keeps what was typed when the server refuses, and says why", async () => {
    server(BOOK, () => refused(409, "alreadyCleared", "Odd Brennmoen has cleared it already."));
    const { user } = open("alarms");
    await user.type(await screen.findByLabelText("Cause, as found"), "broken riser");
    await user.click(screen.getByRole("button", { name: "Note the cause" }));
    expect(await screen.findByText(/Odd Brennmoen has cleared it already/)).toBeInTheDocument();
    expect(screen.getByLabelText("Cause, as found")).toHaveValue("broken riser");
  });
  it("is given to somebody, and noted on", async () => {
    const sent = server(BOOK);
    const { user } = open("alarms");
    await user.selectOptions(await screen.findByLabelText("For"), "Odd Brennmoen");
    await user.type(screen.getByLabelText("Note"), "needs a 1 in riser");
    await user.click(screen.getByRole("button", { name: "Add the note" }));
    await waitFor(() => expect(screen.getByLabelText("Note")).toHaveValue(""));
    expect(sent.map((s) => s.body)).toEqual([
      { action: "assign", to: "u2" },
      { action: "note", words: "needs a 1 in riser" },
    ]);
  });
  it("is only looked at by who may not change it", async () => {
    server(BOOK);
    open("alarms", "viewer");
    await screen.findByText(/168 L\/min, expected/);
    expect(screen.queryByRole("button", { name: "Acknowledge" })).toBeNull();
    expect(screen.queryByLabelText("Note")).toBeNull();
  });
});

describe("revisions", () => {
  it("name what they changed; a manager puts one back, and the file in force is the answer's", async () => {
    const sent = server(BOOK);
    const { user, draft } = open("revisions");
    const second = (await screen.findByText("2")).closest("article") as HTMLElement;
    expect(second).toHaveTextContent("S3 renamed");
    await user.click(within(second).getByRole("button", { name: "Put back" }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]).toMatchObject({ path: "/api/sites/site/revisions/2", body: { baseVersion: 3 } });
    expect(draft.store.getState().version).toBe(3);
  });
  it("change no lockout: what is locked is listed first", async () => {
    const sent = server(BOOK);
    const { user } = open(
      "revisions",
      "manager",
      smallSite((s) => Object.assign(s.stations[1] as object, { lockedOut: true })),
    );
    await user.click((await screen.findAllByRole("button", { name: "Put back" }))[0] as HTMLElement);
    expect(screen.getByRole("dialog")).toHaveTextContent("Locked out now, and stays so: station 2 S2");
    expect(sent).toHaveLength(0);
    await user.click(screen.getByRole("button", { name: "Put it back, with these locked out" }));
    await waitFor(() => expect(sent).toHaveLength(1));
  });
  it("put back over somebody else's save is refused with what to do", async () => {
    server(BOOK, () => refused(409, "staleVersion", "Odd Brennmoen saved version 4."));
    const { user } = open("revisions");
    await user.click((await screen.findAllByRole("button", { name: "Put back" }))[0] as HTMLElement);
    expect(await screen.findByText(/saved version 4\. Reload the page to see it, then put back/)).toBeInTheDocument();
  });
  it("is not offered to who is no manager", async () => {
    server(BOOK);
    open("revisions", "technician");
    await screen.findAllByText(/S3 renamed/);
    expect(screen.queryByRole("button", { name: "Put back" })).toBeNull();
  });
});
