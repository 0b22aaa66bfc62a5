import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { TimelineEntry, TimelinePage } from "@/contracts/timeline";
import { server } from "@/testing/page-server";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { Timeline } from "./timeline";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));
vi.mock("@/components/data/use-alarm-news", () => ({ useAlarmNews: () => {} }));

const who = "Bo Larch";
const ENTRIES: TimelineEntry[] = [
  {
    sort: "deed",
    at: "2026-07-15T06:10:00.123456Z",
    told: { ref: "e1", who, action: "note", words: "drove out", alarmId: "a1", kind: "stationHigh", subjectId: "s2" },
  },
  {
    sort: "alarm",
    at: "2026-07-14T21:40:00.000000Z",
    told: {
      ref: "a1",
      kind: "stationHigh",
      subjectId: "s2",
      message: "168 L/min read",
      state: "open",
      rehearsed: false,
    },
  },
  {
    sort: "save",
    at: "2026-07-13T08:00:00.000000Z",
    told: { ref: "3", who, note: "limits", first: "Station 1: high 20 → 25 %", changes: 2 },
  },
  {
    sort: "send",
    at: "2026-07-12T08:00:00.000000Z",
    told: { ref: "s", who, controllerId: "ctl", version: 3, state: "partly", reason: null },
  },
  {
    sort: "order",
    at: "2026-07-11T09:00:00.000000Z",
    told: { ref: "o", who: null, what: { kind: "stop" }, state: "done", reason: null },
  },
  {
    sort: "learning",
    at: "2026-07-11T08:00:00.000000Z",
    told: { ref: "l", who, how: "bench", state: "done", results: 3 },
  },
  {
    sort: "visit",
    at: "2026-07-10T08:00:00.000000Z",
    told: { ref: "v", who, name: "Monthly", note: "dry", open: false },
  },
  {
    sort: "todo",
    at: "2026-07-09T08:00:00.000000Z",
    told: { ref: "t", who, words: "Lid of box 4", doneBy: null, doneWords: null },
  },
  {
    sort: "due",
    at: "2026-07-08T08:00:00.000000Z",
    told: { ref: "d", who, duty: "battery", subjectId: "ctl", on: "2026-07-07", words: "" },
  },
  { sort: "meter", at: "2026-07-07T08:00:00.000000Z", told: { ref: "m", who, meterId: "wm", m3: 812.5, note: "" } },
  {
    sort: "counter",
    at: "2026-07-06T08:00:00.000000Z",
    told: { ref: "c", who, sensorId: "fs", counter: 1, reason: "a new month" },
  },
  {
    sort: "wire",
    at: "2026-07-05T08:00:00.000000Z",
    told: { ref: "w", who, controllerId: "ctl", how: "typed", stations: 3 },
  },
];

let more: TimelineEntry[];
const open = () => {
  const sent = server(({ path }): TimelinePage => {
    const query = new URL(path, "http://here").searchParams;
    const late = query.get("before") !== null;
    return {
      month: query.get("month") as string,
      first: "2026-05",
      entries: late ? more : ENTRIES,
      next: !late && more.length > 0 ? "here" : null,
    };
  });
  return { sent, ...renderOnSite(smallSite(), <Timeline />) };
};
beforeEach(() => {
  more = [];
  window.history.replaceState(null, "", "/sites/site/log?month=2026-07");
});
afterEach(() => vi.unstubAllGlobals());

describe("the timeline", () => {
  it("tells what happened by the day of the site's own clock, newest first, and leads to each", async () => {
    open();
    const days = await screen.findAllByRole("heading", { level: 3 });
    // 21:40 in UTC is 23:40 in Vienna: still the 14th; the note of 06:10 is the morning after.
    expect(days.slice(0, 3).map((d) => d.textContent)).toEqual([
      expect.stringContaining("15 Jul"),
      expect.stringContaining("14 Jul"),
      expect.stringContaining("13 Jul"),
    ]);
    const links = within(screen.getByRole("list", { name: "Timeline" })).getAllByRole("link");
    expect(links.map((l) => [l.getAttribute("href")?.replace("/sites/site/", ""), l.textContent])).toEqual([
      ["log?view=alarms&at=a1", expect.stringMatching(/^08:10Bo Larch note: drove outon station high: station 2 S2$/)],
      ["log?view=alarms&at=a1", expect.stringMatching(/station high: station 2 S2 \(open\)168 L\/min read/)],
      [
        "log?view=revisions&at=3",
        expect.stringMatching(/Revision 3, Bo Larchlimits; Station 1: high 20 → 25 %; and 1 more/),
      ],
      ["controllers?view=history", expect.stringMatching(/sent revision 3 to .*taken in part/)],
      ["controllers?view=history", expect.stringMatching(/Presa, every night: Stop everythingdone/)],
      ["learn", expect.stringMatching(/Learning, Bo Larchrehearsed on the bench; 3 results/)],
      ["log?view=visits&at=v", expect.stringMatching(/Monthly, Bo Larchdry/)],
      ["log?view=todo&at=t", expect.stringMatching(/To do: Lid of box 4 \(open\)entered by Bo Larch/)],
      ["log?view=todo", expect.stringMatching(/backup battery done 7 Jul 2026, Bo Larch/)],
      ["sensors?view=meter", expect.stringMatching(/wm read 813 m³, Bo Larch/)],
      ["sensors?view=counters", expect.stringMatching(/Counter 1 of .* begun anew, Bo Larcha new month/)],
      ["controllers?view=valves", expect.stringMatching(/checked by wire, Bo Larch3 valves/)],
    ]);
  });
  it("asks for one head, for another month as far as there is one, and for what came earlier in the month", async () => {
    more = [
      {
        sort: "visit",
        at: "2026-07-01T08:00:00.000000Z",
        told: { ref: "v0", who, name: "Spring start", note: "", open: false },
      },
    ];
    const { sent, user } = open();
    await user.click(await screen.findByRole("button", { name: "Earlier in this month" }));
    expect(await screen.findByText("Spring start, Bo Larch")).toBeVisible();
    expect(sent.at(-1)?.path).toContain("before=here");
    await user.click(screen.getByRole("button", { name: "Lockouts" }));
    await waitFor(() => expect(sent.at(-1)?.path).toContain("only=lockouts"));
    await user.click(screen.getByRole("button", { name: "The month before" }));
    await waitFor(() => expect(sent.at(-1)?.path).toContain("month=2026-06&only=lockouts"));
    await user.click(screen.getByRole("button", { name: "The month before" }));
    await waitFor(() => expect(screen.getByRole("button", { name: "The month before" })).toBeDisabled());
  });
});
