import { nth } from "../checked.ts";
import type { EpochS } from "../dates/wall-time.ts";
import type { CapacityCalendar } from "../dispatch/capacity.ts";
import { limitsOfSet } from "../judge/judge.ts";
import { EMPTY_AFTER_S, holdOffS } from "../judge/system.ts";
import type { Waterworks } from "../network/waterworks.ts";
import { fullAfterS, type Point } from "../reckon/stretches.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { Cause } from "./causes.ts";
import type { Running, Why } from "./running.ts";

/** A part of the flow at a point, 0 to 1, and what it is for; no station: none was open. */
export type Part = { stationId: string | null; programId: string | null; cause: Cause; share: number };
/** `over`: what was over the set's limit, and for whom it is if it lasts, or if it does not. */
export type FlowParts = { sure: Part[]; over: { ifItLasts: Part[]; ifNot: Part[]; persistenceS: number } | null };

type Open = {
  key: string;
  set: readonly number[];
  settled: EpochS;
  of: (Why & { stationId: string; share: number })[];
};

/** What the flow at one point is for, reading by reading: the stations open behind it, hand watering, a leak, or a break (handbook#14-season). */
export class FlowFor {
  private readonly w: Waterworks;
  private readonly point: Point;
  private readonly pocs: number[];
  private readonly running: Running;
  private readonly calendar: CapacityCalendar;
  /** What is open, and what was before, to which what still flows belongs while valves close. */
  private now: Open = { key: "", set: [], settled: 0, of: [] };
  private shutSince: EpochS | null = null;

  constructor(w: Waterworks, point: Point, running: Running, calendar: CapacityCalendar) {
    this.w = w;
    this.point = point;
    this.pocs = [...new Set(point.systems.flatMap((s) => s.pocs))];
    this.running = running;
    this.calendar = calendar;
  }

  /**
   * @param openIds stations open in the time that ended at `at`
   * @param lpm what the point reads, above 0
   */
  parts(openIds: readonly string[], lpm: number, at: EpochS): FlowParts {
    this.turn(this.behind(openIds), at);
    const { set } = this.now;
    const allowedLpm = this.pocs.reduce((all, p) => all + this.calendar.reserveLpm(p, at - 1), 0);
    if (this.now.of.length === 0 || (set.length === 0 && at > this.now.settled)) return atRest(lpm, allowedLpm);
    const limits = limitsOfSet(this.w, set, allowedLpm);
    const overLpm = limits.judged && at > this.now.settled ? Math.max(0, lpm - limits.expectedLpm) : 0;
    const hand = Math.min(overLpm, allowedLpm) / lpm;
    const broken = lpm > limits.highLpm ? overLpm / lpm - hand : 0;
    const sure = [...this.shared(1 - hand - broken), ...(hand > 0 ? [part("handWatering", hand)] : [])];
    if (broken <= 0) return { sure, over: null };
    const { persistenceS } = limits.policy;
    const ifItLasts = this.shared(broken).map((p): Part => ({ ...p, cause: "broken" }));
    return { sure, over: { ifItLasts, ifNot: this.shared(broken), persistenceS } };
  }

  /** Told of a reading without flow too: what is open, and since when, goes on. */
  turnTo(openIds: readonly string[], at: EpochS): void {
    this.turn(this.behind(openIds), at);
  }

  private behind(openIds: readonly string[]): number[] {
    return openIds
      .flatMap((id) => this.w.stationIndex.get(id) ?? [])
      .filter((s) => this.point.covers.has(nth(this.w.stationMainline, s)))
      .sort((a, b) => a - b);
  }

  private turn(set: readonly number[], at: EpochS): void {
    const key = set.join();
    if (key === this.now.key) return;
    const { systems } = this.point;
    const wasEmpty = this.shutSince !== null && at - this.shutSince >= EMPTY_AFTER_S;
    const waitS = systems.map((s) => Math.max(holdOffS(this.w, s, set), wasEmpty ? fullAfterS(this.w, s) : 0));
    this.now = {
      key,
      set,
      settled: at + Math.max(0, ...waitS),
      of: set.length > 0 ? this.byExpected(set) : this.now.of,
    };
    this.shutSince = set.length === 0 ? at : null;
  }

  /** Stations share by what they should take; where nobody knows, alike. */
  private byExpected(set: readonly number[]): Open["of"] {
    const lpm = set.map((s) => expectedFlow(nth(this.w.site.stations, s))?.lpm ?? 0);
    const all = lpm.reduce((sum, x) => sum + x, 0);
    return set.map((s, i) => {
      const { id } = nth(this.w.site.stations, s);
      return { stationId: id, ...this.running.why(id), share: all > 0 ? nth(lpm, i) / all : 1 / set.length };
    });
  }

  private shared(whole: number): Part[] {
    return this.now.of.map((p) => ({ ...p, share: p.share * whole }));
  }
}

const part = (cause: Cause, share: number): Part => ({ stationId: null, programId: null, cause, share });

/** With nothing open: what may be taken by hand then, and beyond it a leak. */
function atRest(lpm: number, allowedLpm: number): FlowParts {
  const hand = Math.min(lpm, allowedLpm) / lpm;
  const parts = [part("handWatering", hand), part("offSchedule", 1 - hand)];
  return { sure: parts.filter((p) => p.share > 0), over: null };
}
