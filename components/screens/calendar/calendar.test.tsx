import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { CalendarEntry } from "@/core/visits/calendar";
import { server, show } from "@/testing/page-server";
import { CalendarScreen } from "./calendar-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/frame/alarm-toasts", () => ({ AlarmToasts: () => null }));

const entry = (what: CalendarEntry["what"], on: string, words: string, late = false): CalendarEntry => ({
  key: `${what} ${words}`,
  what,
  on,
  siteId: "mill",
  site: "Mill Court",
  words,
  late,
});
let madeAt: string | null;
beforeEach(() => {
  madeAt = null;
  window.history.replaceState(null, "", "/calendar?month=2026-05");
});
afterEach(() => vi.unstubAllGlobals());
const open = (entries: CalendarEntry[]) => {
  const sent = server(({ method, path }) => {
    if (method === "POST") {
      madeAt = "2026-05-10T08:00:00Z";
      return { path: "/api/calendar/secret-of-mine" };
    }
    return path.includes("/api/calendar") ? { entries, madeAt } : {};
  });
  return { sent, user: show(<CalendarScreen who="Ada Fennimore, manager" />) };
};
const grid = (): HTMLElement => screen.getByRole("grid");

describe("the calendar", () => {
  it("shows a month with what stands in its days, each with the way to it; asks for another when one goes on", async () => {
    const { sent, user } = open([
      entry("visit", "2026-05-09", "Monthly, Bo"),
      entry("due", "2026-05-02", "backflow test due: Vault", true),
    ]);
    const link = within(await screen.findByRole("grid")).getByRole("link", { name: /visit:\s?Mill Court Monthly, Bo/ });
    expect(link).toHaveAttribute("href", "/sites/mill/log?view=visits");
    expect(within(grid()).getByRole("link", { name: /backflow test due: Vault\s?\(overdue\)/ })).toBeVisible();
    expect(sent.some((s) => s.path === "/api/calendar?from=2026-04-24&to=2026-06-14")).toBe(true);
    await user.click(screen.getByRole("button", { name: "The next month" }));
    await waitFor(() => expect(sent.some((s) => s.path.includes("from=2026-05-25"))).toBe(true));
    expect(screen.getByText("Jun 2026")).toBeVisible();
  });
  it("leaves kinds out, and lists a day that is fuller than its cell", async () => {
    const full = Array.from({ length: 6 }, (_, i) => entry("todo", "2026-05-12", `Lid ${i + 1}`));
    const { user } = open([...full, entry("visit", "2026-05-09", "Monthly, Bo")]);
    await user.click(within(await screen.findByRole("grid")).getByRole("button", { name: "and 3 more" }));
    const [day] = screen.getAllByRole("region", { name: "Tue 12 May 2026" }) as [HTMLElement];
    expect(within(day).getAllByRole("listitem")).toHaveLength(6);
    await user.click(screen.getByRole("button", { name: "To do" }));
    expect(within(day).queryAllByRole("listitem")).toHaveLength(0);
    expect(within(grid()).getByRole("link", { name: /Monthly, Bo/ })).toBeVisible();
  });
  it("is read from elsewhere by an address that is shown once", async () => {
    const { user } = open([]);
    await screen.findByRole("grid");
    await user.click(screen.getByRole("button", { name: "In another calendar…" }));
    await user.click(screen.getByRole("button", { name: "Make an address" }));
    expect(await screen.findByLabelText("The address of your calendar")).toHaveValue(
      `${window.location.origin}/api/calendar/secret-of-mine`,
    );
    expect(await screen.findByRole("button", { name: "Make another address" })).toBeVisible();
    expect(screen.getByRole("button", { name: "End it" })).toBeVisible();
  });
});
