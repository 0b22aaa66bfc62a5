import { screen, waitFor, within } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { learningServer, NOTHING_LEARNED, proposal } from "@/testing/learning-server";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { LearnScreen } from "./learn-screen";

vi.mock("next/navigation", () => import("@/testing/navigation-here"));
vi.mock("@/components/draft/compute", () => import("@/testing/compute-here"));
beforeEach(() => window.history.replaceState(null, "", "/sites/site/learn"));
afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});
const file = smallSite();
const open = (view: string, role = "manager") => {
  window.history.replaceState(null, "", `/sites/site/learn?view=${view}`);
  return renderOnSite(file, <LearnScreen />, { role });
};
/** A minute of readings for each station, one a second, as a recorder writes them. */
const log = (flows: readonly [station: number, lpm: number][]): string => {
  const rows = flows.flatMap(([station, lpm], k) =>
    Array.from({ length: 240 }, (_, i) => {
      const at = k * 240 + i;
      const clock = [2, Math.floor(at / 60), at % 60].map((n) => String(n).padStart(2, "0")).join(":");
      return `2026-07-14 ${clock},${(lpm + (i % 3) * 0.1).toFixed(2)},${station}`;
    }),
  );
  return `time,flow L/min,station\n${rows.join("\n")}\n`;
};

describe("flows from a list", () => {
  it("are looked at before anything is proposed; a line that cannot be is told by number", async () => {
    const sent = learningServer(NOTHING_LEARNED, file);
    const { user } = open("outside");
    await user.click(await screen.findByLabelText("or paste it"));
    await user.paste("station,flow L/min\n1,98.5\n9,40\n3,51");
    await user.click(screen.getByRole("button", { name: "Look at it" }));
    const inside = screen.getByRole("region", { name: "In" });
    expect(inside).toHaveTextContent("2 stations would be proposed, 2 accepted; 1 line refused.");
    expect(within(inside).getByText(/line 3:/)).toBeInTheDocument();
    expect(sent).toEqual([]);
    await user.click(within(inside).getByRole("button", { name: "Propose what is right" }));
    await waitFor(() => expect(window.location.search).toBe("?view=ledger"));
    expect(sent[0]).toMatchObject({
      path: "/api/sites/site/learning/outside",
      body: { how: "list", source: "pasted", unit: "L/min", columns: ["station", "flow"] },
    });
  });
  it("a column stands for one thing: given to another, it is skipped where it was", async () => {
    learningServer(NOTHING_LEARNED, file);
    const { user } = open("outside");
    await user.click(await screen.findByLabelText("or paste it"));
    await user.paste("no,old,new\n1,90,98\n2,91,99");
    await user.click(screen.getByRole("button", { name: "Look at it" }));
    await user.selectOptions(screen.getByLabelText("old"), "learned flow");
    await user.selectOptions(screen.getByLabelText("new"), "learned flow");
    expect(screen.getByLabelText("old")).toHaveValue("skip");
    await user.selectOptions(screen.getByLabelText("no"), "station number");
    const cells = within(screen.getByRole("region", { name: "In" }))
      .getAllByRole("cell")
      .map((c) => c.textContent);
    expect(cells).toContain("98 L/min");
    await user.selectOptions(screen.getByLabelText("Flow in"), "gal/min");
    expect(
      within(screen.getByRole("region", { name: "In" }))
        .getAllByRole("cell")
        .map((c) => c.textContent),
    ).toContain("371 L/min");
  });
  it("a file that is nothing of the kind says so, and is left", async () => {
    learningServer(NOTHING_LEARNED, file);
    const { user } = open("outside");
    await user.upload(
      await screen.findByLabelText("File of flows"),
      new File(["dear diary"], "diary.txt", { type: "text/plain" }),
    );
    expect(await screen.findByRole("alert")).toBeInTheDocument();
    expect(screen.getByRole("button", { name: /^Propose/ })).toBeDisabled();
    await user.click(screen.getByRole("button", { name: "Leave it" }));
    expect(screen.getByLabelText("or paste it")).toBeInTheDocument();
  });
});

describe("a recorder's log", () => {
  it("is known by its time, run through the test of the bench, and proposed with its date", async () => {
    const sent = learningServer(NOTHING_LEARNED, file);
    const { user } = open("outside");
    await user.click(await screen.findByLabelText("or paste it"));
    await user.paste(
      log([
        [1, 97],
        [2, 103],
      ]),
    );
    await user.click(screen.getByRole("button", { name: "Look at it" }));
    expect(screen.getByLabelText("It is")).toHaveValue("readings");
    const inside = screen.getByRole("region", { name: "In" });
    expect(inside).toHaveTextContent(/2 stations would be proposed, 2 accepted/);
    expect(within(inside).getByRole("cell", { name: /^97(\.1)? L\/min$/ })).toBeInTheDocument();
    await user.click(within(inside).getByRole("button", { name: "Propose them" }));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.body).toMatchObject({ how: "readings", date: "2026-07-14", columns: ["time", "flow", "station"] });
  });
  it("of pulses asks how much one is", async () => {
    learningServer(NOTHING_LEARNED, file);
    const { user } = open("outside");
    await user.click(await screen.findByLabelText("or paste it"));
    await user.paste(log([[1, 97]]).replace("flow L/min", "pulses"));
    await user.click(screen.getByRole("button", { name: "Look at it" }));
    expect(screen.getByRole("alert")).toHaveTextContent("Say how many litres one pulse is.");
    await user.type(screen.getByLabelText(/^One pulse/), "0.1{Tab}");
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
  });
  it("is only looked at by who may not bring flows in", async () => {
    learningServer(NOTHING_LEARNED, file);
    open("outside", "viewer");
    expect(await screen.findByText("Your role may look but not bring flows in.")).toBeInTheDocument();
  });
});

describe("one station, in the field", () => {
  it("is timed by meter and stopwatch, several readings together, and proposed", async () => {
    let clock = 0;
    vi.spyOn(performance, "now").mockImplementation(() => clock);
    const sent = learningServer(NOTHING_LEARNED, file);
    const { user } = open("field");
    const watch = await screen.findByRole("region", { name: "Stopwatch" });
    await user.click(within(watch).getByRole("button", { name: "Start" }));
    await user.click(within(watch).getByRole("button", { name: "Add this reading" }));
    expect(within(watch).getByRole("alert")).toHaveTextContent("Stop the watch first.");
    clock += 60_000;
    await user.click(within(watch).getByRole("button", { name: "Stop" }));
    await user.click(within(watch).getByRole("button", { name: "Add this reading" }));
    expect(within(watch).getByRole("alert")).toHaveTextContent("Give the time and what went through");
    await user.type(within(watch).getByLabelText(/^Went through/), "104{Tab}");
    await user.click(within(watch).getByRole("button", { name: "Add this reading" }));
    expect(screen.getByText(/read it again to see how well it repeats/)).toBeInTheDocument();
    await user.type(within(watch).getByLabelText(/^Went through/), "208{Tab}");
    await user.type(within(watch).getByLabelText(/^or the time, typed/), "124.8{Tab}");
    await user.click(within(watch).getByRole("button", { name: "Add this reading" }));
    expect(screen.getByText(/^Together/)).toHaveTextContent(/Together 10[12](\.\d)? L\/min/);
    await user.click(screen.getByRole("button", { name: "Remove reading 2" }));
    expect(screen.getByText(/^Together/)).toHaveTextContent("104 L/min");
    await user.click(screen.getByRole("button", { name: "Propose it" }));
    await waitFor(() => expect(screen.queryByText(/^Together/)).toBeNull());
    expect(sent[0]?.body).toEqual({ how: "stopwatch", stationId: "s1", readings: [{ litres: 104, seconds: 60 }] });
  });
  it("says what stands, what is proposed and by how much it is off; it is taken or left", async () => {
    const sent = learningServer({ ...NOTHING_LEARNED, results: [proposal("s2", 92)] }, file);
    const { user } = open("field");
    expect(await screen.findByText("100 L/min", { selector: "span" })).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "Station after" }));
    expect(screen.getByText(/^Proposed:/)).toHaveTextContent(/92 L\/min ± 1\.1 %.*−8\.0 % against what stands/);
    await user.click(screen.getByRole("button", { name: "Take it" }));
    await waitFor(() => expect(sent[0]?.body).toEqual({ action: "take", picks: [{ runId: "run", stationId: "s2" }] }));
    await user.click(screen.getByRole("button", { name: "Station before" }));
    expect(screen.queryByText(/^Proposed:/)).toBeNull();
  });
  it("that cannot be learned on the bench says why, and can be timed all the same", async () => {
    const other = smallSite((s) => {
      Object.assign(s.stations[0] as object, { lockedOut: true });
    });
    learningServer(NOTHING_LEARNED, other);
    window.history.replaceState(null, "", "/sites/site/learn?view=field");
    renderOnSite(other, <LearnScreen />);
    expect(await screen.findByText(/Cannot be learned:/)).toHaveTextContent(/The stopwatch works all the same/);
    expect(screen.queryByRole("button", { name: /^Learn 1 now/ })).toBeNull();
  });
});

describe("a station's figures so far", () => {
  it("are told newest first, with who, how and which is used", async () => {
    const figures = [
      {
        figure: "design",
        lpm: 100,
        sdLpm: null,
        inUse: false,
        at: "2026-03-01T00:00:00.000Z",
        madeByName: "Ada Fennimore",
        how: null,
        version: 1,
      },
      {
        figure: "learned",
        lpm: 96.5,
        sdLpm: 0.8,
        inUse: true,
        at: "2026-05-02T00:00:00.000Z",
        madeByName: "Odd Brennmoen",
        how: "bench",
        version: 2,
      },
    ];
    learningServer({ ...NOTHING_LEARNED, results: [proposal("s1", 95)] }, file, { figures });
    const { user } = open("ledger");
    await user.click(await screen.findByRole("button", { name: "1 S1" }));
    const one = screen.getByRole("complementary", { name: "One station" });
    expect(await within(one).findByText(/Odd Brennmoen, rehearsed on the bench; rev 2/)).toBeInTheDocument();
    const rows = within(one).getAllByRole("row").slice(1);
    expect(rows.map((r) => r.textContent)).toEqual([
      expect.stringContaining("learned, used96.5 L/min"),
      expect.stringContaining("design100 L/min"),
    ]);
  });
});
