import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { type ChannelRun, edgeAt, layChannel } from "./channel-layout.ts";

const run = (key: string, from: number, to: number, width: number): ChannelRun => ({ key, from, to, width });

describe("the braid's channels", () => {
  it("never lay two ribbons over each other, and stay between the banks while there is room", () => {
    const runs = fc.array(
      fc.record({ from: fc.nat(80), length: fc.integer({ min: 1, max: 40 }), width: fc.integer({ min: 5, max: 60 }) }),
      { maxLength: 30 },
    );
    fc.assert(
      fc.property(runs, (list) => {
        const all = list.map((r, i) => run(`r${i}`, r.from, r.from + r.length, r.width));
        const kept: ChannelRun[] = [];
        for (const r of all.sort((a, b) => a.from - b.from))
          if (kept.filter((k) => k.from <= r.from && r.from < k.to).reduce((a, k) => a + k.width, 0) + r.width <= 120)
            kept.push(r);
        const ribbons = layChannel(kept, 120);
        for (const t of new Set(kept.map((k) => k.from))) {
          const now = ribbons
            .filter((r) => r.from <= t && t < r.to)
            .map((r) => [edgeAt(r, t), edgeAt(r, t) + r.width] as const)
            .sort((a, b) => a[0] - b[0]);
          now.forEach(([left, right], i) => {
            expect(left).toBeGreaterThanOrEqual((now[i - 1]?.[1] ?? 0) - 1e-6);
            expect(right).toBeLessThanOrEqual(120 + 1e-6);
          });
        }
      }),
      { seed: 3 },
    );
  });
  it("take the narrowest gap that holds", () => {
    const ribbons = layChannel(
      [run("a", 0, 10, 30), run("b", 0, 20, 20), run("c", 0, 20, 20), run("d", 10, 20, 18)],
      100,
    );
    expect(edgeAt(ribbons.find((r) => r.key === "d") as never, 10)).toBe(0);
    expect(ribbons.every((r) => r.steps.length === 1)).toBe(true);
  });
  it("step aside only when no one gap holds, and as few as can", () => {
    const ribbons = layChannel([run("a", 0, 10, 30), run("b", 0, 30, 40), run("c", 10, 30, 50)], 100);
    expect(ribbons.find((r) => r.key === "b")?.steps).toEqual([{ at: 0, x: 0 }]);
    const moved = layChannel([run("big", 0, 10, 40), run("keep", 0, 30, 30), run("new", 10, 30, 65)], 100);
    expect(moved.find((r) => r.key === "keep")?.steps).toEqual([
      { at: 0, x: 40 },
      { at: 10, x: 0 },
    ]);
    expect(moved.find((r) => r.key === "new")?.steps).toEqual([{ at: 10, x: 30 }]);
  });
  it("lay past the bank what does not fit at all", () => {
    expect(layChannel([run("a", 0, 10, 80), run("b", 0, 10, 50)], 100).find((r) => r.key === "b")?.steps[0]?.x).toBe(
      80,
    );
  });
});
