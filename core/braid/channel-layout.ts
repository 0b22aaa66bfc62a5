import { nth } from "../checked.ts";
/** One run in a channel: flow is width (L/min), time is length (s). */
export type ChannelRun = { key: string; from: number; to: number; width: number };
/** Where a run lies: its left edge from each instant on. More than one step means it jogged aside. */
export type Ribbon = ChannelRun & { steps: { at: number; x: number }[] };

type Lying = { ribbon: Ribbon; x: number };
const SLACK = 1e-6;

/**
 * Lays runs side by side in a channel of `capacity` (design, the braid): a ribbon keeps its place as long as it runs; a new one takes the
 * narrowest gap that holds it; only when there is room in total but in no one gap, the fewest ribbons step aside. What does not fit
 * at all lies past the bank, so that it is seen.
 */
export function layChannel(runs: ChannelRun[], capacity: number): Ribbon[] {
  const ribbons: Ribbon[] = [];
  let lying: Lying[] = [];
  for (const run of [...runs].sort((a, b) => a.from - b.from || b.width - a.width || a.key.localeCompare(b.key))) {
    lying = lying.filter((l) => l.ribbon.to > run.from);
    const ribbon: Ribbon = { ...run, steps: [] };
    const x =
      findGap(lying, run.width, capacity) ??
      makeRoom(lying, run.width, capacity, run.from) ??
      Math.max(0, ...lying.map((l) => l.x + l.ribbon.width));
    ribbon.steps.push({ at: run.from, x });
    lying.push({ ribbon, x });
    ribbons.push(ribbon);
  }
  return ribbons;
}

function gapsOf(lying: Lying[], capacity: number): { from: number; width: number }[] {
  const sorted = lying.sort((a, b) => a.x - b.x);
  const gaps: { from: number; width: number }[] = [];
  let edge = 0;
  for (const l of sorted) {
    gaps.push({ from: edge, width: l.x - edge });
    edge = l.x + l.ribbon.width;
  }
  gaps.push({ from: edge, width: capacity - edge });
  return gaps;
}

function findGap(lying: Lying[], width: number, capacity: number): number | null {
  const fitting = gapsOf(lying, capacity).filter((g) => g.width >= width - SLACK);
  if (fitting.length === 0) return null;
  return fitting.reduce((best, g) => (g.width < best.width - SLACK ? g : best)).from;
}

/** Joins the neighbouring gaps that need the fewest ribbons moved, by pushing those towards zero; null when there is no room in total. */
function makeRoom(lying: Lying[], width: number, capacity: number, at: number): number | null {
  const gaps = gapsOf(lying, capacity);
  for (let moved = 1; moved < gaps.length; moved++)
    for (let first = 0; first + moved < gaps.length; first++) {
      const joined = gaps.slice(first, first + moved + 1).reduce((sum, g) => sum + Math.max(0, g.width), 0);
      if (joined < width - SLACK) continue;
      let edge = nth(gaps, first).from;
      for (const l of lying.slice(first, first + moved)) {
        if (Math.abs(l.x - edge) > SLACK) {
          l.x = edge;
          l.ribbon.steps.push({ at, x: edge });
        }
        edge = l.x + l.ribbon.width;
      }
      return edge;
    }
  return null;
}

/** Left edge of a ribbon at an instant. */
export function edgeAt(ribbon: Ribbon, at: number): number {
  let x = ribbon.steps[0]?.x ?? 0;
  for (const step of ribbon.steps) if (step.at <= at) x = step.x;
  return x;
}
