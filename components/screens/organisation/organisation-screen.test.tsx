import { render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { DataProvider } from "@/components/data/data-provider";
import { OrganisationScreen } from "./organisation-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));

const VIEW = {
  name: "Tests and Sons",
  keeping: { readingsDays: null, eventsDays: 400, photosDays: null },
  people: ["Ada Fennimore", "Olav Brekke"],
};
const entry = (id: number, what: string, more: object = {}) => ({
  id,
  at: "2026-07-14T10:00:00.000Z",
  who: "Ada Fennimore",
  what,
  about: "Larch court",
  address: "10.0.0.1",
  ...more,
});
type Sent = { method: string; path: string; body: unknown };
function open(view: string, refuse?: string) {
  window.history.replaceState(null, "", `/organisation?view=${view}`);
  const sent: Sent[] = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const method = init?.method ?? "GET";
    if (method !== "GET") sent.push({ method, path, body: JSON.parse(String(init?.body)) });
    const answer = (body: unknown, status = 200): Response =>
      new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });
    if (method !== "GET" && refuse) return answer({ error: { code: "badRequest", message: refuse } }, 400);
    if (!path.startsWith("/api/organisation/audit")) return answer(VIEW);
    if (path.includes("before=7")) return answer({ rows: [entry(6, "signedIn")], more: false });
    if (path.includes("what=")) return answer({ rows: [], more: false });
    return answer({ rows: [entry(8, "exportedSite"), entry(7, "gatewayOpened")], more: true });
  });
  render(
    <DataProvider>
      <OrganisationScreen who="Ada Fennimore, manager" me="ada" />
    </DataProvider>,
  );
  return { sent, user: userEvent.setup() };
}
afterEach(() => vi.unstubAllGlobals());

describe("how long things are kept", () => {
  it("is days or for ever; shorter is said to be for good before it is kept", async () => {
    const { sent, user } = open("kept");
    const events = await screen.findByLabelText("Events of the night, days");
    expect(events).toHaveValue("400");
    const button = screen.getByRole("button", { name: "Keep so" });
    expect(button).toBeDisabled();
    await user.clear(events);
    await user.type(screen.getByLabelText("Readings, second by second, days"), "90");
    expect(screen.getByText(/what is older goes within the hour/)).toHaveTextContent("Readings, second by second:");
    await user.click(button);
    await waitFor(() =>
      expect(sent).toEqual([
        {
          method: "PATCH",
          path: "/api/organisation",
          body: { readingsDays: 90, eventsDays: null, photosDays: null },
        },
      ]),
    );
  });
  it("is refused below a month, and where it is no number, with what it takes", async () => {
    const { sent, user } = open("kept");
    const readings = await screen.findByLabelText("Readings, second by second, days");
    await user.type(readings, "5");
    await user.click(screen.getByRole("button", { name: "Keep so" }));
    expect(await screen.findByText("is at least 31 days")).toBeInTheDocument();
    await user.type(readings, "x");
    expect(await screen.findByText(/takes a whole number of days/)).toBeInTheDocument();
    expect(sent).toEqual([]);
  });
});

describe("who did what", () => {
  it("is read in words, page by page and by kind; the CSV has the same choice", async () => {
    const { user } = open("audit");
    const table = await screen.findByRole("table", { name: "Who did what" });
    expect(table).toHaveTextContent("gave a gateway its account");
    await user.click(screen.getByRole("button", { name: "Older ones" }));
    await waitFor(() => expect(within(table).getAllByRole("row")).toHaveLength(4));
    expect(screen.queryByRole("button", { name: "Older ones" })).toBeNull();
    await user.selectOptions(screen.getByLabelText("What"), "signedOut");
    expect(await screen.findByText("Nothing of that yet.")).toBeInTheDocument();
    expect(screen.getByRole("link", { name: "Export as CSV" })).toHaveAttribute(
      "href",
      "/api/organisation/audit/csv?what=signedOut",
    );
  });
});

describe("the end of an organisation", () => {
  it("needs its name and a password; what is refused is told and nothing is over", async () => {
    const { sent, user } = open("kept", "That is not your password. Nothing was erased.");
    await user.click(await screen.findByRole("button", { name: "Erase Tests and Sons…" }));
    const dialog = screen.getByRole("dialog", { name: "Erase Tests and Sons" });
    const button = within(dialog).getByRole("button", { name: "Erase everything" });
    await user.type(within(dialog).getByLabelText("Its name, as it stands"), "Tests and");
    await user.type(within(dialog).getByLabelText("Your password"), "guess");
    expect(button).toBeDisabled();
    await user.type(within(dialog).getByLabelText("Its name, as it stands"), " Sons");
    await user.click(button);
    expect(await within(dialog).findByRole("alert")).toHaveTextContent("not your password");
    expect(sent[0]).toMatchObject({ method: "DELETE", body: { name: "Tests and Sons", password: "guess" } });
  });
});
