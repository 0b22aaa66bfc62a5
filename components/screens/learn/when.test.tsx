import { screen } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import type { Rehearsal } from "@/core/learn/rehearse";
import type { SiteFile } from "@/core/site-file/schema";
import { renderOnSite } from "@/testing/site-around";
import { smallSite } from "@/testing/small-site";
import type { Schedule } from "../../data/use-learning";
import { BaselineSights, Estimate, WhenForm } from "./when-form";
import { duration, signed } from "./words";

const TONIGHT: Schedule = { date: "2026-07-14", from: "21:00", avoid: true, pace: 60, later: false };

function Form({ heard, running }: { heard: (when: Schedule) => void; running: boolean }) {
  const [when, setWhen] = useState(TONIGHT);
  const [baselineMin, setBaseline] = useState(1);
  return (
    <WhenForm
      when={when}
      onWhen={(w) => {
        setWhen(w);
        heard(w);
      }}
      baselineMin={baselineMin}
      onBaseline={setBaseline}
      running={running}
    />
  );
}
const form = (running = false) => {
  const heard = vi.fn();
  return { ...renderOnSite(smallSite(), <Form heard={heard} running={running} />), heard };
};

describe("when learning runs", () => {
  it("begins at an hour of a day, with or without an end", async () => {
    const { user, heard } = form();
    const to = screen.getByRole("textbox", { name: "None past" });
    await user.type(to, "0500{Enter}");
    expect(heard).toHaveBeenLastCalledWith({ ...TONIGHT, to: "05:00" });
    await user.clear(to);
    await user.keyboard("{Enter}");
    expect(heard.mock.lastCall?.[0]).not.toHaveProperty("to");
    const from = screen.getByRole("textbox", { name: "From" });
    await user.clear(from);
    await user.type(from, "22:30");
    expect(screen.getByRole("radio", { name: "start now, the bench's clock at 22:30" })).toBeChecked();
  });
  it("waits for its hour if one says so, and goes at a pace", async () => {
    const { user, heard } = form();
    await user.click(screen.getByRole("radio", { name: "start when that hour comes" }));
    expect(heard).toHaveBeenLastCalledWith({ ...TONIGHT, later: true });
    await user.selectOptions(screen.getByRole("combobox", { name: "Pace of the bench" }), "as fast as it computes");
    expect(heard).toHaveBeenLastCalledWith({ ...TONIGHT, later: true, pace: 0 });
  });
  it("is not changed while it runs", () => {
    form(true);
    for (const f of [...screen.getAllByRole("textbox"), ...screen.getAllByRole("radio")]) expect(f).toBeDisabled();
  });
});

describe("the test with everything closed", () => {
  const sights = (change: (s: SiteFile) => void = () => {}) =>
    renderOnSite(smallSite(change), <BaselineSights />).container;
  it("says from which flow on it sees a leak", () => {
    expect(sights()).toHaveTextContent(/a leak shows from 10 L\/min on at Poc/);
  });
  it("of a sensor that states no minimum says that every reading counts", () => {
    const container = sights((s) => {
      s.pocs[0]?.devices.splice(1, 1, {
        id: "fs",
        kind: "flowSensor",
        output: { type: "pulse", litresPerPulse: 10 },
      });
    });
    expect(container).toHaveTextContent(/The sensor of Poc states no minimum; every reading counts as a leak/);
  });
});

describe("what a learning takes", () => {
  const estimate: Rehearsal = {
    seconds: 5400,
    litres: 2500,
    endsAt: "2026-07-14T22:30:00+02:00",
    atMostMoreS: 600,
    waits: [],
    leftIds: [],
    order: [],
  };
  const told = (rehearsal: React.ComponentProps<typeof Estimate>["rehearsal"], when: Schedule = TONIGHT): string =>
    renderOnSite(smallSite(), <Estimate rehearsal={rehearsal} when={when} />).container.textContent ?? "";
  it("is told in site time, water and its end; what it waits for is named", () => {
    expect(told(estimate)).toBe(
      "1 h 30 min of site time, 2,500 L; ends 22:30. What does not settle adds up to 10 min.",
    );
    expect(
      told({
        ...estimate,
        endsAt: "2026-07-15T01:10:00+02:00",
        waits: [{ from: "2026-07-14T22:00:00+02:00", to: "2026-07-14T23:00:00+02:00", why: "scheduledRuns" }],
      }),
    ).toMatch(/ends 15 Jul 2026 01:10.*Waits for scheduled runs, 22:00 to 23:00\./);
  });
  it("says how many stations a short window leaves", () => {
    expect(told({ ...estimate, leftIds: ["s2", "s3"] }, { ...TONIGHT, to: "22:00" })).toMatch(
      /Until 22:00 it leaves 2 stations; go on with them later\.$/,
    );
  });
  it("of nothing, not yet, and not at all each has its words", () => {
    expect(told("nothing")).toBe("Choose a station.");
    expect(told("computing")).toBe("Working out what it takes…");
    expect(told(null)).toMatch(/could not be worked out; learning itself is not held up/);
  });
});

describe("words of learning", () => {
  it("a time is as long as one needs to read it", () => {
    expect([40, 89, 95, 2040, 5399, 7500].map(duration)).toEqual([
      "40 s",
      "89 s",
      "2 min",
      "34 min",
      "1 h 30 min",
      "2 h 05 min",
    ]);
  });
  it("a share has its sign, and a decimal where it is small", () => {
    expect([0.052, -0.31, 0, 0.0996, -0.004].map(signed)).toEqual(["+5.2 %", "−31 %", "+0.0 %", "+10 %", "−0.4 %"]);
  });
});
