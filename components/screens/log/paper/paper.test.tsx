import { screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { refused } from "@/testing/page-server";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { PaperView } from "./paper-view";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));
vi.mock("@/components/pictures/plan/pdf-pages", () => ({
  openPdf: async () => ({ count: 2, picture: async () => new Blob(["page"]), close: () => {} }),
}));
let asked: string[];
let answer: () => Response;
beforeEach(() => {
  asked = [];
  answer = () => new Response("%PDF-");
  vi.stubGlobal("fetch", async (path: string) => {
    asked.push(path);
    return answer();
  });
  URL.createObjectURL = () => `blob:${Math.random()}`;
  URL.revokeObjectURL = () => {};
});
afterEach(() => vi.unstubAllGlobals());

describe("paper", () => {
  it("is looked at page by page, in the size of where the site is, and taken away under the same address", async () => {
    const { user } = renderOnSite(
      smallSite((s) => {
        s.site.units = "us";
      }),
      <PaperView />,
    );
    await user.click(screen.getByRole("button", { name: "Look at the walk list" }));
    expect(await screen.findByRole("img", { name: "Page 2 of the walk list" })).toBeVisible();
    expect(screen.getByText("2 pages")).toBeVisible();
    expect(asked).toEqual(["/api/sites/site/paper/walk?size=LETTER&language=en"]);
    await user.click(screen.getByRole("button", { name: "A4" }));
    await waitFor(() => expect(asked.at(-1)).toBe("/api/sites/site/paper/walk?size=A4&language=en"));
    await user.click(screen.getByRole("button", { name: "Español" }));
    await waitFor(() => expect(asked.at(-1)).toBe("/api/sites/site/paper/walk?size=A4&language=es"));
    const hrefOf = (name: RegExp) => screen.getByRole("link", { name }).getAttribute("href");
    expect(hrefOf(/^Download\s?the walk list$/)).toBe("/api/sites/site/paper/walk?size=A4&language=es&download=1");
    // The office's own sheets are in English.
    expect(hrefOf(/^Download\s?the setup sheet$/)).toBe("/api/sites/site/paper/setup?size=A4&download=1");
  });
  it("of a time is of the time that is chosen; a refusal is told", async () => {
    const { user } = renderOnSite(smallSite(), <PaperView />);
    const from = screen.getByLabelText("Times from");
    await user.clear(from);
    await user.type(from, "2026-05-01{Enter}");
    answer = () => refused(400, "tooLarge", "This takes more than 60 s to work out and was given up.");
    await user.click(screen.getByRole("button", { name: "Look at the water report" }));
    expect(await screen.findByText(/was given up/)).toBeVisible();
    expect(asked.at(-1)).toMatch(/paper\/water\?size=A4&from=2026-05-01&to=\d{4}-\d\d-\d\d$/);
  });
  it("goes by mail to an address, with the size and time of the screen; a refusal leaves what was typed", async () => {
    const bodies: unknown[] = [];
    vi.stubGlobal("fetch", async (_: string, init?: RequestInit) => {
      bodies.push(JSON.parse(String(init?.body)));
      return bodies.length === 1
        ? refused(503, "unavailable", "No mail server is set up here.")
        : new Response('{"to":"client@fenner.example"}', { headers: { "content-type": "application/json" } });
    });
    const { user } = renderOnSite(smallSite(), <PaperView />);
    await user.click(screen.getByRole("button", { name: "Send the alarms by mail" }));
    await user.type(screen.getByLabelText("To"), "client");
    await user.click(screen.getByRole("button", { name: "Send it" }));
    expect(await screen.findByText("That is not an e-mail address.")).toBeVisible();
    await user.type(screen.getByLabelText("To"), "@fenner.example");
    await user.click(screen.getByRole("button", { name: "Send it" }));
    expect(await screen.findByText("No mail server is set up here.")).toBeVisible();
    await user.click(screen.getByRole("button", { name: "Send it" }));
    await waitFor(() => expect(screen.queryByLabelText("To")).toBeNull());
    expect(bodies[1]).toMatchObject({
      email: "client@fenner.example",
      size: "A4",
      from: expect.any(String),
      to: expect.any(String),
    });
    // The same intention: it is sent once.
    expect(bodies.map((b) => (b as { id: string }).id)).toEqual([
      (bodies[0] as { id: string }).id,
      (bodies[0] as { id: string }).id,
    ]);
  });
  it("says that what is not saved is not on it", () => {
    const { draft } = renderOnSite(smallSite(), <PaperView />);
    draft.edit((f) => ({ ...f, site: { ...f.site, notes: "changed" } }));
    return waitFor(() => expect(screen.getByText(/1 change is not on it/)).toBeVisible());
  });
});
