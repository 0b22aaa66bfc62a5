import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { AboutScreen } from "./about-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
afterEach(() => vi.unstubAllGlobals());

type Sent = { method: string; path: string; body: unknown };
function server(): Sent[] {
  const sent: Sent[] = [];
  let archived = false;
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const body = init?.body ? JSON.parse(String(init.body)) : null;
    sent.push({ method: init?.method ?? "GET", path, body });
    if (init?.method === "PATCH") archived = body.archived;
    return new Response(JSON.stringify({ archived }), { headers: { "content-type": "application/json" } });
  });
  return sent;
}

describe("about a site", () => {
  it("it is renamed, described and placed, as changes to be saved", async () => {
    server();
    const { user, draft } = renderOnSite(smallSite(), <AboutScreen />);
    const now = () => draft.store.getState().draft.site;
    await user.clear(screen.getByLabelText("Name of the site"));
    await user.type(screen.getByLabelText("Name of the site"), "Dell Brook{Enter}");
    await user.type(screen.getByLabelText("Description"), "By the weir{Enter}");
    await user.type(screen.getByLabelText(/^Latitude/), "47.1{Tab}");
    await user.type(screen.getByLabelText(/^Longitude/), "15.4{Tab}");
    expect(now()).toMatchObject({
      name: "Dell Brook",
      description: "By the weir",
      latitudeDeg: 47.1,
      longitudeDeg: 15.4,
    });
    expect(screen.getByRole("link", { name: "Open in your own map" })).toHaveAttribute("href", "geo:47.1,15.4");
    await user.clear(screen.getByLabelText(/^Latitude/));
    await user.tab();
    expect(now()).not.toHaveProperty("latitudeDeg");
  });
  it("another time zone is seen before it is taken: what moves, by how much", async () => {
    server();
    const { user, draft } = renderOnSite(smallSite(), <AboutScreen />);
    const zone = screen.getByLabelText("Time zone");
    await user.clear(zone);
    await user.type(zone, "Asia/Tokyo");
    const moves = screen.getByRole("status");
    expect(moves).toHaveTextContent(/h earlier than now/);
    expect(moves).toHaveTextContent(/In half a year the clocks are/);
    expect(draft.store.getState().draft.site.timeZone).toBe("Europe/Vienna");
    await user.click(screen.getByRole("button", { name: "Take this zone" }));
    expect(draft.store.getState().draft.site.timeZone).toBe("Asia/Tokyo");
    await user.clear(zone);
    await user.type(zone, "Middle/Earth");
    expect(zone).toHaveAttribute("aria-invalid", "true");
  });
  it("it is archived and brought back; deleted only under its name", async () => {
    const sent = server();
    const { user } = renderOnSite(smallSite(), <AboutScreen />);
    await user.click(await screen.findByRole("button", { name: "Archive this site" }));
    await user.click(await screen.findByRole("button", { name: "Bring it back" }));
    await user.click(screen.getByRole("button", { name: /^Delete / }));
    const dialog = screen.getByRole("dialog");
    const remove = within(dialog).getByRole("button", { name: "Delete this site" });
    expect(remove).toBeDisabled();
    await user.type(within(dialog).getByLabelText("Its name, as it stands"), smallSite().site.name);
    await user.click(remove);
    await waitFor(() => expect(sent.at(-1)).toMatchObject({ method: "DELETE", body: { name: smallSite().site.name } }));
    expect(sent.filter((s) => s.method === "PATCH").map((s) => s.body)).toEqual([
      { archived: true },
      { archived: false },
    ]);
  });
  it("a technician neither archives nor deletes it", () => {
    server();
    renderOnSite(smallSite(), <AboutScreen />, { role: "technician" });
    expect(screen.queryByRole("button", { name: /Archive|Delete/ })).toBeNull();
  });
});
