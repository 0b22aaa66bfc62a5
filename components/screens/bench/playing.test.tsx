import { act, fireEvent, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Simulation } from "@/core/bench/simulate";
import { smallSite } from "@/testing/small-site";
import { eventBeside, EventList, eventsOf } from "./event-list";
import { Playback } from "./playback";

const T0 = Date.parse("2026-07-14T22:00:00+02:00") / 1000;
const at = (s: number): string => new Date((T0 + s) * 1000 + 7_200_000).toISOString().replace(".000Z", "+02:00");
const night = {
  events: [
    { at: at(0), type: "masterValveOpen", subjectId: "mv", reason: "" },
    { at: at(0), type: "open", subjectId: "s1", reason: "" },
    { at: at(200), type: "alarm", subjectId: "s1", reason: "190 L/min over 120" },
    { at: at(260), type: "lockedOut", subjectId: "s1", reason: "" },
    { at: at(600), type: "close", subjectId: "s1", reason: "" },
  ],
} as unknown as Simulation;

describe("events of a night", () => {
  const list = (onlyMatters: boolean, more: { at?: number; onAt?: (at: number) => void } = {}) =>
    render(
      <EventList
        site={smallSite()}
        events={eventsOf(night, onlyMatters)}
        at={more.at ?? T0}
        onlyMatters={onlyMatters}
        onOnlyMatters={() => {}}
        onAt={more.onAt ?? (() => {})}
      />,
    );
  it("are those that matter, or all; loud ones stand out with their reason", () => {
    expect(eventsOf(night, true).map((e) => e.type)).toEqual(["alarm", "lockedOut"]);
    expect(eventsOf(night, false)).toHaveLength(5);
    list(true);
    const rows = screen.getAllByRole("row").slice(1);
    expect(rows[0]).toHaveTextContent(/^22:03:20.*station 1 S1.*190 L\/min over 120/);
    expect(within(rows[0] as HTMLElement).getByText(/alarm/i)).toHaveClass("text-error");
  });
  it("lead to their moment, and show which one is here", async () => {
    const onAt = vi.fn();
    list(true, { at: T0 + 260, onAt });
    expect(screen.getAllByRole("row")[2]).toHaveAttribute("aria-selected", "true");
    await userEvent.click(screen.getAllByRole("row")[1] as HTMLElement);
    expect(onAt).toHaveBeenCalledWith(T0 + 200);
  });
  it("of which there are none say so", () => {
    render(<EventList site={smallSite()} events={[]} at={0} onlyMatters onOnlyMatters={() => {}} onAt={() => {}} />);
    expect(screen.getByText("Nothing but valves in their turn.")).toBeInTheDocument();
  });
  it("are stepped through both ways, and stop at the first and last", () => {
    const events = eventsOf(night, true);
    expect(eventBeside(events, T0, 1)).toBe(T0 + 200);
    expect(eventBeside(events, T0 + 200, 1)).toBe(T0 + 260);
    expect(eventBeside(events, T0 + 260, 1)).toBe(T0 + 260);
    expect(eventBeside(events, T0 + 260, -1)).toBe(T0 + 200);
    expect(eventBeside(events, T0, -1)).toBe(T0 + 200);
    expect(eventBeside([], T0, 1)).toBeNull();
  });
});

function Player({ from = 0, to = 1200, first = 0 }: { from?: number; to?: number; first?: number }) {
  const [now, setNow] = useState(first);
  const [playing, setPlaying] = useState(false);
  const [speed, setSpeed] = useState(60);
  return (
    <Playback
      from={from}
      to={to}
      at={now}
      playing={playing}
      speed={speed}
      onAt={setNow}
      onPlaying={setPlaying}
      onSpeed={setSpeed}
      onEvent={(step) => setNow((n) => n + 100 * step)}
      clock={(s) => `${Math.floor(s / 60)} min`}
    />
  );
}

describe("playing a night", () => {
  const frames: FrameRequestCallback[] = [];
  let clock = 0;
  beforeEach(() => {
    frames.length = 0;
    clock = 0;
    vi.spyOn(performance, "now").mockImplementation(() => clock);
    vi.spyOn(globalThis, "requestAnimationFrame").mockImplementation((f) => frames.push(f));
    vi.spyOn(globalThis, "cancelAnimationFrame").mockImplementation((n) => {
      frames[n - 1] = () => {};
    });
  });
  afterEach(() => vi.restoreAllMocks());
  /** So many milliseconds pass, and the page is drawn once. */
  const pass = (ms: number): void => {
    clock += ms;
    const due = frames.splice(0);
    act(() => {
      for (const f of due) f(clock);
    });
  };
  const slider = (): HTMLElement => screen.getByRole("slider", { name: "Time of the night" });
  const press = (name: string): void => void fireEvent.click(screen.getByRole("button", { name }));

  it("goes at the speed that is chosen, and pauses where it is", () => {
    render(<Player />);
    press("Play");
    pass(1000);
    expect(slider()).toHaveValue("60");
    pass(2000);
    expect(slider()).toHaveAttribute("aria-valuetext", "3 min");
    press("Pause");
    pass(5000);
    expect(slider()).toHaveValue("180");
    expect(screen.getByRole("button", { name: "Play" })).toHaveAttribute("aria-pressed", "false");
  });
  it("a change of speed goes on from where it is", () => {
    render(<Player />);
    press("Play");
    pass(1000);
    fireEvent.change(screen.getByRole("combobox", { name: "Speed" }), { target: { value: "300" } });
    pass(1000);
    expect(slider()).toHaveValue("360");
  });
  it("ends at the end, and played once more begins anew", () => {
    render(<Player to={90} />);
    press("Play");
    pass(5000);
    expect(slider()).toHaveValue("90");
    expect(screen.getByRole("button", { name: "Play" })).toBeInTheDocument();
    press("Play");
    pass(500);
    expect(slider()).toHaveValue("30");
  });
  it("taken in hand, it pauses; events are stepped by their own keys", () => {
    render(<Player />);
    press("Play");
    fireEvent.change(slider(), { target: { value: "700" } });
    pass(1000);
    expect(slider()).toHaveValue("700");
    press("Next event");
    expect(slider()).toHaveValue("800");
    press("Event before");
    expect(screen.getByText("11 min")).toBeInTheDocument();
  });
});
