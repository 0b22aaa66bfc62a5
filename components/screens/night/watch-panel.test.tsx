import { act, screen, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { limitsOf } from "@/core/limits/budget/take";
import type { WatchableNights } from "@/core/optimize/watchable";
import type { WatchedNight } from "@/core/optimize/watched-night";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { WatchPanel } from "./watch-panel";

type Job = {
  asked: { seconds: number; every: boolean; budget?: unknown };
  tell: (nights: WatchableNights) => void;
  give: (nights: WatchableNights) => void;
};
const { jobs, Cancelled } = vi.hoisted(() => ({ jobs: [] as Job[], Cancelled: class extends Error {} }));
vi.mock("@/components/draft/compute", async () => {
  const { computeNight } = await import("@/testing/compute-here");
  return {
    Cancelled,
    computeNight,
    computeWatchable: (_: SiteFile, __: string, asked: Job["asked"], tell: Job["tell"]) => {
      let cancel: () => void = () => {};
      const promise = new Promise<WatchableNights>((give, fail) => {
        jobs.push({ asked, tell, give });
        cancel = () => fail(new Cancelled("cancelled"));
      });
      return { promise, cancel };
    },
  };
});
vi.mock("@/components/charts/trade-chart", () => ({
  TradeChart: ({
    label,
    curve,
    onChoose,
  }: {
    label: string;
    curve: { id: string; words: string }[];
    onChoose: (id: string) => void;
  }) => (
    <fieldset aria-label={label}>
      {curve.map((p) => (
        <button key={p.id} type="button" onClick={() => onChoose(p.id)}>
          {p.words}
        </button>
      ))}
    </fieldset>
  ),
}));
vi.mock("@/components/data/use-profiles", () => ({ useProfiles: () => ({ all: [] }) }));
beforeEach(() => {
  jobs.length = 0;
});

const night = (minutes: number, seen: number, programs = smallSite().programs): WatchedNight => ({
  makespanS: 60 * minutes,
  stations: 3,
  lateralsSeen: seen,
  lateralsSeenInEvery: seen - 1,
  watched: 0.5 + seen / 10,
  programs,
  unseen: [],
  short: new Map(),
  limits: null,
});
const oneAtATime = smallSite().programs.map((p) => ({ ...p, maxStationsAtOnce: 1 }));
const nights = (): WatchableNights => ({
  now: night(20, 1),
  frontier: [night(20, 1), night(30, 3, oneAtATime)],
  tries: 77,
});

describe("a night that can be watched", () => {
  it("is searched for as it is asked for, shows what it has so far, and keeps it when it is stopped", async () => {
    const { user } = renderOnSite(smallSite(), <WatchPanel />);
    await user.click(screen.getByRole("button", { name: "in every set" }));
    await user.click(await screen.findByRole("button", { name: "Search" }));
    expect(jobs[0]?.asked).toEqual({ seconds: 45, every: true, budget: { trips: 1, profiles: [] } });
    await act(async () => jobs[0]?.tell(nights()));
    expect(screen.getByRole("status")).toHaveTextContent("77 nights tried, 2 stand");
    await user.click(screen.getByRole("button", { name: "Stop, keep what is found" }));
    expect(
      screen.getByText("2 of 3 broken laterals seen in every set for 10 min more of night; as it is 0."),
    ).toBeVisible();
  });
  it("is chosen from the curve or the table and stands beside the night as it is; its settings are taken in one step", async () => {
    const { user, now } = renderOnSite(smallSite(), <WatchPanel />);
    await user.click(await screen.findByRole("button", { name: "Search" }));
    await act(async () => jobs[0]?.give(nights()));
    expect(
      screen.getByText("All broken laterals seen in one set at least for 10 min more of night; as it is 1."),
    ).toBeVisible();
    await user.click(screen.getByRole("button", { name: "30 min, 3 of 3 seen, 80 % of run time watched" }));
    expect(within(screen.getByRole("row", { name: /^30/ })).getByRole("radio")).toBeChecked();
    expect(screen.getByText("P: stations at once 3 → 1")).toBeVisible();
    expect(await screen.findByText(/^Watchable: ends/)).toBeVisible();
    await user.click(screen.getByRole("button", { name: "Take these settings into the draft" }));
    expect(now().programs[0]?.maxStationsAtOnce).toBe(1);
  });
  it("with limits that come with it takes both at once, and says what they trip", async () => {
    const { user, now } = renderOnSite(smallSite(), <WatchPanel />);
    await user.click(await screen.findByRole("button", { name: "Search" }));
    const policy = { ...smallSite().policy, highPercent: 7, persistenceS: 30 };
    const limits = { ...limitsOf({ ...smallSite(), policy }), tripsPerSeason: 0.83 };
    await act(async () => jobs[0]?.give({ ...nights(), frontier: [{ ...night(20, 3), limits }] }));
    const row = screen.getByRole("row", { name: /by budget, 0.83 trips a season$/ });
    await user.click(within(row).getByRole("radio"));
    expect(screen.getByText(/^Limits: \+7, −25 %, 30 s; 0 stations with their own; 0.83 trips/)).toBeVisible();
    await user.click(screen.getByRole("button", { name: "Take these settings into the draft" }));
    expect(now().policy).toMatchObject({ highPercent: 7, persistenceS: 30 });
  });
});
