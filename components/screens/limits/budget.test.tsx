import { act, screen, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { BudgetPoint, LimitsByBudget } from "@/core/limits/budget/budget";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { BudgetPanel } from "./budget-panel";

type Job = {
  asked: { trips: number; assumed: { lateralsPer100: number; outletsPer100: number } };
  give: (found: LimitsByBudget) => void;
  progress: (share: number) => void;
};
const { jobs, Cancelled } = vi.hoisted(() => ({ jobs: [] as Job[], Cancelled: class extends Error {} }));
vi.mock("@/components/draft/compute", () => ({
  Cancelled,
  computeLimits: (_: SiteFile, __: string, asked: Job["asked"], progress: Job["progress"]) => {
    let cancel: () => void = () => {};
    const promise = new Promise<LimitsByBudget>((give, fail) => {
      jobs.push({ asked, give, progress });
      cancel = () => fail(new Cancelled("cancelled"));
    });
    return { promise, cancel };
  },
}));
vi.mock("@/components/charts/trade-chart", () => ({
  TradeChart: ({ curve, onChoose }: { curve: { id: string; words: string }[]; onChoose: (id: string) => void }) => (
    <ul>
      {curve.map((p) => (
        <li key={p.id}>
          <button type="button" onClick={() => onChoose(p.id)}>
            {p.words}
          </button>
        </li>
      ))}
    </ul>
  ),
}));
vi.mock("@/components/data/use-profiles", () => ({ useProfiles: () => ({ all: [] }) }));
beforeEach(() => {
  jobs.length = 0;
});

const point = (
  trips: number,
  litres: number,
  site: SiteFile,
  name = "Found",
  id: string | null = null,
): BudgetPoint => ({
  id,
  name,
  site,
  figures: {
    tripsPerSeason: trips,
    low: 0.8 * trips,
    high: 1.2 * trips,
    litresAYear: litres,
    stations: 3,
    lateralsSeen: 3,
    outletsSeen: 2,
    neverOpensSeen: 3,
    watched: 0.9,
  },
});
const tight = (percent: number): SiteFile =>
  smallSite((s) => {
    Object.assign(s.policy, { highPercent: percent, persistenceS: 30 });
    Object.assign(s.mainlines[0] as object, { holdOffS: 30 });
    Object.assign(s.stations[1] as object, { highPercent: 5 });
  });
const found = (): LimitsByBudget => {
  const [few, within] = [point(0.1, 400, tight(12)), point(0.9, 250, tight(8))];
  return {
    now: point(0, 3000, smallSite(), "As it stands"),
    best: within,
    curve: [few, within],
    schools: [point(0, 2500, smallSite(), "Watchful", "watchful")],
  };
};
const open = async (given = found(), options = {}) => {
  const view = renderOnSite(smallSite(), <BudgetPanel />, options);
  await view.user.click(screen.getByRole("button", { name: "Work it out" }));
  await act(async () => jobs[0]?.give(given));
  return view;
};

describe("limits by budget", () => {
  it("are searched for what the person puts up with and what counts; they show how far and can be given up", async () => {
    const { user } = renderOnSite(smallSite(), <BudgetPanel />);
    await user.clear(screen.getByRole("textbox", { name: "Trips for nothing in a season, at most" }));
    await user.type(screen.getByRole("textbox", { name: "Trips for nothing in a season, at most" }), "3{Enter}");
    await user.click(screen.getByRole("checkbox", { name: "broken outlets" }));
    await user.click(screen.getByRole("button", { name: "Work it out" }));
    expect(jobs[0]?.asked).toMatchObject({ trips: 3, assumed: { lateralsPer100: 1, outletsPer100: 0 } });
    await act(async () => jobs[0]?.progress(0.4));
    expect(screen.getByRole("progressbar", { name: "Searching" })).toHaveValue(0.4);
    await user.click(screen.getByRole("button", { name: "Cancel" }));
    expect(screen.getByRole("button", { name: "Work it out" })).toBeInTheDocument();
    await user.click(screen.getByRole("checkbox", { name: "broken laterals" }));
    expect(screen.getByText("Nothing counts: say of laterals or outlets how many break.")).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Work it out" })).toBeDisabled();
  });
  it("stand beside what is there; another is chosen on the curve or in the table, and taken in one step", async () => {
    const { user, now } = await open();
    const row = screen.getByRole("row", { name: /least water within the budget/ });
    expect(within(row).getByRole("radio")).toBeChecked();
    expect(screen.getByRole("row", { name: /^As it stands/ })).toHaveTextContent("< 0.01");
    await user.click(screen.getByRole("button", { name: /^0.1 a season, 400 L a year/ }));
    expect(screen.getByRole("row", { name: /^with 0.1 trips/ })).toHaveAttribute("aria-selected", "true");
    const settings = screen.getByRole("region", { name: "Settings of this choice" });
    expect(settings).toHaveTextContent("+20, −25 %, 60 s, find and isolate → +12, −25 %, 30 s, find and isolate");
    expect(settings).toHaveTextContent("Main 60 → 30 s");
    expect(settings).toHaveTextContent("1 with limits of their own");
    await user.click(within(settings).getByRole("button", { name: "Take these limits into the draft" }));
    expect(now().policy).toMatchObject({ highPercent: 12, persistenceS: 30 });
    expect(now().mainlines[0]?.holdOffS).toBe(30);
    expect(now().stations.map((s) => s.highPercent)).toEqual([undefined, 5, undefined]);
    // They were worked out on what stood before.
    expect(screen.getByText(/worked out before the last change/)).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Take these limits into the draft" })).toBeDisabled();
  });
  it("say so where nothing trips so seldom, and where nothing runs; who may not edit takes nothing", async () => {
    const { unmount } = await open({ ...found(), best: null });
    expect(screen.getByText(/^Nothing that was tried trips so seldom/)).toBeInTheDocument();
    unmount();
    jobs.length = 0;
    const second = await open({ ...found(), best: null, curve: [] }, { role: "viewer" });
    expect(screen.getByText(/^Nothing runs on the night of/)).toBeInTheDocument();
    second.unmount();
    jobs.length = 0;
    await open(found(), { role: "viewer" });
    expect(screen.queryByRole("button", { name: /Take these limits/ })).toBeNull();
  });
});
