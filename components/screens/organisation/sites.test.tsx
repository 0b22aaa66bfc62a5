import { render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { DataProvider } from "@/components/data/data-provider";
import type { GroupsView } from "@/contracts/groups";
import type { Person } from "@/contracts/people";
import { SitesOfPerson } from "./sites-of-person";
import { SitesPanel } from "./sites-panel";

const VIEW: GroupsView = {
  groups: [
    { id: "g1", kind: "client", name: "Verge Parish", sites: 2 },
    { id: "g2", kind: "crew", name: "North", sites: 1 },
  ],
  sites: [
    { id: "a", name: "Almond Court", client: "Verge Parish", area: null, crew: "North" },
    { id: "b", name: "Birch Hall", client: "Verge Parish", area: null, crew: null },
    { id: "c", name: "Cedar Yard", client: null, area: null, crew: null },
  ],
};
function serve(more: (path: string) => unknown = () => VIEW) {
  const sent: string[] = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    if ((init?.method ?? "GET") !== "GET") sent.push(`${init?.method} ${path} ${init?.body ?? ""}`);
    const deleted = [{ id: "d", name: "Elder Row", deletedBy: "Ada", deletedAt: "2026-07-14T10:00:00.000Z" }];
    const answer = path.endsWith("/deleted-sites") ? { sites: deleted } : VIEW;
    return new Response(JSON.stringify(path.startsWith("/api/people") ? more(path) : answer), {
      headers: { "content-type": "application/json" },
    });
  });
  return sent;
}
const show = (what: React.ReactNode) => {
  render(<DataProvider>{what}</DataProvider>);
  return userEvent.setup();
};
afterEach(() => vi.unstubAllGlobals());

describe("sites sorted by client, area and crew", () => {
  it("are put into a group by writing its name, and taken out by emptying it", async () => {
    const sent = serve();
    const user = show(<SitesPanel />);
    expect(await screen.findByRole("link", { name: "Its file" })).toHaveAttribute(
      "href",
      "/api/organisation/deleted-sites/d",
    );
    await user.type(await screen.findByLabelText("Area of Cedar Yard"), "Hill{Enter}");
    await user.clear(screen.getByLabelText("Client of Almond Court"));
    await user.tab();
    await waitFor(() =>
      expect(sent).toEqual(['PATCH /api/sites/c/groups {"area":"Hill"}', 'PATCH /api/sites/a/groups {"client":null}']),
    );
  });
  it("are found by their groups; a group takes another name", async () => {
    const sent = serve();
    const user = show(<SitesPanel />);
    await user.type(await screen.findByLabelText("Find a site"), "verge");
    const table = screen.getByRole("table", { name: "Sites by client, area and crew" });
    expect(within(table).getAllByRole("row")).toHaveLength(3);
    expect(table).not.toHaveTextContent("Cedar Yard");
    const crew = screen.getByLabelText("Name of the crew North");
    expect(crew.closest("li")).toHaveTextContent("1 site");
    await user.clear(crew);
    await user.type(crew, "North crew{Enter}");
    await waitFor(() => expect(sent).toEqual(['PATCH /api/groups/g2 {"name":"North crew"}']));
  });
});

describe("the sites that somebody sees", () => {
  const tolly = { id: "t", name: "Tolly", sites: null } as Person;
  it("are all, until some are ticked: by themselves, or those that are found", async () => {
    serve(() => ({ siteIds: null }));
    const kept = vi.fn();
    const user = show(<SitesOfPerson person={tolly} onClose={() => {}} onKeep={kept} />);
    await user.click(await screen.findByLabelText("All sites, and those that come"));
    await user.type(screen.getByLabelText("Find sites"), "verge");
    await user.click(screen.getByRole("button", { name: "Tick those shown" }));
    await user.click(screen.getByLabelText(/^Almond Court/));
    await user.clear(screen.getByLabelText("Find sites"));
    await user.click(screen.getByLabelText(/^Cedar Yard/));
    expect(screen.getByText(/^2 of 3\./)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Keep" }));
    expect(kept).toHaveBeenCalledWith(["b", "c"]);
  });
  it("begin as they are, and are all again in one press", async () => {
    serve(() => ({ siteIds: ["b"] }));
    const kept = vi.fn();
    const user = show(<SitesOfPerson person={{ ...tolly, sites: 1 }} onClose={() => {}} onKeep={kept} />);
    expect(await screen.findByLabelText(/^Birch Hall/)).toBeChecked();
    await user.click(screen.getByLabelText("All sites, and those that come"));
    await user.click(screen.getByRole("button", { name: "Keep" }));
    expect(kept).toHaveBeenCalledWith(null);
  });
});
