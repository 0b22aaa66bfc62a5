import type { NightFacts, Work } from "./fast-facts.ts";

export const WAITING = 0;
export const RUNNING = 1;
export const DONE = 2;
/** Its start has not begun. */
export const ASLEEP = 3;

/** One station's work in one start, and how far it has got. */
export type Item = {
  w: Work;
  program: number;
  /** Place of its start. */
  start: number;
  cycle: number;
  left: number;
  readyAt: number;
  openedAt: number;
  endAt: number;
  state: typeof WAITING | typeof RUNNING | typeof DONE | typeof ASLEEP;
};

const PENDING = 0;
/** An earlier one of its program goes first. */
const BEHIND = 1;
const ACTIVE = 2;
const FINISHED = 3;

/** The starts of a night: whose time has come, which waits behind another of its program, which is over (site-file#later-starts). */
export class FastStarts {
  private readonly starts: NightFacts["starts"];
  private readonly state: Uint8Array;
  private readonly items: Item[][];
  /** By start, what is not done of it. */
  private readonly left: Int32Array;

  constructor(starts: NightFacts["starts"], items: readonly Item[]) {
    this.starts = starts;
    this.state = new Uint8Array(starts.length);
    this.items = starts.map((_, start) => items.filter((i) => i.start === start));
    this.left = Int32Array.from(this.items, (of) => of.length);
  }

  itemsOf(start: number): readonly Item[] {
    return this.items[start] as Item[];
  }

  isPending(start: number): boolean {
    return this.state[start] === PENDING;
  }

  hasBegun(start: number): boolean {
    return this.state[start] === BEHIND || this.state[start] === ACTIVE;
  }

  /** One of its items is done. */
  done({ start }: Item): void {
    const left = (this.left[start] as number) - 1;
    this.left[start] = left;
    if (left === 0 && this.state[start] === ACTIVE) this.state[start] = FINISHED;
  }

  finish(start: number): void {
    this.state[start] = FINISHED;
  }

  /**
   * Begins what has come: an earlier start that is held back then is cut, one that still waters goes first.
   *
   * @param isFree whether a program's hours are open, and were a second before
   */
  begin(t: number, isFree: (program: number) => boolean, cut: (start: number) => void): void {
    for (const [start, { program, at }] of this.starts.entries()) {
      if (this.state[start] !== PENDING || at > t) continue;
      if (!isFree(program))
        for (const [other, s] of this.starts.entries())
          if (other !== start && s.program === program && this.hasBegun(other)) cut(other);
      this.state[start] = BEHIND;
    }
    for (const start of this.starts.keys()) {
      if (this.state[start] !== BEHIND || this.goesBehind(start)) continue;
      this.state[start] = this.left[start] === 0 ? FINISHED : ACTIVE;
      for (const i of this.itemsOf(start))
        if (i.state === ASLEEP) {
          i.state = WAITING;
          i.readyAt = t;
        }
    }
  }

  private goesBehind(start: number): boolean {
    const program = this.starts[start]?.program;
    return this.starts.some(
      (s, other) =>
        other !== start &&
        s.program === program &&
        (this.state[other] === ACTIVE || (this.state[other] === BEHIND && other < start)),
    );
  }
}
