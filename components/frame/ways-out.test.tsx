import { act, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { CommandLine } from "./command-line";
import { KeyHelp } from "./key-help";
import { LeaveGuard } from "./leave-guard";
import { useScreenKeys } from "./use-screen-keys";

const push = vi.hoisted(() => vi.fn());
vi.mock("next/navigation", () => ({
  useRouter: () => ({ push, refresh: () => {} }),
  usePathname: () => window.location.pathname,
  useSearchParams: () => new URLSearchParams(window.location.search),
}));

const rename = (f: SiteFile): SiteFile => ({ ...f, site: { ...f.site, notes: "changed" } });
const HERE = "/sites/site/night?view=weeks";
beforeEach(() => {
  push.mockReset();
  window.history.replaceState(null, "", HERE);
});
afterEach(() => vi.unstubAllGlobals());

const guarded = () =>
  renderOnSite(
    smallSite(),
    <LeaveGuard siteId="site">
      <a href="/sites/site/limits">Limits</a>
      <a href="/">Rounds</a>
      <a href="/api/sites/site/file" download>
        File
      </a>
    </LeaveGuard>,
  );
const question = (): HTMLElement | null => screen.queryByRole("dialog", { name: "Leave with unsaved changes?" });

describe("a way out", () => {
  it("asks only when something is not saved, and only out of the site", () => {
    const { draft } = guarded();
    fireEvent.click(screen.getByRole("link", { name: "Rounds" }));
    expect(question()).toBeNull();
    act(() => draft.edit(rename));
    fireEvent.click(screen.getByRole("link", { name: "Limits" }));
    fireEvent.click(screen.getByRole("link", { name: "File" }));
    fireEvent.click(screen.getByRole("link", { name: "Rounds" }), { ctrlKey: true });
    expect(question()).toBeNull();
    expect(fireEvent.click(screen.getByRole("link", { name: "Rounds" }))).toBe(false);
    expect(question()).toBeInTheDocument();
  });
  it("is taken back by staying, and taken by leaving", async () => {
    const { user, draft } = guarded();
    act(() => draft.edit(rename));
    fireEvent.click(screen.getByRole("link", { name: "Rounds" }));
    await user.click(screen.getByRole("button", { name: "Stay here" }));
    expect(question()).toBeNull();
    expect(push).not.toHaveBeenCalled();
    fireEvent.click(screen.getByRole("link", { name: "Rounds" }));
    await user.click(screen.getByRole("button", { name: "Leave without saving" }));
    expect(push).toHaveBeenCalledExactlyOnceWith("/");
  });
  it("by Back puts the address back and asks first", async () => {
    const { user, draft } = guarded();
    act(() => draft.edit(rename));
    window.history.replaceState(null, "", "/alarms");
    fireEvent.popState(window);
    expect(question()).toBeInTheDocument();
    expect(window.location.pathname + window.location.search).toBe(HERE);
    await user.click(screen.getByRole("button", { name: "Leave without saving" }));
    expect(push).toHaveBeenCalledWith("/alarms");
  });
  it("by closing the page is stopped while something is not saved", () => {
    const { draft } = guarded();
    const closing = (): boolean => window.dispatchEvent(new Event("beforeunload", { cancelable: true }));
    expect(closing()).toBe(true);
    act(() => draft.edit(rename));
    expect(closing()).toBe(false);
    act(() => draft.discard());
    expect(closing()).toBe(true);
  });
});

function Keys({ onKeys, onCommand, onSearch }: Parameters<typeof useScreenKeys>[0]) {
  useScreenKeys({ onKeys, onCommand, onSearch });
  return (
    <>
      <input aria-label="Name" />
      <input aria-label="Find" data-find />
    </>
  );
}

describe("keys of every screen", () => {
  const withKeys = () => {
    const [onKeys, onCommand, onSearch] = [vi.fn(), vi.fn(), vi.fn()];
    const site = renderOnSite(
      smallSite(),
      <LeaveGuard siteId="site">
        <Keys onKeys={onKeys} onCommand={onCommand} onSearch={onSearch} />
      </LeaveGuard>,
    );
    return { ...site, onKeys, onCommand, onSearch };
  };
  it("go to screens, findings and what binds, and open help and command line", async () => {
    const { user, onKeys, onCommand } = withKeys();
    await user.keyboard("190.br?:");
    expect(push.mock.calls.map(([url]) => url)).toEqual([
      "/sites/site/waterworks",
      "/sites/site/controllers",
      "/sites/site/log",
      "/sites/site/findings",
      "/sites/site/waterworks#binding",
      "/",
    ]);
    expect([onKeys.mock.calls.length, onCommand.mock.calls.length]).toEqual([1, 1]);
  });
  it("undo, redo and change units; out of the site only after asking", async () => {
    const { user, draft, now } = withKeys();
    act(() => draft.edit(rename));
    await user.keyboard("{Control>}z{/Control}");
    expect(now().site.notes).toBeUndefined();
    await user.keyboard("{Control>}y{/Control}");
    expect(now().site.notes).toBe("changed");
    await user.keyboard("u");
    expect(draft.store.getState().units).toBe("us");
    await user.keyboard("r");
    expect(question()).toBeInTheDocument();
    expect(push).not.toHaveBeenCalled();
  });
  it("are letters where one types, f goes to the find field, and / searches everything", async () => {
    const { user, onSearch } = withKeys();
    await user.click(screen.getByLabelText("Name"));
    await user.keyboard("1?");
    expect(screen.getByLabelText("Name")).toHaveValue("1?");
    expect(push).not.toHaveBeenCalled();
    (document.activeElement as HTMLElement).blur();
    await user.keyboard("f");
    expect(screen.getByLabelText("Find")).toHaveFocus();
    expect(screen.getByLabelText("Find")).toHaveValue("");
    expect(onSearch).not.toHaveBeenCalled();
    (document.activeElement as HTMLElement).blur();
    await user.keyboard("/");
    expect(onSearch).toHaveBeenCalledOnce();
  });
});

describe("the page of keys", () => {
  it("lists every key that the screens hear, and closes by Escape", async () => {
    const onClose = vi.fn();
    const { user } = renderOnSite(smallSite(), <KeyHelp open onClose={onClose} />);
    const dialog = screen.getByRole("dialog", { name: "Keys and words" });
    const keys = within(within(dialog).getByRole("region", { name: "Keys" }))
      .getAllByRole("term")
      .map((t) => t.textContent);
    for (const key of ["r", "/", "f", ":", ".", "b", "d", "u", "?", "t"]) expect(keys).toContain(key);
    await user.click(within(dialog).getByRole("button", { name: /close/i }));
    expect(onClose).toHaveBeenCalled();
  });
});

describe("the command line", () => {
  const open = (mode: "all" | "sites") => {
    vi.stubGlobal(
      "fetch",
      async () =>
        new Response(JSON.stringify({ sites: [{ id: "other", name: "Sallow Court" }] }), {
          headers: { "content-type": "application/json" },
        }),
    );
    const onClose = vi.fn();
    const site = renderOnSite(
      smallSite(),
      <LeaveGuard siteId="site">
        <CommandLine mode={mode} onClose={onClose} />
      </LeaveGuard>,
    );
    return { ...site, onClose };
  };
  it("finds a screen, a view and a station by what is typed", async () => {
    const { user, onClose } = open("all");
    await user.type(screen.getByPlaceholderText("What to do, or where to go"), "six we{Enter}");
    expect(push).toHaveBeenLastCalledWith("/sites/site/night?view=weeks");
    expect(onClose).toHaveBeenCalled();
    await user.type(screen.getByPlaceholderText("What to do, or where to go"), "2 S2");
    await user.click(await screen.findByRole("option", { name: /2 S2/ }));
    expect(push).toHaveBeenLastCalledWith("/sites/site/stations?at=s2");
  });
  it("does what can be done: discards, undoes, changes units", async () => {
    const { user, draft, now } = open("all");
    act(() => draft.edit(rename));
    await user.click(screen.getByRole("option", { name: "Discard all changes" }));
    expect(now().site.notes).toBeUndefined();
    await user.click(screen.getByRole("option", { name: /^Undo/ }));
    expect(now().site.notes).toBe("changed");
    await user.click(screen.getByRole("option", { name: /^Change units/ }));
    expect(draft.store.getState().units).toBe("us");
  });
  it("as the site switcher lists sites only, and goes to their night", async () => {
    const { user } = open("sites");
    await waitFor(() => expect(screen.getByRole("option", { name: "Sallow Court" })).toBeInTheDocument());
    expect(screen.queryByRole("option", { name: /^Undo/ })).toBeNull();
    await user.click(screen.getByRole("option", { name: "Sallow Court" }));
    expect(push).toHaveBeenLastCalledWith("/sites/other/night");
  });
});
