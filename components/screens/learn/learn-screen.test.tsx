import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { SiteFile } from "@/core/site-file/schema";
import { learningServer, NOTHING_LEARNED, proposal } from "@/testing/learning-server";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { LearnScreen } from "./learn-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));

const open = (view: string, file = smallSite(), role = "manager") => {
  window.history.replaceState(null, "", `/sites/site/learn?view=${view}`);
  return renderOnSite(file, <LearnScreen />, { role });
};
beforeEach(() => window.history.replaceState(null, "", "/sites/site/learn"));
afterEach(() => vi.unstubAllGlobals());

describe("before learning", () => {
  const withoutRun = smallSite((s) => {
    s.programs[0]?.runs.pop();
    Object.assign(s.stations[1] as object, { learned: { meanLpm: 98, sdLpm: 1, at: "2026-06-30T00:00:00.000Z" } });
  });
  it("tells which stations are ready, and why the others are not, with the way to mend it", async () => {
    learningServer(NOTHING_LEARNED, withoutRun);
    open("before", withoutRun);
    expect(await screen.findByRole("heading", { name: "2 ready, 1 not" })).toBeInTheDocument();
    expect(screen.getByRole("link", { name: "has no run time in any program" })).toHaveAttribute(
      "href",
      "/sites/site/programs",
    );
    expect(screen.getByText(/With everything closed, a leak shows from/)).toHaveTextContent("10 L/min");
  });
  it("works out time and water of what is chosen, and asks for just that", async () => {
    const sent = learningServer(NOTHING_LEARNED, withoutRun);
    const { user } = open("before", withoutRun);
    expect(await screen.findByText(/of site time/)).toHaveTextContent(/ends 08:\d\d/);
    const [, before] = /([\d,]+) L;/.exec(screen.getByText(/of site time/).textContent ?? "") ?? [];
    await user.click(screen.getByRole("button", { name: "Stale or never learned, 1" }));
    await waitFor(() => {
      const [, after] = /([\d,]+) L;/.exec(screen.getByText(/of site time/).textContent ?? "") ?? [];
      expect(Number(after?.replace(",", ""))).toBeLessThan(Number(before?.replace(",", "")));
    });
    await user.click(screen.getByRole("button", { name: "Learn 1 station on the bench" }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]).toMatchObject({
      path: "/api/sites/site/learning",
      body: { stationIds: ["s1"], from: "08:00", avoid: true, later: false, baselineS: 60, faults: [], sets: [] },
    });
    expect(window.location.search).toBe("?view=ledger");
  });
  it("is not begun with unsaved changes, nor by who only looks", async () => {
    learningServer(NOTHING_LEARNED, withoutRun);
    const { draft } = open("before", withoutRun);
    await screen.findByText(/of site time/);
    draft.edit((f) => ({ ...f, site: { ...f.site, notes: "x" } }));
    expect(await screen.findByText(/Save your changes first/)).toBeInTheDocument();
    expect(screen.getByRole("button", { name: /^Learn 2/ })).toBeDisabled();
  });
  it("shows no way to begin to who only looks", async () => {
    learningServer(NOTHING_LEARNED, withoutRun);
    open("before", withoutRun, "viewer");
    await screen.findByRole("heading", { name: "2 ready, 1 not" });
    expect(screen.queryByRole("button", { name: /^Learn \d/ })).toBeNull();
  });
});

describe("what was learned", () => {
  const like = (s: SiteFile): void => {
    s.stations = Array.from({ length: 6 }, (_, i) => ({
      ...(s.stations[0] as SiteFile["stations"][number]),
      id: `s${i + 1}`,
      number: i + 1,
      name: `S${i + 1}`,
      designFlowLpm: 100,
    }));
    (s.programs[0] as SiteFile["programs"][number]).runs = s.stations.map((x) => ({ stationId: x.id, minutes: 10 }));
  };
  const file = smallSite(like);
  const results = file.stations.map((s, i) => proposal(s.id, i === 3 ? 61 : 99 + i / 4));
  it("is proposed beside what stands; the odd one is named and not ticked, and is taken only by itself", async () => {
    const sent = learningServer({ ...NOTHING_LEARNED, results }, file);
    const { user } = open("ledger", file);
    expect(await screen.findByText(/1 odd: 4/)).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Take 5 learned flows" })).toBeEnabled();
    await user.click(screen.getByRole("button", { name: "4 S4" }));
    const one = screen.getByRole("complementary", { name: "One station" });
    expect(one).toHaveTextContent(/−39.*against its design/);
    expect(within(one).getAllByRole("listitem").length).toBeGreaterThan(1);
    await user.click(within(one).getByRole("button", { name: "Take only this" }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.body).toEqual({ action: "take", picks: [{ runId: "run", stationId: "s4" }] });
  });
  it("is taken as ticked, and can be undone while it stands", async () => {
    const sent = learningServer({ ...NOTHING_LEARNED, results }, file, {
      onSend: ({ body }, v) => ({
        ...v,
        results: v.results.map((r) =>
          body?.["action"] === "take" && r.elementId !== "s4"
            ? { ...r, takenAt: "2026-07-13T11:00:00.000Z", before: {} }
            : { ...r, takenAt: null },
        ),
      }),
    });
    const { user, draft } = open("ledger", file);
    await user.click(await screen.findByRole("button", { name: "None" }));
    expect(screen.getByRole("button", { name: "Take 0 learned flows" })).toBeDisabled();
    await user.click(screen.getByRole("button", { name: "All but the odd" }));
    await user.click(screen.getByRole("button", { name: "Take 5 learned flows" }));
    await user.click(await screen.findByRole("button", { name: "Undo taking 5" }));
    await waitFor(() => expect(sent).toHaveLength(2));
    expect(sent.map((s) => [s.body?.["action"], (s.body?.["picks"] as unknown[] | undefined)?.length])).toEqual([
      ["take", 5],
      ["undo", 5],
    ]);
    expect(draft.store.getState().version).toBe(4);
  });
  it("of which all are off by one factor is the sensor's constant, which is set by one press", async () => {
    learningServer({ ...NOTHING_LEARNED, results: file.stations.map((s) => proposal(s.id, 125)) }, file);
    const { user, now } = open("ledger", file);
    expect(await screen.findByRole("alert")).toHaveTextContent(/All 6 stations behind .* read \+25/);
    await user.click(screen.getByRole("button", { name: /^Set K 1\.28/ }));
    expect(JSON.stringify(now().pocs[0]?.devices[1])).toContain('"kGpm":1.28');
  });
  it("that was not accepted cannot be ticked", async () => {
    learningServer({ ...NOTHING_LEARNED, results: [proposal("s1", 40, { verdict: "unsteady" })] }, file);
    open("ledger", file);
    expect(await screen.findByRole("button", { name: "Take 0 learned flows" })).toBeDisabled();
    expect(screen.getByRole("cell", { name: "unsteady" })).toBeInTheDocument();
  });
  it("of nothing says what will come here", async () => {
    learningServer(NOTHING_LEARNED, file);
    open("ledger", file);
    expect(await screen.findByText(/Nothing learned yet on this site/)).toBeInTheDocument();
  });
});

describe("sets of the night", () => {
  const file = smallSite((s) => {
    Object.assign(s.programs[0] as object, { maxStationsAtOnce: 2 });
    Object.assign(s.mainlines[0] as object, { ceilingLpm: 220 });
  });
  const together = (ids: string[], more: object = {}) => ({
    runId: "run",
    stationIds: ids,
    verdict: "accepted" as const,
    meanLpm: 188,
    sdLpm: 1,
    partsLpm: 200,
    ratio: 0.94,
    samples: 60,
    at: "2026-07-13T10:00:00.000Z",
    ...more,
  });
  it("are chosen by how much of the night they cover, and go along with the next run", async () => {
    const sent = learningServer(NOTHING_LEARNED, file);
    const { user } = open("sets", file);
    await user.click(await screen.findByRole("button", { name: "Choose what is needed for 100 %" }));
    expect(screen.getByRole("tab", { name: /^Sets, \d chosen/ })).toBeInTheDocument();
    await user.click(screen.getByRole("tab", { name: /^Before/ }));
    await user.click(await screen.findByRole("button", { name: /^Learn 3 stations/ }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.body).toMatchObject({ sets: [expect.any(Array)] });
  });
  it("learned, give a ratio to take; one that reads as if a station did not run says so", async () => {
    const sent = learningServer(
      {
        ...NOTHING_LEARNED,
        sets: [together(["s1", "s2"]), together(["s1", "s3"], { meanLpm: 99, partsLpm: 150, ratio: 0.66 })] as never,
      },
      file,
    );
    const { user } = open("sets", file);
    const learned = await screen.findByRole("region", { name: "Learned sets" });
    expect(await within(learned).findByText("0.940")).toBeInTheDocument();
    expect(learned).toHaveTextContent("1 + 3 as if 3 did not run");
    await user.click(within(learned).getByRole("checkbox", { name: "Take the ratio of 1, 3" }));
    await user.click(within(learned).getByRole("button", { name: "Take 1 ratio" }));
    await waitFor(() => expect(sent[0]?.path).toBe("/api/sites/site/learning/run/sets"));
    expect(sent[0]?.body).toEqual({ sets: [["s1", "s2"]] });
  });
});
