import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type Box, isWay, nearest, type Way } from "./nearest.ts";

const box = (left: number, top: number): Box => ({ left, top, width: 10, height: 10 });
const at = (all: Record<string, [number, number]>) =>
  Object.entries(all).map(([what, [left, top]]) => ({ what, box: box(left, top) }));

describe("going through a drawing by arrows", () => {
  const all = at({ source: [0, 50], gate: [100, 50], pump: [100, 150], main: [200, 48], far: [400, 50] });
  const from = (name: string): Box => all.find((a) => a.what === name)?.box as Box;
  it.each<[string, Way, string | null]>([
    ["source", "ArrowRight", "gate"],
    ["gate", "ArrowRight", "main"],
    ["main", "ArrowRight", "far"],
    ["far", "ArrowRight", null],
    ["gate", "ArrowDown", "pump"],
    ["pump", "ArrowUp", "gate"],
    ["gate", "ArrowLeft", "source"],
    ["pump", "ArrowDown", null],
  ])("from %s by %s comes to %s", (name, way, to) => {
    expect(nearest(from(name), all, way)).toBe(to);
  });
  it("never stays where it is, and what it comes to lies that way", () => {
    const place = fc.record({ left: fc.integer({ min: 0, max: 500 }), top: fc.integer({ min: 0, max: 500 }) });
    fc.assert(
      fc.property(fc.array(place, { minLength: 2, maxLength: 12 }), (places) => {
        const boxes = places.map(({ left, top }, what) => ({ what, box: box(left, top) }));
        const to = nearest(box(places[0]?.left ?? 0, places[0]?.top ?? 0), boxes, "ArrowRight");
        if (to === null) return places.every((p) => p.left <= (places[0]?.left ?? 0));
        return (places[to]?.left ?? 0) > (places[0]?.left ?? 0);
      }),
    );
  });
  it("knows its four keys", () => {
    expect(["ArrowUp", "ArrowLeft", "Enter", "a"].map(isWay)).toEqual([true, true, false, false]);
  });
});
