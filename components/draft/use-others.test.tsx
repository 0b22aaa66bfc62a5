import { act, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { EventStream } from "@/testing/event-stream";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { useOthersSaves } from "./use-others";

function Hears() {
  useOthersSaves();
  return null;
}
const lockedOut = smallSite((s) => {
  Object.assign(s.stations[0] as object, { lockedOut: true });
});
const asked: string[] = [];
let inForce: { version: number; file: SiteFile } | null = { version: 4, file: lockedOut };
beforeEach(() => {
  asked.length = 0;
  inForce = { version: 4, file: lockedOut };
  EventStream.install();
  vi.stubGlobal("fetch", async (path: string) => {
    asked.push(path);
    if (!inForce) throw new Error("gone");
    return new Response(JSON.stringify(inForce));
  });
});
afterEach(() => vi.unstubAllGlobals());
const noted = (f: SiteFile): SiteFile => ({ ...f, site: { ...f.site, notes: "mine" } });

describe("a save somebody else made", () => {
  it("is brought in with the number it has by then, not the one that was told", async () => {
    const { now, draft } = renderOnSite(smallSite(), <Hears />);
    inForce = { version: 6, file: lockedOut };
    EventStream.last.say({ type: "saved", version: 4, by: "Bo Tarn" });
    await waitFor(() => expect(now().stations[0]?.lockedOut).toBe(true));
    expect(draft.store.getState()).toMatchObject({ version: 6, news: "Bo Tarn saved revision 6; it is shown here." });
    expect(asked).toEqual(["/api/sites/site/revisions"]);
  });
  it("is put under what is changed here, and none of that is touched", async () => {
    const { now, draft } = renderOnSite(smallSite(), <Hears />);
    act(() => draft.edit(noted));
    EventStream.last.say({ type: "saved", version: 4, by: "Bo Tarn" });
    await waitFor(() => expect(now().stations[0]?.lockedOut).toBe(true));
    expect(now().site.notes).toBe("mine");
  });
  it("that is known already is not asked for again", () => {
    renderOnSite(smallSite(), <Hears />);
    EventStream.last.say({ type: "watching", version: 3 });
    EventStream.last.say({ type: "watching" });
    expect(asked).toEqual([]);
  });
  it("waits while one's own is on its way", async () => {
    const { draft } = renderOnSite(smallSite(), <Hears />);
    act(() => draft.say({ saving: true }));
    EventStream.last.say({ type: "saved", version: 4, by: "Bo Tarn" });
    expect(asked).toEqual([]);
    act(() => draft.say({ saving: false }));
    await waitFor(() => expect(draft.store.getState().version).toBe(4));
  });
  it("that cannot be read leaves all as it is; the stream closes with the page", async () => {
    const { now, unmount } = renderOnSite(smallSite(), <Hears />);
    inForce = null;
    EventStream.last.say({ type: "saved", version: 4 });
    await waitFor(() => expect(asked).toHaveLength(1));
    expect(now()).toEqual(smallSite());
    unmount();
    expect(EventStream.opened.every((s) => s.closed)).toBe(true);
  });
});
