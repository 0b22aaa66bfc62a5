import { render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { DataProvider } from "@/components/data/data-provider";
import type { DeedView, SitePreview } from "@/contracts/deeds";
import type { GroupsView } from "@/contracts/groups";
import { ManyScreen } from "./many-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
beforeEach(() => window.history.replaceState(null, "", "/many"));
afterEach(() => vi.unstubAllGlobals());

const SITES: GroupsView["sites"] = [
  { id: "a", name: "Almond Court", client: "Verge Parish", area: null, crew: null },
  { id: "b", name: "Birch Hall", client: "Verge Parish", area: null, crew: null },
  { id: "c", name: "Cedar Yard", client: null, area: null, crew: null },
];
const preview = (siteId: string, more: Partial<SitePreview> = {}): SitePreview => ({
  siteId,
  version: 4,
  localDate: "2026-07-14",
  changes: ["site: off until 2026-07-17, was on"],
  before: { finish: "2026-07-15T03:40:00+02:00", shortfallMin: 12, ofBudget: 0.92 },
  after: { finish: null, shortfallMin: 0, ofBudget: 1.04 },
  come: ["Nothing waters tonight."],
  go: [],
  problem: null,
  ...more,
});
const DEED: DeedView = {
  id: "d1",
  name: "off for 3 days",
  madeBy: "Ada",
  madeAt: "2026-07-14T10:00:00.000Z",
  standing: [
    { siteId: "a", name: "Almond Court" },
    { siteId: "b", name: "Birch Hall" },
  ],
  undone: 0,
};
const GIVEN: Record<string, unknown> = {
  "/api/groups": { groups: [{ id: "g", kind: "area", name: "North", sites: 1 }], sites: SITES },
  "/api/people": {
    people: [
      { id: "7b0e3a52-1111-4222-8333-944455556666", name: "Tam", sites: 2 },
      { id: "7b0e3a52-1111-4222-8333-944455556667", name: "Sees all", sites: null },
    ],
  },
};
type Sent = { path: string; body: { siteIds?: string[]; change?: unknown; sites?: unknown } };
function open(look: (id: string) => SitePreview = preview, isManager = true) {
  const sent: Sent[] = [];
  let deeds: DeedView[] = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const answer = (body: unknown): Response =>
      new Response(JSON.stringify(body), { headers: { "content-type": "application/json" } });
    if ((init?.method ?? "GET") === "GET") return answer(GIVEN[path] ?? { deeds });
    const body = JSON.parse(String(init?.body));
    sent.push({ path, body });
    if (path.endsWith("/preview")) return answer({ sites: body.siteIds.map(look) });
    if (path.endsWith("/undo")) {
      deeds = [{ ...DEED, standing: [], undone: 1 }];
      return answer({ asked: 1, not: ["Birch Hall: somebody saved it since"] });
    }
    deeds = [DEED];
    return answer({ asked: body.sites?.length ?? 0, not: [] });
  });
  render(
    <DataProvider>
      <ManyScreen who="Ada Fennimore, manager" isManager={isManager} />
    </DataProvider>,
  );
  return { sent, user: userEvent.setup() };
}

describe("one change on many sites", () => {
  it("of a program waits for its name, and of a month says which", async () => {
    const { sent, user } = open();
    await user.click(await screen.findByLabelText("Change Almond Court"));
    const see = screen.getByRole("button", { name: "See what it does to 1 site" });
    await user.selectOptions(screen.getByLabelText("What"), "A program in use or not");
    expect(see).toBeDisabled();
    await user.type(screen.getByLabelText("Program, by its name"), "Frost{Enter}");
    await user.click(see);
    await waitFor(() =>
      expect(sent.at(-1)?.body.change).toEqual({ kind: "programInUse", program: "Frost", inUse: false }),
    );
    await user.selectOptions(screen.getByLabelText("What"), "Percent of a month, every program");
    await user.selectOptions(screen.getByLabelText("Month"), "Jul");
    await user.click(screen.getByRole("button", { name: "See what it does to 1 site" }));
    await waitFor(() => expect(sent.at(-1)?.body.change).toEqual({ kind: "monthPercent", month: 7, percent: 100 }));
  });
  it("is looked at on those that are ticked, made on them as one, and taken back as one", async () => {
    const { sent, user } = open();
    await user.type(await screen.findByLabelText("Find sites"), "verge");
    await user.click(screen.getByRole("button", { name: "Tick those found" }));
    await user.click(await screen.findByRole("button", { name: "See what it does to 2 sites" }));
    const table = screen.getByRole("table", { name: "Sites to change" });
    await waitFor(() => expect(table).toHaveTextContent("off until 2026-07-17"));
    expect(table).toHaveTextContent("03:40 next day → no runs");
    expect(table).toHaveTextContent("12 → 0");
    expect(table).toHaveTextContent("92 → 104");
    expect(table).toHaveTextContent("Nothing waters tonight.");
    await user.click(screen.getByRole("button", { name: "Change 2 sites: off for 3 days" }));
    expect(await screen.findByText("2 sites changed.")).toBeInTheDocument();
    expect(sent.map((s) => s.path.replace(/deeds\/[0-9a-f-]{36}/, "deeds/ID"))).toEqual([
      "/api/deeds/preview",
      "/api/deeds",
      "/api/deeds/ID",
    ]);
    expect(sent.at(-1)?.body.sites).toEqual([
      { siteId: "a", version: 4 },
      { siteId: "b", version: 4 },
    ]);
    await user.click(await screen.findByRole("button", { name: "Take back: off for 3 days" }));
    expect(await screen.findByText("1 site taken back.")).toBeInTheDocument();
    expect(screen.getByText("Birch Hall: somebody saved it since")).toBeInTheDocument();
    expect(await screen.findByText("taken back on 1 site")).toBeInTheDocument();
  });
  it("leaves out what is not ticked any more, what it does not change, and where it cannot be made", async () => {
    const { sent, user } = open((id) =>
      preview(id, { changes: id === "b" ? [] : ["x"], problem: id === "c" ? "The file would not be right." : null }),
    );
    await user.click(await screen.findByRole("button", { name: "Tick all" }));
    await user.click(screen.getByRole("button", { name: "See what it does to 3 sites" }));
    expect(await screen.findByText("The file would not be right.")).toBeInTheDocument();
    const row = screen.getByText("Birch Hall").closest("tr") as HTMLElement;
    expect(row).toHaveTextContent("nothing");
    await user.click(screen.getByRole("button", { name: /^Change 1 site:/ }));
    await waitFor(() => expect(sent.at(-1)?.body.sites).toEqual([{ siteId: "a", version: 4 }]));
  });
  it("is looked at again when it is another change", async () => {
    const { sent, user } = open();
    await user.click(await screen.findByLabelText("Change Cedar Yard"));
    await user.click(screen.getByRole("button", { name: "See what it does to 1 site" }));
    expect(await screen.findByRole("button", { name: /^Change 1 site/ })).toBeInTheDocument();
    await user.selectOptions(screen.getByLabelText("What"), "percentBy");
    await user.click(screen.getByRole("button", { name: "See what it does to 1 site" }));
    await waitFor(() => expect(sent.at(-1)?.body.change).toEqual({ kind: "percentBy", percent: -10 }));
  });
  it.each([
    ["holdUntil", "Until", { kind: "holdUntil" }],
    ["percent", "To, %", { kind: "percent", percent: 100 }],
    ["starts", "Later by; less than 0 is earlier, min", { kind: "starts", minutes: 60 }],
    ["startingPoint", "Starting point", { kind: "startingPoint", school: "steady" }],
    ["holdDays", "For, days", { kind: "holdDays", days: 3 }],
  ])("%s has its own figure", async (kind, label, asked) => {
    const { sent, user } = open();
    await user.selectOptions(await screen.findByLabelText("What"), kind);
    expect(within(screen.getByLabelText("The change")).getByLabelText(label)).toBeInTheDocument();
    await user.click(await screen.findByLabelText("Change Almond Court"));
    await user.click(screen.getByRole("button", { name: "See what it does to 1 site" }));
    await waitFor(() => expect(sent.at(-1)?.body.change).toMatchObject(asked));
  });
  it("sorts sites and says who sees them, where a manager does it", async () => {
    const office = (siteId: string) =>
      preview(siteId, { before: null, after: null, come: [], changes: ["area: none → North"] });
    const { sent, user } = open(office);
    await user.click(await screen.findByLabelText("Change Almond Court"));
    await user.selectOptions(screen.getByLabelText("What"), "Client, area or crew");
    await user.selectOptions(screen.getByLabelText("Which"), "area");
    await user.type(screen.getByLabelText("Name of the area"), "North{Enter}");
    await user.click(screen.getByRole("button", { name: "See what it does to 1 site" }));
    expect(await screen.findByText("area: none → North")).toBeInTheDocument();
    expect(sent.at(-1)?.body.change).toEqual({ kind: "group", group: "area", name: "North" });
    expect(screen.getByRole("button", { name: "Change 1 site: area North" })).toBeEnabled();
    expect(screen.queryByText(/It is saved in Presa, not sent/)).toBeNull();
    await user.selectOptions(screen.getByLabelText("What"), "Who sees the sites");
    const see = screen.getByRole("button", { name: "See what it does to 1 site" });
    expect(see).toBeDisabled();
    const who = screen.getByLabelText("Person who sees some sites only");
    expect(
      within(who)
        .getAllByRole("option")
        .map((o) => o.textContent),
    ).toEqual(["choose", "Tam"]);
    await user.selectOptions(who, "Tam");
    await user.click(see);
    await waitFor(() => expect(sent.at(-1)?.body.change).toMatchObject({ kind: "person", name: "Tam", sees: true }));
  });
  it("a technician changes settings only; what is copied from elsewhere is brought by the address", async () => {
    const change = {
      kind: "controllersAs",
      from: "Quarrel Hill",
      settings: { powered: "mains", maxStationsAtOnce: 3 },
    };
    window.history.replaceState(null, "", `/many?${new URLSearchParams({ change: JSON.stringify(change) })}`);
    const { sent, user } = open(preview, false);
    const options = within(await screen.findByLabelText("What"))
      .getAllByRole("option")
      .map((o) => o.textContent);
    expect(options).toContain("Controllers set as one of another site");
    expect(options).not.toContain("A program as on another site");
    expect(options).not.toContain("Who sees the sites");
    await user.click(await screen.findByLabelText("Change Cedar Yard"));
    await user.click(screen.getByRole("button", { name: "See what it does to 1 site" }));
    await waitFor(() => expect(sent.at(-1)?.body.change).toEqual(change));
  });
});
