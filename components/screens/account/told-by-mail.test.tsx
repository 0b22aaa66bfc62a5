import { render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { DataProvider } from "@/components/data/data-provider";
import type { TellingChoice, TellingView, ToldView } from "@/contracts/telling";
import { ToldPanel } from "../organisation/told-panel";
import { ToldByMail } from "./told-by-mail";

afterEach(() => vi.unstubAllGlobals());

type Sent = { method: string; path: string; body: unknown };
function server(answer: (sent: Sent) => unknown): Sent[] {
  const sent: Sent[] = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const one = { method: init?.method ?? "GET", path, body: init?.body ? JSON.parse(String(init.body)) : null };
    sent.push(one);
    return new Response(JSON.stringify(answer(one)), { headers: { "content-type": "application/json" } });
  });
  return sent;
}
const show = (page: React.ReactNode) => {
  render(<DataProvider>{page}</DataProvider>);
  return userEvent.setup();
};
const CHOICE: TellingChoice = {
  alarms: true,
  overdue: true,
  fromClock: "06:00",
  toClock: "20:00",
  morningClock: "06:30",
  escalateMin: null,
  timeZone: "Europe/Vienna",
  groups: [],
};
const GROUPS = { groups: [{ id: "g1", kind: "client", name: "Fenner Care", sites: 3 }], sites: [] };

describe("what one is told by mail", () => {
  it("is chosen: when nobody acknowledges, of which sites, at which hours", async () => {
    const view: TellingView = { mail: true, choice: CHOICE, letters: [] };
    const sent = server(({ method, path, body }) => {
      if (path === "/api/groups") return GROUPS;
      return method === "PATCH" ? { ...view, choice: body } : view;
    });
    const user = show(<ToldByMail />);
    const keep = await screen.findByRole("button", { name: "Keep" });
    expect(keep).toBeDisabled();
    await user.click(screen.getByRole("checkbox", { name: /nobody acknowledges/ }));
    await user.clear(screen.getByLabelText(/^within/));
    await user.type(screen.getByLabelText(/^within/), "15{Tab}");
    await user.click(await screen.findByText("of all sites that you see"));
    await user.click(screen.getByRole("checkbox", { name: "Fenner Care" }));
    await user.click(keep);
    await waitFor(() => expect(screen.getByRole("button", { name: "Keep" })).toBeDisabled());
    expect(sent.findLast((s) => s.method === "PATCH")?.body).toEqual({ ...CHOICE, escalateMin: 15, groups: ["g1"] });
  });
  it("is nothing until it is chosen; where no mail server is set it says so, and what was not sent is seen", async () => {
    const letter = { id: "l", to: "Ada", subject: "Alarm at Dell Pond", madeAt: "2026-07-14T06:00:00Z", tries: 6 };
    const view: TellingView = {
      mail: false,
      choice: null,
      letters: [{ ...letter, state: "failed", problem: "There is no such box." }],
    };
    server(({ path }) => (path === "/api/groups" ? GROUPS : view));
    show(<ToldByMail />);
    expect(await screen.findByText(/You are told nothing by mail/)).toBeInTheDocument();
    expect(screen.getByText(/No mail server is set up here/)).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Send me a letter to try" })).toBeDisabled();
    expect(screen.getByText(/tried 6 times; There is no such box/)).toBeVisible();
  });
});

describe("other systems", () => {
  it("are entered by their address, their secret is told once, and what was given up is called again", async () => {
    const call = { id: "c", event: "alarm.raised", madeAt: "2026-07-14T06:00:00Z", nextAt: "2026-07-14T06:01:00Z" };
    const webhook = {
      id: "w",
      url: "https://office.example/hook",
      enabled: true,
      madeBy: "Ada",
      calls: [{ ...call, state: "failed" as const, tries: 6, status: 500, problem: "It answered 500." }],
    };
    const view: ToldView = { mail: true, stuck: [], webhooks: [webhook] };
    const sent = server(({ method }) => (method === "POST" ? { ...view, secret: "s3cret" } : view));
    const user = show(<ToldPanel />);
    const box = await screen.findByRole("article", { name: webhook.url });
    expect(box).toHaveTextContent("It answered 500. Given up after 6 tries.");
    await user.click(within(box).getByRole("button", { name: "Call again what was given up" }));
    expect(sent.findLast((s) => s.method === "PATCH")).toMatchObject({
      path: "/api/webhooks/w",
      body: { action: "again" },
    });
    await user.type(screen.getByLabelText("Address of the other system"), "https://b.example/x");
    await user.click(screen.getByRole("button", { name: "Tell this system" }));
    expect(await screen.findByLabelText("Secret of the webhook")).toHaveValue("s3cret");
    expect(sent.findLast((s) => s.method === "POST")?.body).toEqual({ url: "https://b.example/x" });
  });
});
