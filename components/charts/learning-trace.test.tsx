import { render, screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { TracePoint } from "../data/use-learning-stream";
import { Trace } from "./learning-trace";

/** Seconds of a reading: so many while it settles, then so many at a flow. */
const reading = (settling: number, steady: number, lpm: (i: number) => number = () => 100): TracePoint[] =>
  Array.from({ length: settling + steady }, (_, i) => ({
    at: 1000 + i,
    lpm: i < settling ? (100 * i) / Math.max(1, settling) : lpm(i - settling),
    settling: i < settling,
  })) as TracePoint[];
const draw = (points: TracePoint[], more: Partial<React.ComponentProps<typeof Trace>> = {}) =>
  render(<Trace points={points} expectedLpm={100} units="metric" {...more} />);
const caption = (): string | null => document.querySelector("figcaption")?.textContent ?? null;

describe("what is read while a station is learned", () => {
  it("before anything is read says so", () => {
    draw([]);
    expect(screen.getByRole("img", { name: "No reading yet" })).toBeInTheDocument();
    expect(caption()).toBe("Not judged yet.");
  });
  it("is not judged while it settles, and that stretch is hatched", () => {
    draw(reading(20, 0));
    expect(screen.getByText("fill and hold-off, not judged")).toBeInTheDocument();
    expect(document.querySelectorAll('rect[fill="url(#settling)"]')).toHaveLength(1);
    expect(caption()).toBe("Not judged yet.");
  });
  it("then is told by mean, spread and drift, over as many seconds as there are", () => {
    draw(reading(20, 12));
    expect(caption()).toBe("12 of 30 s: mean 100 L/min, spread 0.0 %, drift 0.0 %; steady at 3 % and less.");
    expect(screen.getByRole("img")).toHaveAccessibleName("Reading 100 L/min, 32 seconds after opening");
  });
  it("of a full window says that it is one, and what drifts is said to drift", () => {
    draw(reading(20, 60, (i) => 100 + i / 2));
    expect(caption()).toMatch(/^Last 30 s: mean 12\d\.\d L\/min, spread \d\.\d %, drift ([3-9]|1\d)\.\d %/);
  });
  it("once steady tells after how long, and marks where", () => {
    draw(reading(20, 50), { result: { meanLpm: 99.6, sdLpm: 0.4, secondsToSteady: 34 } });
    expect(caption()).toBe("Steady after 34 s: mean 99.6 L/min ± 0.4 L/min.");
    expect(document.querySelector('path[fill="var(--ink)"]')).toBeTruthy();
  });
  it("that never became steady says so, and has no band", () => {
    draw(
      reading(20, 90, (i) => (i % 2 ? 80 : 120)),
      { result: { meanLpm: 100, sdLpm: 20, secondsToSteady: null } },
    );
    expect(caption()).toBe("It did not become steady before its limit.");
    expect(document.querySelector('rect[fill="var(--water)"]')).toBeNull();
  });
  it("shows what stands now for comparison; of nothing that stands, nothing", () => {
    const { rerender } = draw(reading(5, 20));
    expect(screen.getByText("stands now 100 L/min")).toBeInTheDocument();
    rerender(<Trace points={reading(5, 20)} expectedLpm={null} units="metric" />);
    expect(screen.queryByText(/stands now/)).toBeNull();
  });
  it("beside a table is drawn narrower, with fewer marks of time", () => {
    const marks = (): number =>
      [...document.querySelectorAll("text")].filter((t) => /^\d+ s$/.test(t.textContent ?? "")).length;
    const { rerender } = draw(reading(30, 400));
    const wide = marks();
    rerender(<Trace points={reading(30, 400)} expectedLpm={100} units="metric" narrow />);
    expect(marks()).toBeLessThan(wide);
    expect(screen.getByText("hold-off")).toBeInTheDocument();
  });
  it("on a US site is in gallons a minute", () => {
    draw(
      reading(5, 40, () => 37.8541),
      { units: "us", expectedLpm: null },
    );
    expect(caption()).toMatch(/mean 10 gal\/min/);
  });
});
