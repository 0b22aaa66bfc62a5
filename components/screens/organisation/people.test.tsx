import { render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { DataProvider } from "@/components/data/data-provider";
import type { PeopleView, Person } from "@/contracts/people";
import { PeoplePanel } from "./people-panel";

const person = (id: string, name: string, more: Partial<Person> = {}): Person => ({
  id,
  name,
  email: `${id}@test.example`,
  role: "technician",
  seenAt: "2026-07-14T10:00:00.000Z",
  twoFactor: false,
  sites: null,
  leftAt: null,
  ...more,
});
const VIEW: PeopleView = {
  people: [
    person("ada", "Ada Fennimore", { role: "manager" }),
    person("olav", "Olav Brekke", { twoFactor: true }),
    person("ines", "Ines Duarte", { role: "viewer", seenAt: null }),
    person("old", "Per Gone", { leftAt: "2026-05-01T10:00:00.000Z" }),
  ],
  invitations: [
    {
      id: "inv",
      email: "new@test.example",
      role: "viewer",
      madeBy: "Ada Fennimore",
      madeAt: "2026-07-14T10:00:00.000Z",
      expiresAt: "2026-07-21T10:00:00.000Z",
    },
  ],
};
const LINK = { token: "tok-en", expiresAt: "2026-07-21T10:00:00.000Z" };
function open(refuse?: string) {
  const sent: string[] = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const method = init?.method ?? "GET";
    const answer = (body: unknown, status = 200): Response =>
      new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });
    if (method === "GET") return answer(VIEW);
    sent.push(`${method} ${path} ${init?.body ?? ""}`.trim());
    if (refuse) return answer({ error: { code: "conflict", message: refuse } }, 409);
    return answer(method === "POST" ? LINK : { link: path.endsWith("olav") ? LINK : null });
  });
  render(
    <DataProvider>
      <PeoplePanel me="ada" />
    </DataProvider>,
  );
  return { sent, user: userEvent.setup() };
}
afterEach(() => vi.unstubAllGlobals());
const rowOf = (name: string): HTMLElement =>
  within(screen.getByRole("table", { name: "People" }))
    .getByText(name)
    .closest("tr") as HTMLElement;

describe("people of the organisation", () => {
  it("are listed with role, second step and when they were here; who has left is told apart", async () => {
    open();
    await screen.findByRole("table", { name: "People" });
    expect(rowOf("Ada Fennimore")).toHaveTextContent("(you)");
    expect(rowOf("Olav Brekke")).toHaveTextContent("set up");
    expect(rowOf("Ines Duarte")).toHaveTextContent("signed in nowhere");
    expect(screen.getByText(/^Left: Per Gone/)).toHaveTextContent("What they did stays theirs");
    expect(within(screen.getByRole("table", { name: "People" })).queryByText("Per Gone")).toBeNull();
  });
  it("are invited by a link that is shown once", async () => {
    const { sent, user } = open();
    await user.type(await screen.findByLabelText("E-mail"), "nowhere");
    await user.click(screen.getByRole("button", { name: "Invite" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("Write the whole address");
    expect(sent).toEqual([]);
    await user.type(screen.getByLabelText("E-mail"), "@test.example");
    await user.selectOptions(screen.getByLabelText("As"), "viewer");
    await user.click(screen.getByRole("button", { name: "Invite" }));
    expect(await screen.findByLabelText("Link that works once")).toHaveValue("http://localhost:3000/join/tok-en");
    expect(sent).toEqual(['POST /api/people {"email":"nowhere@test.example","role":"viewer"}']);
    await user.click(screen.getByRole("button", { name: "Withdraw new@test.example's link" }));
    await waitFor(() => expect(sent.at(-1)).toBe("DELETE /api/people/invitations/inv"));
  });
  it("have another role, are signed out, get a link for another password, lose their second step", async () => {
    const { sent, user } = open();
    await user.selectOptions(await screen.findByLabelText("Role of Olav Brekke"), "manager");
    const more = async (words: string): Promise<void> => {
      await user.click(screen.getByRole("button", { name: "More about Olav Brekke" }));
      await user.click(screen.getByRole("button", { name: words }));
    };
    await more("Sign out everywhere");
    await more("Take the second step off");
    await more("Link for another password");
    expect(await screen.findByText(/^Olav Brekke chooses another password with it/)).toBeInTheDocument();
    expect(sent).toEqual([
      'PATCH /api/people/olav {"action":"role","role":"manager"}',
      'PATCH /api/people/olav {"action":"signOut"}',
      'PATCH /api/people/olav {"action":"dropTwoFactor"}',
      'PATCH /api/people/olav {"action":"newPassword"}',
    ]);
  });
  it("are taken out only when that is said once more; what is refused is told", async () => {
    const { sent, user } = open("There has to be a manager.");
    await user.click(await screen.findByRole("button", { name: "More about Ines Duarte" }));
    await user.click(screen.getByRole("button", { name: "Take out…" }));
    expect(sent).toEqual([]);
    await user.click(screen.getByRole("button", { name: "Take Ines Duarte out" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("There has to be a manager.");
    expect(sent).toEqual(["DELETE /api/people/ines"]);
  });
  it("cannot sign themselves out here, nor take themselves out", async () => {
    const { user } = open();
    await user.click(await screen.findByRole("button", { name: "More about Ada Fennimore" }));
    expect(screen.queryByRole("button", { name: "Take out…" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Sign out everywhere" })).toBeNull();
  });
});
