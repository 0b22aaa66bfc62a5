import { act, screen, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Compared } from "@/core/limits/advice";
import { SCHOOLS } from "@/core/limits/schools";
import type { PolicyFigures } from "@/core/limits/judgement";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import type { JudgementAnswer } from "@/workers/computing";
import { JudgementPanel } from "./judgement-panel";

const { judged, Cancelled } = vi.hoisted(() => ({
  judged: { jobs: [] as Job[] },
  Cancelled: class extends Error {},
}));
type Job = { give: (answer: JudgementAnswer) => void; fail: (why: Error) => void; progress: (share: number) => void };
vi.mock("@/components/draft/compute", () => ({
  Cancelled,
  computeJudgement: (_site: SiteFile, _date: string, _sets: unknown, progress: (share: number) => void) => {
    let cancel: () => void = () => {};
    const promise = new Promise<JudgementAnswer>((give, fail) => {
      judged.jobs.push({ give, fail, progress });
      cancel = () => fail(new Cancelled("cancelled"));
    });
    return { promise, cancel };
  },
}));
beforeEach(() => {
  judged.jobs = [];
});

const figures = (more: Partial<PolicyFigures> = {}): PolicyFigures => ({
  stations: 3,
  lateralNever: [],
  lateralSometimes: [],
  outletNever: [],
  neverOpensUnseen: [],
  watched: 0.9,
  lateralL: { mean: 120, worst: 300, worstId: "s2" },
  falseTrips: { perSeason: 0.4, low: 0.1, high: 1.2, nights: 60, seasonNights: 26 },
  ...(more as object),
});
const school = (id: string, more: Partial<PolicyFigures> = {}): Compared => {
  const found = SCHOOLS.find((s) => s.id === id);
  if (!found) throw new Error(`no school ${id}`);
  return { id, name: found.name, policy: { ...smallSite().policy, ...found.policy }, figures: figures(more) };
};
const now = (): Compared => ({ id: null, name: "as it stands", policy: smallSite().policy, figures: figures() });
const answer = (more: Partial<JudgementAnswer> = {}): JudgementAnswer => ({
  rows: [now(), school("watchful"), school("steady", { lateralNever: ["s1"], lateralSometimes: ["s2"] })],
  advice: null,
  remedies: [],
  ...more,
});
const open = async (given: JudgementAnswer, { role = "manager", file = smallSite() } = {}) => {
  const view = renderOnSite(file, <JudgementPanel />, { role });
  await act(async () => judged.jobs[0]?.give(given));
  return view;
};
const row = (name: string): HTMLElement => {
  const found = screen.getAllByRole("row").find((r) => within(r).queryByText(name));
  if (!found) throw new Error(`no row ${name}`);
  return found;
};

describe("starting points compared", () => {
  it("are worked out when one comes, show how far, and can be given up", async () => {
    const { user } = renderOnSite(smallSite(), <JudgementPanel />);
    expect(judged.jobs).toHaveLength(1);
    await act(async () => judged.jobs[0]?.progress(0.4));
    expect(screen.getByRole("progressbar", { name: "Judging" })).toHaveAttribute("value", "0.4");
    await user.click(screen.getByRole("button", { name: "Cancel" }));
    await user.click(await screen.findByRole("button", { name: "Work it out" }));
    expect(judged.jobs).toHaveLength(2);
  });
  it("that could not be worked out say why, and may be asked for again", async () => {
    renderOnSite(smallSite(), <JudgementPanel />);
    await act(async () => judged.jobs[0]?.fail(new Error("No station runs on this night.")));
    expect(await screen.findByRole("alert")).toHaveTextContent("No station runs on this night.");
    expect(screen.getByRole("button", { name: "Work it out" })).toBeEnabled();
  });
  it("stand side by side on one footing", async () => {
    await open(answer());
    expect(row("Steady")).toHaveTextContent(/1 \+ 1 of 3/);
    expect(row("Steady")).toHaveTextContent(/0\.4 \(0\.1 to 1\.2\)/);
    expect(row("Steady")).toHaveTextContent(/90 %/);
    expect(row("Steady")).toHaveTextContent(/120 L, 300 L at 2/);
    expect(row("as it stands")).toHaveTextContent(/\+20, −25 %, 60 s/);
    expect(within(row("as it stands")).queryByRole("button")).toBeNull();
  });
  it("what trips too often and what is hardly watched stand out", async () => {
    await open(
      answer({
        rows: [
          school("watchful", {
            falseTrips: { perSeason: 14, low: 9, high: 22, nights: 60, seasonNights: 26 },
            watched: 0.31,
          }),
          school("observe", { watched: null, lateralL: null }),
        ],
      }),
    );
    expect(within(row("Watchful")).getByText("14 (9 to 22)")).toHaveClass("text-error");
    expect(within(row("Watchful")).getByText("31 %")).toHaveClass("text-warning");
    expect(within(row("Observe")).getAllByText("–").length).toBeGreaterThanOrEqual(2);
  });
  it("the advised one is named with its reasons, and taken in one press and one step of undo", async () => {
    const {
      user,
      now: file,
      draft,
    } = await open(
      answer({
        advice: {
          id: "steady",
          reasons: [
            { code: "cheapest", litres: 120, falseTrips: 0.4 },
            { code: "falseTrips", name: "Watchful", perSeason: 14 },
            { code: "unseen", stations: 1, of: 3 },
          ],
        },
      }),
    );
    expect(screen.getByLabelText("Presa would take it").closest("tr")).toBe(row("Steady"));
    const reasons = screen.getAllByRole("listitem").map((li) => li.textContent);
    expect(reasons[0]).toMatch(/a broken lateral costs least under it: 120 L on average/);
    expect(reasons[1]).toBe("Watchful would trip for nothing 14 times a season here.");
    expect(reasons[2]).toMatch(/^At 1 of 3 stations/);
    const main = screen
      .getAllByRole("button", { name: "Take Steady" })
      .find((b) => b.closest("tr") === null) as HTMLElement;
    await user.click(main);
    expect(file().policy.preset).toBe("steady");
    expect(within(row("Steady")).getByRole("button")).toBeDisabled();
    expect(screen.getByText(/worked out before the last change/)).toBeInTheDocument();
    act(() => draft.undo());
    expect(file().policy.preset).toBeUndefined();
    expect(screen.queryByText(/worked out before the last change/)).toBeNull();
  });
  it("each reason has words of its own, in the site's units", async () => {
    await open(
      answer({
        advice: {
          id: "observe",
          reasons: [
            { code: "notLearned", learned: 1, stations: 3 },
            { code: "quietest", falseTrips: 3.25 },
            { code: "unwatched", watched: 0.4 },
            { code: "learnSets", more: 2 },
            { code: "cheapest", litres: 378.541, falseTrips: 0.4 },
          ],
        },
      }),
      {
        file: smallSite((s) => {
          s.site.units = "us";
        }),
      },
    );
    const reasons = screen.getAllByRole("listitem").map((li) => li.textContent);
    expect(reasons).toEqual([
      expect.stringMatching(/^Only 1 of 3 stations are learned/),
      expect.stringMatching(/this one least, 3\.[23] times/),
      expect.stringMatching(/only 40 % of run time is watched/),
      expect.stringMatching(/would make 2 more of them seen/),
      expect.stringMatching(/100 gal on average/),
    ]);
  });
  it("breaks that pass unseen say what would change that, or that nothing would by itself", async () => {
    await open(
      answer({
        remedies: [
          {
            stationId: "s3",
            withIds: ["s1", "s3"],
            highPercent: null,
            setLearned: true,
            fewerAtOnce: { atOnce: 1, laterMin: 10 },
          },
          { stationId: "s2", withIds: ["s2"], highPercent: 12, setLearned: false, fewerAtOnce: null },
        ] as JudgementAnswer["remedies"],
      }),
    );
    const third = row("3 S3");
    expect(third).toHaveTextContent("3 S31would trip for nothingsees it1 at once sees it; the night ends 10 min later");
    expect(row("2 S2")).toHaveTextContent("2 S2alone+12 % sees it–not enough by itself");
  });
  it("are looked at, and taken by nobody who only looks", async () => {
    await open(answer({ advice: { id: "steady", reasons: [{ code: "cheapest", litres: 1, falseTrips: 0.4 }] } }), {
      role: "viewer",
    });
    expect(screen.queryByRole("button", { name: /^Take/ })).toBeNull();
  });
});
