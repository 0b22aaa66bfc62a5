import { render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, it, vi } from "vitest";
import { DataProvider } from "@/components/data/data-provider";
import type { AccountView } from "@/contracts/people";
import { AccountScreen } from "./account-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));

const session = (id: string, here: boolean) => ({
  id,
  madeAt: "2026-07-14T10:00:00.000Z",
  seenAt: "2026-07-14T11:00:00.000Z",
  address: "10.0.0.1",
  agent: here ? "desk browser" : "pocket browser Mobile",
  here,
});
function open(more: Partial<AccountView> = {}, refuse?: string) {
  let view: AccountView = {
    id: "ada",
    name: "Ada Fennimore",
    email: "ada@test.example",
    role: "technician",
    organisation: "Tests and Sons",
    twoFactor: false,
    recoveryCodesLeft: 0,
    sessions: [session("here", true), session("there", false)],
    ...more,
  };
  const sent: string[] = [];
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const method = init?.method ?? "GET";
    const answer = (body: unknown, status = 200): Response =>
      new Response(JSON.stringify(body), { status, headers: { "content-type": "application/json" } });
    if (method === "GET") return answer(path.endsWith("/telling") ? { mail: true, choice: null, letters: [] } : view);
    sent.push(`${method} ${path} ${init?.body ?? ""}`.trim());
    if (refuse) return answer({ error: { code: "badRequest", message: refuse } }, 400);
    if (method === "POST" && path.endsWith("two-factor")) return answer({ uri: "otpauth://totp/x", secret: "ABCD" });
    const codes = { recoveryCodes: ["aaaaa-bbbbb", "ccccc-ddddd"] };
    if (path.endsWith("two-factor")) view = { ...view, twoFactor: method === "PATCH", recoveryCodesLeft: 2 };
    return answer(codes);
  });
  render(
    <DataProvider>
      <AccountScreen who="Ada Fennimore, technician" />
    </DataProvider>,
  );
  return { sent, user: userEvent.setup() };
}
afterEach(() => vi.unstubAllGlobals());

describe("one's own account", () => {
  it("has dates in another language, from now on and wherever one signs in", async () => {
    const { sent, user } = open();
    expect(await screen.findByText(/as in 26 Nov 2026/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Español" }));
    await waitFor(() => expect(document.cookie).toContain("presa_language=es"));
    expect(sent).toEqual(['PATCH /api/account {"language":"es"}']);
  });
  it("takes another name and another password, and tells what came of it", async () => {
    const { sent, user } = open();
    const name = await screen.findByLabelText("As others see it");
    await user.clear(name);
    await user.type(name, "Ada F.");
    await user.click(screen.getByRole("button", { name: "Keep" }));
    await user.type(screen.getByLabelText("The present one"), "old words");
    await user.type(screen.getByLabelText("The new one"), "short");
    await user.click(screen.getByRole("button", { name: "Change the password" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("at least 12 characters");
    await user.type(screen.getByLabelText("The new one"), " and long enough");
    await user.click(screen.getByRole("button", { name: "Change the password" }));
    expect(await screen.findByText(/^Changed\. Wherever else/)).toBeInTheDocument();
    expect(sent).toEqual([
      'PATCH /api/account {"name":"Ada F."}',
      'PATCH /api/account {"current":"old words","password":"short and long enough"}',
    ]);
  });
  it("shows where one is signed in; every one but this can be ended", async () => {
    const { sent, user } = open();
    const rows = within(await screen.findByRole("table", { name: "Sessions" })).getAllByRole("row");
    expect(rows[1]).toHaveTextContent("a computer");
    expect(rows[2]).toHaveTextContent("a phone");
    expect(within(rows[1] as HTMLElement).queryByRole("button")).toBeNull();
    await user.click(within(rows[2] as HTMLElement).getByRole("button", { name: "End it" }));
    await waitFor(() => expect(sent).toEqual(["DELETE /api/account/sessions/there"]));
  });
  it("sets up a second step: a picture, a code, and recovery codes that are shown once", async () => {
    const { sent, user } = open();
    await user.click(await screen.findByRole("button", { name: "Set up a second step" }));
    expect(await screen.findByTitle("To be read by an authenticator")).toBeInTheDocument();
    expect(screen.getByText("ABCD")).toBeInTheDocument();
    await user.type(screen.getByLabelText("Code"), "12");
    await user.click(screen.getByRole("button", { name: "Confirm" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("six figures");
    await user.type(screen.getByLabelText("Code"), "3 456");
    await user.click(screen.getByRole("button", { name: "Confirm" }));
    expect(await screen.findByText("aaaaa-bbbbb")).toBeInTheDocument();
    expect(await screen.findByText(/2 recovery codes are left/)).toBeInTheDocument();
    expect(sent.at(-1)).toBe('PATCH /api/account/two-factor {"code":"123 456"}');
  });
  it("takes the second step off only with one's password; what is refused is told where it was asked", async () => {
    const { sent, user } = open({ twoFactor: true, recoveryCodesLeft: 9 }, "That is not your password.");
    await user.click(await screen.findByRole("button", { name: "Take the second step off…" }));
    const dialog = screen.getByRole("dialog", { name: "Take the second step off" });
    await user.type(within(dialog).getByLabelText("Your password"), "guess");
    await user.click(within(dialog).getByRole("button", { name: "Take it off" }));
    expect(await within(dialog).findByRole("alert")).toHaveTextContent("That is not your password.");
    expect(sent).toEqual(['DELETE /api/account/two-factor {"password":"guess"}']);
  });
  it("leaves only when that is said once more", async () => {
    const { sent, user } = open({}, "There has to be a manager. Make somebody else one first.");
    await user.click(await screen.findByRole("button", { name: "Leave Tests and Sons…" }));
    expect(sent).toEqual([]);
    await user.click(screen.getByRole("button", { name: "Leave" }));
    expect(await screen.findByRole("alert")).toHaveTextContent("There has to be a manager.");
  });
});
