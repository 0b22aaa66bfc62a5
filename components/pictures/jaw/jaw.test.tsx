import { act, fireEvent, render, screen } from "@testing-library/react";
import fc from "fast-check";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { plan } from "@/core/dispatch/plan";
import { sightOf, type StationSight } from "@/core/limits/sight";
import type { SiteFile } from "@/core/site-file/schema";
import { smallSite } from "@/testing/small-site";
import { Jaw } from "./jaw";
import { inScale, jawScale, NARROWEST, ROW, TOP } from "./jaw-scale";

const sights = (site: SiteFile): StationSight[] => sightOf(site, plan(site, "2026-07-14").runs);
const draw = (site = smallSite(), more: Partial<React.ComponentProps<typeof Jaw>> = {}) => {
  const [onMove, onSelect] = [vi.fn(), vi.fn()];
  const props = {
    site,
    rows: sights(site),
    company: "alone" as const,
    units: "metric" as const,
    watched: new Map<string, number>(),
    canEdit: true,
    selected: null,
    onSelect,
    onMove,
    ...more,
  };
  const view = render(<Jaw {...props} />);
  return { ...view, onMove, onSelect, again: (changed: object) => view.rerender(<Jaw {...props} {...changed} />) };
};
const row = (name: RegExp): HTMLElement => screen.getByRole("button", { name });
/** The middle of a wall that can be dragged: of station n, side as drawn (high first). */
const wall = (n: number, side: "high" | "low"): SVGRectElement => {
  const grips = [...document.querySelectorAll("rect")].filter((r) =>
    r.querySelector("title")?.textContent?.startsWith("Drag: this row only"),
  );
  const mine = grips.filter((r) => Number(r.getAttribute("y")) === TOP + (n - 1) * ROW);
  return mine[side === "high" ? 0 : 1] as SVGRectElement;
};
/** The scale of a drawing in a test, which has no width of its own. */
const scale = () => jawScale(Math.max(NARROWEST, Number(document.querySelector("svg")?.getAttribute("width"))));
beforeEach(() => {
  vi.useFakeTimers();
  SVGElement.prototype.setPointerCapture = () => {};
});
afterEach(() => vi.useRealTimers());

describe("the scale of the jaw", () => {
  it("turns shares into places and back, at every width", () => {
    const share = fc.double({ min: inScale.least, max: inScale.most, noNaN: true });
    fc.assert(
      fc.property(fc.integer({ min: NARROWEST, max: 2400 }), share, (width, ratio) => {
        const s = jawScale(width);
        expect(s.ratioOf(s.xOf(ratio))).toBeCloseTo(ratio, 6);
      }),
    );
  });
  it("is as far from half to one as from one to double, and holds what lies beyond at its ends", () => {
    const s = jawScale(1000);
    expect(s.xOf(1) - s.xOf(0.5)).toBeCloseTo(s.xOf(2) - s.xOf(1), 6);
    expect(s.xOf(0)).toBe(s.xOf(inScale.least));
    expect(s.xOf(9)).toBe(s.xOf(inScale.most));
  });
  it("leaves its columns in their order, whatever the width", () => {
    for (const width of [NARROWEST, 900, 1280, 1920, 2400]) {
      const s = jawScale(width);
      const places = [s.expectedX, s.belowX, s.x0, s.x1, s.aboveX, s.watchedX, s.unseenX, s.width];
      expect(places, String(width)).toEqual([...places].sort((a, b) => a - b));
    }
  });
});

describe("a wall of the jaw", () => {
  const drag = (grip: Element, to: number): void => {
    const at = { clientX: scale().xOf(to), buttons: 1, pointerId: 1 };
    fireEvent.pointerDown(grip, { ...at, clientX: scale().xOf(1.2) });
    fireEvent.pointerMove(grip, at);
  };
  it("dragged at a row moves that row alone; one drag is one gesture", () => {
    const { onMove } = draw();
    const grip = wall(2, "high");
    drag(grip, 1.5);
    expect(onMove).not.toHaveBeenCalled();
    act(() => void vi.advanceTimersByTime(200));
    fireEvent.pointerMove(grip, { clientX: scale().xOf(1.6), buttons: 1, pointerId: 1 });
    fireEvent.pointerUp(grip, { clientX: scale().xOf(1.6), pointerId: 1 });
    expect(onMove).toHaveBeenLastCalledWith("high", 60, "s2", expect.any(String));
    expect(new Set(onMove.mock.calls.map((c) => c[3])).size).toBe(1);
    // The next drag is another step of undo.
    const before = onMove.mock.lastCall?.[3];
    drag(wall(2, "high"), 1.3);
    fireEvent.pointerUp(wall(2, "high"), { clientX: scale().xOf(1.3), pointerId: 1 });
    expect(onMove.mock.lastCall?.[3]).not.toBe(before);
  });
  it("dragged at the head moves all", () => {
    const { onMove } = draw();
    const head = screen.getByRole("slider", { name: "Low limit of all stations" });
    fireEvent.pointerDown(head, { clientX: scale().xOf(0.75), buttons: 1, pointerId: 1 });
    fireEvent.pointerUp(head, { clientX: scale().xOf(0.6), pointerId: 1 });
    expect(onMove).toHaveBeenLastCalledWith("low", 40, null, expect.any(String));
  });
  it("stops at the ends of the scale, and never closes on what is expected", () => {
    const { onMove } = draw();
    drag(wall(1, "high"), 9);
    fireEvent.pointerUp(wall(1, "high"), { clientX: 5000, pointerId: 1 });
    expect(onMove.mock.lastCall?.[1]).toBe(119);
    drag(wall(1, "high"), 0.5);
    fireEvent.pointerUp(wall(1, "high"), { clientX: scale().xOf(0.5), pointerId: 1 });
    expect(onMove.mock.lastCall?.[1]).toBe(1);
  });
  it("is followed by the drawing while it moves, before anything is worked out", () => {
    draw();
    const high = (): string | null => document.querySelectorAll('path[stroke-width="3"]')[0]?.getAttribute("d") ?? null;
    const before = high();
    drag(wall(3, "high"), 1.8);
    expect(high()).not.toBe(before);
    expect(high()).toContain(String(scale().xOf(1.8)).slice(0, 6));
  });
  it("is not taken hold of by who only looks", () => {
    const { onMove } = draw(smallSite(), { canEdit: false });
    drag(wall(1, "high"), 1.5);
    fireEvent.pointerUp(wall(1, "high"), { clientX: scale().xOf(1.5), pointerId: 1 });
    expect(onMove).not.toHaveBeenCalled();
  });
  it("is there alone only where a station is judged alone, on percentages", () => {
    const { again } = draw();
    expect(wall(1, "high")).toBeTruthy();
    again({ company: "fullest" });
    expect(wall(1, "high")).toBeUndefined();
    expect(screen.getByRole("slider", { name: "High limit of all stations" })).toBeInTheDocument();
  });
});

describe("a row of the jaw", () => {
  it("is chosen by press, Enter and Space; arrows, Home and End go between rows", () => {
    const { onSelect } = draw();
    fireEvent.click(row(/^1 S1/));
    fireEvent.keyDown(row(/^3 S3/), { key: " " });
    expect(onSelect.mock.calls.map((c) => c[0])).toEqual(["s1", "s3"]);
    row(/^1 S1/).focus();
    fireEvent.keyDown(row(/^1 S1/), { key: "End" });
    expect(row(/^3 S3/)).toHaveFocus();
    fireEvent.keyDown(row(/^3 S3/), { key: "ArrowDown" });
    expect(row(/^3 S3/)).toHaveFocus();
    fireEvent.keyDown(row(/^3 S3/), { key: "k" });
    expect(row(/^2 S2/)).toHaveFocus();
    fireEvent.keyDown(row(/^2 S2/), { key: "Home" });
    expect(row(/^1 S1/)).toHaveFocus();
  });
  it("of which one is selected is the one where the keyboard comes in", () => {
    draw(smallSite(), { selected: "s2" });
    expect(row(/^2 S2/)).toHaveAttribute("tabindex", "0");
    expect(row(/^1 S1/)).toHaveAttribute("tabindex", "-1");
    expect(row(/^2 S2/)).toHaveAttribute("aria-pressed", "true");
  });
  it("shows what is known of a station in shapes of their own, and what would be unseen in words", () => {
    const site = smallSite((s) => {
      Object.assign(s.stations[0] as object, {
        learned: { meanLpm: 98, sdLpm: 2, at: "2026-07-01T10:00:00Z" },
        enteredFlowLpm: 102,
      });
    });
    draw(site);
    expect(document.querySelectorAll('rect[rx="5"]')).toHaveLength(1);
    expect(row(/^1 S1: expected 98/)).toBeInTheDocument();
    expect(row(/^2 S2/)).toHaveAccessibleName(/unseen: outlet|above 120$/);
  });
  it("hatches what the sensor cannot see, and warns of a station that is hardly watched", () => {
    const site = smallSite((s) => {
      Object.assign(s.pocs[0]?.devices[1] as object, { minLpm: 45 });
    });
    draw(site, { watched: new Map([["s1", 0.42]]) });
    const hatched = [...document.querySelectorAll("title")].filter(
      (t) => t.textContent === "under the sensor's minimum",
    );
    // 45 is under the scale of 100, and nine tenths of station 3's 50.
    expect(hatched).toHaveLength(3);
    expect(screen.getByText("42 %")).toHaveAttribute("fill", "var(--caution)");
    expect(screen.getAllByText("–")).toHaveLength(2);
  });
  it("on a US site is told in gallons a minute", () => {
    draw(smallSite(), { units: "us" });
    expect(row(/^1 S1: expected 26\.4/)).toBeInTheDocument();
  });
});
