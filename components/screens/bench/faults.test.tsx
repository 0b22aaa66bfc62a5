import { screen, within } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import type { FaultRequest } from "@/core/bench/faults/resolve";
import { simulate } from "@/core/bench/simulate";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import { BenchResult } from "./bench-result";
import { faultOnRun } from "./drop-fault";
import { eventBeside, EventList, eventsOf } from "./event-list";
import { FaultList } from "./fault-list";
import { FaultPalette } from "./fault-palette";
import type { BenchRun } from "./use-bench";

const NIGHT = "2026-07-14";
function Faults({ first, told }: { first: FaultRequest[]; told: (faults: FaultRequest[]) => void }) {
  const [faults, setFaults] = useState(first);
  const change = (next: FaultRequest[]): void => {
    setFaults(next);
    told(next);
  };
  return <FaultList faults={faults} date={NIGHT} onChange={change} calm="an ordinary night" />;
}
const ran = (faults: FaultRequest[], file: SiteFile = smallSite()): BenchRun => {
  const asked = { date: NIGHT, faults, seed: 1, exact: true };
  const outcome = simulate(file, asked);
  if (!outcome.ok) throw new Error("the night was not played");
  return { file, asked, result: outcome.result } as BenchRun;
};
const BREAK: FaultRequest = { at: "+120", kind: "brokenLateral", subjectId: "s1", size: 90 };

describe("faults", () => {
  it("are listed with their own clock times; any time of the night is understood", async () => {
    const told = vi.fn();
    const { user } = renderOnSite(smallSite(), <Faults first={[]} told={told} />);
    expect(screen.getByText("an ordinary night")).toBeInTheDocument();
    await user.click(screen.getByRole("button", { name: "fault" }));
    expect(screen.getByRole("textbox", { name: "from" })).toHaveValue("22:15:00");
    await user.clear(screen.getByRole("textbox", { name: "from" }));
    await user.type(screen.getByRole("textbox", { name: "from" }), "22:05{Enter}");
    expect(told).toHaveBeenLastCalledWith([expect.objectContaining({ at: "+300" })]);
    await user.type(screen.getByRole("textbox", { name: "Size, L/min" }), "60{Enter}");
    await user.selectOptions(screen.getByRole("combobox", { name: "on" }), "s2");
    expect(told).toHaveBeenLastCalledWith([
      expect.objectContaining({ kind: "brokenLateral", subjectId: "s2", size: 60 }),
    ]);
  });

  it("turned to another kind, one keeps its time and finds a subject that fits", async () => {
    const told = vi.fn();
    const { user } = renderOnSite(smallSite(), <Faults first={[BREAK]} told={told} />);
    await user.selectOptions(screen.getByRole("combobox", { name: "Fault" }), "sensorDead");
    expect(told).toHaveBeenLastCalledWith([{ at: "+120", kind: "sensorDead", subjectId: "fs" }]);
    await user.click(screen.getByRole("button", { name: "Remove" }));
    expect(told).toHaveBeenLastCalledWith([]);
  });

  it("dropped on a run begin inside it, on its station or on what carries its water", () => {
    const run = { stationId: "s2", start: "2026-07-14T22:00:00+02:00", end: "2026-07-14T22:10:00+02:00" };
    const start = Date.parse(run.start) / 1000;
    expect(faultOnRun(smallSite(), "clogged", run, start)).toEqual({ kind: "clogged", subjectId: "s2", at: "+200" });
    expect(faultOnRun(smallSite(), "mainlineBreak", run, start)?.subjectId).toBe("main");
    expect(faultOnRun(smallSite(), "sensorDead", run, start)?.subjectId).toBe("fs");
    expect(faultOnRun(smallSite(), "pumpFailed", run, start)).toBeNull();
  });

  it("the palette offers what the site has, and one is taken up and laid down by keyboard", async () => {
    const onArm = vi.fn();
    const { user } = renderOnSite(
      smallSite(),
      <FaultPalette armed="clogged" onArm={onArm} onDrop={() => {}}>
        <p>the braid</p>
      </FaultPalette>,
    );
    const palette = within(screen.getByRole("group", { name: "Faults to drop" }));
    expect(palette.queryByRole("button", { name: "pump failed" })).toBeNull();
    const clogged = palette.getByRole("button", { pressed: true });
    clogged.focus();
    await user.keyboard("{Enter}");
    expect(onArm).toHaveBeenLastCalledWith(null);
    await user.click(palette.getAllByRole("button", { pressed: false })[0] as HTMLElement);
    expect(onArm).not.toHaveBeenLastCalledWith(null);
  });
});

describe("what came of a night", () => {
  it("a fault that was seen is said so, with its alarm, what was locked out and lost", () => {
    renderOnSite(smallSite(), <BenchResult run={ran([BREAK])} />);
    const result = screen.getByLabelText("Result");
    expect(result).toHaveTextContent(/alarms1/);
    expect(result).toHaveTextContent(/locked out.*S1/);
    expect(within(screen.getByRole("list", { name: "Alarms" })).getAllByRole("listitem")).toHaveLength(1);
    expect(screen.getByRole("list", { name: "Verdict" })).toHaveTextContent(/S1/);
  });

  it("a calm night says nothing of verdicts", () => {
    renderOnSite(smallSite(), <BenchResult run={ran([])} />);
    expect(screen.queryByRole("list", { name: "Verdict" })).toBeNull();
    expect(screen.getByLabelText("Result")).toHaveTextContent(/locked outnone/);
  });

  it("its events are stepped through, and only what matters is shown unless more is asked for", async () => {
    const { result } = ran([BREAK]);
    const all = eventsOf(result, false);
    const some = eventsOf(result, true);
    expect(some.length).toBeLessThan(all.length);
    const [one, two] = all.map((e) => Date.parse(e.at) / 1000).filter((t, i, ts) => ts.indexOf(t) === i) as [
      number,
      number,
    ];
    expect(eventBeside(all, one, 1)).toBe(two);
    expect(eventBeside(all, two, -1)).toBe(one);
    expect(eventBeside([], one, 1)).toBeNull();
    const [onAt, onOnlyMatters] = [vi.fn(), vi.fn()];
    const { user } = renderOnSite(
      smallSite(),
      <EventList site={smallSite()} events={some} at={0} onlyMatters onOnlyMatters={onOnlyMatters} onAt={onAt} />,
    );
    await user.click(screen.getByRole("checkbox", { name: "only what matters" }));
    expect(onOnlyMatters).toHaveBeenCalledWith(false);
    await user.click(screen.getAllByRole("row")[1] as HTMLElement);
    expect(onAt).toHaveBeenCalledOnce();
  });
});
