import type { SiteFile } from "@/core/site-file/schema";
import type { NightAnswer } from "@/core/summary/night-answer";

/** Who works nights out: a worker in the page, a plain function in tests. */
export type NightMaker = {
  night: (site: SiteFile, date: string) => Promise<NightAnswer>;
  /** Gives up whatever it is at. */
  end: () => void;
};
export type NightState = {
  /** What is shown belongs to the draft as it stands (`done`), or to an earlier one while the new is worked out, or the last try came to nothing. */
  status: "working" | "done" | "failed";
  /** Why it came to nothing. */
  why: string | null;
  /** Of `of`; null until the first is done, and after one that failed: no old figure stands as if it were true. */
  answer: NightAnswer | null;
  of: { site: SiteFile; date: string } | null;
};

/** An edit that follows the last within this time, ms, belongs to the same gesture: its night is begun when the gesture rests so long. */
export const DEBOUNCE_MS = 25;
/** A night that takes longer is given up when a newer one is asked for. */
export const PATIENCE_MS = 1500;

/** Works out the night that was asked for last, one at a time, and says how it stands. */
export class NightDesk {
  private state: NightState = { status: "working", why: null, answer: null, of: null };
  private readonly listeners = new Set<() => void>();
  private readonly make: () => NightMaker;
  private maker: NightMaker | null = null;
  private asked: { site: SiteFile; date: string } | null = null;
  private at: { site: SiteFile; date: string; since: number } | null = null;
  private askedAt = Number.NEGATIVE_INFINITY;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly clock: () => number;

  constructor(make: () => NightMaker, clock: () => number = () => performance.now()) {
    this.make = make;
    this.clock = clock;
  }

  readonly subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  readonly snapshot = (): NightState => this.state;

  /** From now on this night is wanted. */
  ask(site: SiteFile, date: string): void {
    const { of, status } = this.state;
    if (this.asked?.site === site && this.asked.date === date) return;
    this.asked = { site, date };
    if (status === "done" && of?.site === site && of.date === date) return;
    const since = this.clock() - this.askedAt;
    this.askedAt = this.clock();
    clearTimeout(this.timer);
    // An edit by itself is begun before the page draws it; a gesture when it rests.
    if (since > DEBOUNCE_MS * 4) this.begin();
    else this.timer = setTimeout(() => this.begin(), DEBOUNCE_MS);
    this.tell({ ...this.state, status: "working", why: null });
  }

  /** A night that another desk has worked out, and that is wanted from now on. */
  know(done: NightState): void {
    clearTimeout(this.timer);
    this.at = null;
    this.asked = done.of;
    this.tell(done);
  }

  end(): void {
    clearTimeout(this.timer);
    this.asked = null;
    this.at = null;
    this.maker?.end();
    this.maker = null;
  }

  private begin(): void {
    const wanted = this.asked;
    if (!wanted) return;
    if (this.at) {
      const left = PATIENCE_MS - (this.clock() - this.at.since);
      clearTimeout(this.timer);
      if (left > 0) {
        this.timer = setTimeout(() => this.begin(), left);
        return;
      }
      this.maker?.end();
      this.maker = null;
    }
    this.maker ??= this.make();
    const mine = { ...wanted, since: this.clock() };
    this.at = mine;
    this.maker.night(wanted.site, wanted.date).then(
      (answer) => this.done(mine, { status: "done", why: null, answer, of: wanted }),
      (error: unknown) =>
        this.done(mine, {
          status: "failed",
          why: error instanceof Error ? error.message : String(error),
          answer: null,
          of: wanted,
        }),
    );
  }

  private done(mine: NonNullable<NightDesk["at"]>, state: NightState): void {
    if (this.at !== mine) return;
    this.at = null;
    const { asked } = this;
    const wanted = asked !== null && asked.site === mine.site && asked.date === mine.date;
    this.tell(wanted ? state : { ...state, status: "working", why: null });
    if (!wanted) {
      clearTimeout(this.timer);
      this.begin();
    }
  }

  private tell(state: NightState): void {
    this.state = state;
    for (const listener of this.listeners) listener();
  }
}
