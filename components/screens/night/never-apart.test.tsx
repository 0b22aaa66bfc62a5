import { act, screen, waitFor } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { partedNights, type PartedNights } from "@/core/optimize/parted-night";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { NeverApart } from "./never-apart";

type Tell = (nights: PartedNights) => void;
const { jobs, Cancelled } = vi.hoisted(() => ({
  jobs: [] as { groups: string[][]; tell: Tell; give: Tell }[],
  Cancelled: class extends Error {},
}));
vi.mock("@/components/draft/compute", async () => {
  const { computeNight } = await import("@/testing/compute-here");
  return {
    Cancelled,
    computeNight,
    computeParted: (_: SiteFile, __: string, { groups }: { groups: string[][] }, tell: Tell) => {
      let cancel: () => void = () => {};
      const promise = new Promise<PartedNights>((give, fail) => {
        jobs.push({ groups, tell, give });
        cancel = () => fail(new Cancelled("cancelled"));
      });
      return { promise, cancel };
    },
  };
});
beforeEach(() => {
  jobs.length = 0;
});

/** Four stations of like minutes, two at once: each always with its neighbour. */
const twoPairs = (): SiteFile =>
  smallSite((s) => {
    const [program] = s.programs;
    const [first] = s.stations;
    if (!program || !first) return;
    for (const c of s.controllers) c.maxStationsAtOnce = 2;
    s.stations.push({ ...first, id: "s4", number: 4, name: "S4" });
    for (const x of s.stations) x.designFlowLpm = 25;
    program.maxStationsAtOnce = 2;
    program.runs = ["s1", "s2", "s3", "s4"].map((stationId, i) => ({ stationId, minutes: i < 2 ? 10 : 14 }));
  });
const GROUPS = [
  ["s1", "s2"],
  ["s3", "s4"],
];
const NIGHT = "2026-07-14";
const open = (role = "manager", groups = GROUPS) =>
  renderOnSite(
    twoPairs(),
    <NeverApart groups={groups} name={new Map(["s1", "s2", "s3", "s4"].map((s, i) => [s, `${i + 1} S${i + 1}`]))} />,
    { role, date: NIGHT },
  );
const found = (groups = GROUPS): PartedNights =>
  partedNights(twoPairs(), NIGHT, { groups, seed: 1, shouldStop: () => false });
const search = () => screen.getByRole("button", { name: /^An order for .* that parts them$/ });

describe("an order that parts stations", () => {
  it("is searched for the groups that are there, told with its cost, and taken in one step", async () => {
    const { user, draft } = open();
    await waitFor(() => expect(search()).toBeEnabled());
    await user.click(search());
    expect(jobs[0]?.groups).toEqual(GROUPS);
    const nights = found();
    await act(async () => jobs[0]?.give(nights));
    expect(screen.getByText(/^All that run are parted, (at no cost in minutes|in a night)/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Take this order into the draft" }));
    expect(draft.store.getState().draft.programs.map((p) => p.runs)).toEqual(nights.free.programs.map((p) => p.runs));
  });
  it("that takes longer is shown only when asked for, with what it costs", async () => {
    const { user } = open();
    await waitFor(() => expect(search()).toBeEnabled());
    await user.click(search());
    const nights = found();
    const dear = { ...nights.now, together: [], makespanS: nights.now.makespanS + 600, moved: 2 };
    await act(async () => jobs[0]?.give({ ...nights, free: nights.now, most: dear }));
    expect(screen.getByText(/No order was found .* 1 S1 with 2 S2; 3 S3 with 4 S4 stay together/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "One that parts more, for 10 min more of night" }));
    expect(screen.getByText(/^All that run are parted, for 10 min more of night/)).toBeInTheDocument();
  });
  it("is stopped with what was found so far", async () => {
    const { user } = open();
    await waitFor(() => expect(search()).toBeEnabled());
    await user.click(search());
    await act(async () => jobs[0]?.tell({ ...found(), tries: 77 }));
    expect(screen.getByText(/77 orders tried/)).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Stop, keep what is found" }));
    expect(await screen.findByText(/^All that run are parted/)).toBeInTheDocument();
  });
  it("is not for who only looks; many groups are shown when asked for", async () => {
    const many = Array.from({ length: 8 }, (_, i) => [`x${i}`, `y${i}`]);
    const { user } = open("viewer", many);
    expect(screen.queryByRole("button", { name: /An order for/ })).toBeNull();
    expect(screen.getAllByRole("listitem")).toHaveLength(6);
    await user.click(screen.getByRole("button", { name: "2 more" }));
    expect(screen.getAllByRole("listitem")).toHaveLength(8);
  });
});
