import { screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { TellLine } from "./tell-line";

const told = (key: string): string | null =>
  document.querySelector<HTMLElement>(`[data-tell="${key}"]`)?.textContent ?? null;

describe("the tell-line", () => {
  it("says what binds, when the night ends, its water, what is short and found", async () => {
    renderOnSite(smallSite(), <TellLine onKeys={() => {}} />);
    await waitFor(() => expect(told("ends")).toBe("22:20"));
    expect(told("binding")).toMatch(/^Main 150 L\/min, /);
    expect(told("short")).toBe("0 min");
    expect(told("water")).toMatch(/2\.5 m³|2,500 L/);
    expect(screen.getByRole("link", { name: /errors?, \d+ warnings?/ })).toHaveAttribute(
      "href",
      "/sites/site/findings",
    );
  });

  it("an edit shows what it was before; taken back, nothing was", async () => {
    const { draft } = renderOnSite(smallSite(), <TellLine onKeys={() => {}} />);
    await waitFor(() => expect(told("ends")).toBe("22:20"));
    draft.edit((f) => ({ ...f, programs: f.programs.map((p) => ({ ...p, maxStationsAtOnce: 1 })) }));
    await waitFor(() => expect(told("ends")).toBe("22:30 was 22:20"));
    draft.undo();
    await waitFor(() => expect(told("ends")).toBe("22:20"));
  });

  it("a night without runs says so", async () => {
    renderOnSite(smallSite(), <TellLine onKeys={() => {}} />, { date: "2026-07-15" });
    await waitFor(() => expect(told("binding")).toBe("nothing runs"));
    expect(told("ends")).toBe("–");
  });

  it("keys and words are one press away", async () => {
    const onKeys = vi.fn();
    const { user } = renderOnSite(smallSite(), <TellLine onKeys={onKeys} />);
    await user.click(screen.getByRole("button", { name: /keys/ }));
    expect(onKeys).toHaveBeenCalledOnce();
  });
});
