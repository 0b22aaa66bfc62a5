import { normalTail } from "./normal-tail.ts";

const POINTS = 96;
/** Further out than so many standard deviations is never. */
const FURTHEST = 7.5;
/** Levels of many nights in so many steps: between them the spread of the stations smooths. */
const STEPS = 16;

/**
 * How far a set's reading strays on nights with nothing wrong: the levels it holds on simulated nights, each spread by what its stations differ from night to night. The spread is reckoned, not drawn:
 * a trip in a thousand nights is told from sixty of them.
 */
export class Swing {
  private readonly from: number;
  private readonly step: number;
  private readonly tails: Float64Array;
  /** Share of nights on which it is judged at all. */
  private readonly judged: number;

  /**
   * @param levels held on each night, as shares of what the set draws; not finite: not judged on that night
   * @param drawn what the set draws ÷ what is expected of it
   * @param sd spread of the night's own draw, as a share of it
   */
  constructor(levels: readonly number[], drawn: number, sd: number) {
    const held = levels.filter(Number.isFinite).sort((a, b) => a - b);
    this.judged = levels.length > 0 ? held.length / levels.length : 0;
    const steps = stepsOf(held);
    const [least, most] = [(steps[0] ?? 1) * (1 - FURTHEST * sd), (steps.at(-1) ?? 1) * (1 + FURTHEST * sd)];
    this.from = drawn * least;
    this.step = (drawn * (most - least)) / (POINTS - 1);
    this.tails = new Float64Array(POINTS);
    for (let i = 0; i < POINTS; i++) {
      const at = (this.from + i * this.step) / drawn;
      this.tails[i] =
        steps.length === 0 ? 0 : this.judged * (sum(steps.map((g) => normalTail((at / g - 1) / sd))) / steps.length);
    }
  }

  /** Share of nights on which the reading is held over a level, given as a share of what is expected. */
  above(level: number): number {
    const at = (level - this.from) / this.step;
    if (at <= 0) return this.tails[0] as number;
    if (at >= POINTS - 1) return 0;
    const i = Math.floor(at);
    const here = this.tails[i] as number;
    return here + (at - i) * ((this.tails[i + 1] as number) - here);
  }

  /** Share of nights on which it is held under a level. */
  under(level: number): number {
    return this.judged - this.above(level);
  }
}

const sum = (list: readonly number[]): number => list.reduce((a, b) => a + b, 0);

/** Sorted levels as at most so many means of equal parts. */
function stepsOf(sorted: readonly number[]): number[] {
  if (sorted.length <= STEPS) return [...sorted];
  return Array.from({ length: STEPS }, (_, k) => {
    const part = sorted.slice((k * sorted.length) / STEPS, ((k + 1) * sorted.length) / STEPS);
    return sum(part) / part.length;
  });
}
