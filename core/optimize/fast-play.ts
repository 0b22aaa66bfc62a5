import { isInside, nextChange } from "../calendar/windows.ts";
import type { NightFacts, Tuning, Work } from "./fast-facts.ts";
import { FastRoom } from "./fast-room.ts";
import { ASLEEP, DONE, FastStarts, type Item, RUNNING, WAITING } from "./fast-starts.ts";

/** So long a pump may run under its minimum flow, s; and flows that are none, L/min (site-file#pump-minimum). */
const UNDER_MINIMUM_S = 60;
const NEGLIGIBLE_LPM = 1e-6;
const NEVER = Number.POSITIVE_INFINITY;
const NO_STARTS: ReadonlySet<number> = new Set();
const NOBODY: ReadonlySet<Work> = new Set();
const sum = (values: number[]): number => values.reduce((a, b) => a + b, 0);

/** One play of a night under a tuning, from event to event by the dispatcher's rules; given up as soon as it must end later than `latest`. */
export class FastPlay {
  shortS: number;
  lastEnd: number;
  pumpStarts = 0;
  /** Sum of the steps of the whole flow, L/min. */
  roughness = 0;
  /** The mainline that closed last. */
  lastMain = 0;
  /** How many stations of each program ran at once, at most. */
  readonly usedAtOnce: Int32Array;
  private readonly facts: NightFacts;
  private readonly tuning: Tuning;
  private readonly latest: number;
  private queue: Item[];
  private running: Item[] = [];
  private waiting: number;
  private readonly starts: FastStarts;
  private readonly room: FastRoom;
  private readonly inProgram: Int32Array;
  private readonly onController: Int32Array;
  private readonly runningOf: Uint8Array;
  /** By connected system: how many run, and how many of those without a figure. */
  private readonly inSystem: Int32Array;
  private readonly unknownIn: Int32Array;
  /** By pump with a minimum: when it has been under it for too long. */
  private readonly minimumUntil: Float64Array;
  private readonly lastClose: Float64Array;
  private readonly behindPump: Int32Array;
  private readonly ranPump: Uint8Array;
  private readonly toPass: Float64Array;
  private readonly overdue: number;
  private passedTo: number;
  private onSite = 0;
  private flow = 0;
  private litreSeconds = 0;
  private litres = 0;

  /**
   * @param beat a score with whose end it is given up, as long as no fewer seconds may be short
   * @param never what this tuning lets no company bring to its pump's minimum
   */
  constructor(facts: NightFacts, tuning: Tuning, beat?: readonly number[], never = NOBODY) {
    const programs = facts.work.length;
    this.facts = facts;
    this.tuning = tuning;
    this.shortS = facts.shortS + [...never].reduce((short, w) => short + w.times * sum(w.cycles), 0);
    this.latest = beat && (beat[0] as number) <= this.shortS ? facts.first + (beat[1] as number) : NEVER;
    this.lastEnd = facts.first;
    this.passedTo = facts.first;
    this.queue = this.queued().filter((i) => !never.has(i.w));
    this.waiting = this.queue.length;
    this.starts = new FastStarts(facts.starts, this.queue);
    this.minimumUntil = new Float64Array(facts.minimums?.lpm.length ?? 0).fill(NEVER);
    this.room = new FastRoom(facts.periods, facts.cutWork.length);
    this.inSystem = new Int32Array(facts.systems);
    this.unknownIn = new Int32Array(facts.systems);
    this.toPass = facts.cutWork.slice();
    for (const w of never)
      for (const n of w.cuts) this.toPass[n] = (this.toPass[n] as number) - w.flow * w.times * sum(w.cycles);
    this.inProgram = new Int32Array(programs);
    this.usedAtOnce = new Int32Array(programs);
    this.lastClose = new Float64Array(programs).fill(Number.NEGATIVE_INFINITY);
    this.onController = new Int32Array(facts.limit.length);
    this.runningOf = new Uint8Array(facts.stations);
    this.behindPump = new Int32Array(facts.pumps);
    this.ranPump = new Uint8Array(facts.pumps);
    this.overdue = Math.min(...facts.starts.map((s) => s.deadline));
  }

  /** How late its litres came on the whole, weighted, s after the first start. */
  get meanEndS(): number {
    return this.litres > 0 ? this.litreSeconds / this.litres : 0;
  }

  /** False: given up. */
  run(): boolean {
    let t = this.facts.first;
    while (this.waiting > 0 && Number.isFinite(t)) {
      if (this.latest < NEVER && this.mustEndLate(t)) return false;
      const flowBefore = this.flow;
      this.ranPump.forEach((_, n) => {
        this.ranPump[n] = (this.behindPump[n] as number) > 0 ? 1 : 0;
      });
      this.closeWhatEnds(t);
      if (t >= this.room.changesAt) this.changePeriod(t);
      if (t >= this.overdue) this.cutWhatIsOver(t);
      this.starts.begin(
        t,
        (program) => this.isOpen(program, t) && this.isOpen(program, t - 1),
        (start) => this.cutStart(start, t),
      );
      if (this.waiting < this.queue.length) this.queue = this.queue.filter((i) => i.state !== DONE);
      if (this.facts.minimums) this.pauseUnderMinimum(t);
      if (!this.openWhatFits(t)) return false;
      if (this.facts.minimums) this.watchMinimums(t);
      this.ranPump.forEach((ran, n) => {
        if (!ran && (this.behindPump[n] as number) > 0) this.pumpStarts++;
      });
      this.roughness += Math.abs(this.flow - flowBefore);
      t = this.nextMoment(t);
    }
    return true;
  }

  /** Everything to water, in the order in which the queue is read. */
  private queued(): Item[] {
    const { work, starts } = this.facts;
    const { tuning } = this;
    const priority = (start: number): number => tuning[starts[start]?.program ?? 0]?.priority ?? 1;
    // They are in order of time and programs already.
    const ranked = starts.map((_, n) => n).sort((a, b) => priority(a) - priority(b) || a - b);
    return ranked.flatMap((start) => {
      const { program, at } = starts[start] as NightFacts["starts"][number];
      return (tuning[program] as Tuning[number]).order.map((place): Item => {
        const w = (work[program] as Work[])[place] as Work;
        const left = w.cycles[0] as number;
        return { w, program, start, cycle: 0, left, readyAt: at, openedAt: 0, endAt: 0, state: ASLEEP };
      });
    });
  }

  /** What is still to pass a cut takes at least so long at its full capacity. */
  private mustEndLate(t: number): boolean {
    const { cutMost } = this.facts;
    const since = t - this.passedTo;
    for (let n = 0; n < this.toPass.length; n++) {
      const left = (this.toPass[n] as number) - (this.room.used[n] as number) * since;
      this.toPass[n] = left;
      if (t + left / (cutMost[n] as number) > this.latest + 1e-6) return true;
    }
    this.passedTo = t;
    return false;
  }

  private isOpen(program: number, t: number): boolean {
    const hours = this.facts.open[program];
    return !hours || isInside(hours, t);
  }

  /** Neither its hours nor an input hold it back. */
  private mayRun({ program, w }: Item, t: number): boolean {
    if (!this.isOpen(program, t)) return false;
    const pauses = this.facts.pauses[program] as NightFacts["pauses"][number];
    return !pauses.some((p) => isInside(p.intervals, t) && !w.ignores.includes(p.inputId));
  }

  /** What may flow has changed: of each group the latest opened close, of those that draw on what is too much, until the others are allowed. */
  private changePeriod(t: number): void {
    this.room.enter(t);
    for (let group = 0; group < this.facts.groups; group++)
      for (;;) {
        const mine = this.running.filter((i) => i.w.group === group);
        if (this.room.allows(mine)) break;
        const drawing = mine.filter((i) => !this.room.allows(mine.filter((r) => sharesWater(r.w, i.w))));
        const latest = (drawing.length > 0 ? drawing : mine).at(-1) as Item;
        this.running = this.running.filter((r) => r !== latest);
        this.pause(latest, t);
      }
  }

  /** Closes before its time; what is left waits. */
  private pause(i: Item, t: number): void {
    this.close(i, t);
    i.left = i.endAt - t;
    i.readyAt = t;
    i.state = WAITING;
  }

  /** Counts a station in (1) or out (−1) everywhere. */
  private count({ w, program }: Item, by: 1 | -1): void {
    this.room.load(w, by);
    this.inSystem[w.system] = (this.inSystem[w.system] as number) + by;
    if (w.unknown) this.unknownIn[w.system] = (this.unknownIn[w.system] as number) + by;
    this.inProgram[program] = (this.inProgram[program] as number) + by;
    this.onController[w.controller] = (this.onController[w.controller] as number) + by;
    this.runningOf[w.station] = by > 0 ? 1 : 0;
    this.onSite += by;
    this.flow += by * w.flow;
    const pump = this.facts.pumpOfMain[w.main] as number;
    if (pump >= 0) this.behindPump[pump] = (this.behindPump[pump] as number) + by;
  }

  private close(i: Item, t: number): void {
    this.count(i, -1);
    this.lastClose[i.program] = t;
    this.lastEnd = t;
    this.lastMain = i.w.main;
    const litres = i.w.flow * (t - i.openedAt);
    this.litreSeconds += litres * (t - this.facts.first);
    this.litres += litres;
  }

  private done(i: Item): void {
    i.state = DONE;
    this.waiting--;
    this.starts.done(i);
  }

  private nextCycle(i: Item, t: number): void {
    i.cycle++;
    if (i.cycle >= i.w.cycles.length) {
      this.done(i);
      return;
    }
    i.left = i.w.cycles[i.cycle] as number;
    i.readyAt = t + i.w.soakS;
    i.state = WAITING;
  }

  /** Those whose cycle is over, and those whose hours are: these wait with what is left. */
  private closeWhatEnds(t: number): void {
    const still: Item[] = [];
    for (const i of this.running)
      if (i.endAt <= t) {
        this.close(i, t);
        this.nextCycle(i, t);
      } else if (this.mayRun(i, t)) still.push(i);
      else this.pause(i, t);
    this.running = still;
  }

  private cutWhatIsOver(t: number): void {
    for (const [start, { deadline }] of this.facts.starts.entries())
      if (this.starts.hasBegun(start) && t >= deadline) this.cutStart(start, t);
  }

  private cutStart(start: number, t: number): void {
    for (const i of this.starts.itemsOf(start)) {
      if (i.state === DONE) continue;
      if (i.state === RUNNING) {
        this.close(i, t);
        i.left = i.endAt - t;
        this.running = this.running.filter((r) => r !== i);
      }
      this.shortS += i.left + sum(i.w.cycles.slice(i.cycle + 1));
      this.done(i);
    }
    this.starts.finish(start);
  }

  private fits(i: Item, t: number): boolean {
    const { w, program } = i;
    const { siteLimit, limit, delay } = this.facts;
    return (
      (this.inProgram[program] as number) < (this.tuning[program] as Tuning[number]).atOnce &&
      this.room.has(w) &&
      (w.unknown ? this.inSystem[w.system] === 0 : this.unknownIn[w.system] === 0) &&
      this.onSite < siteLimit &&
      (this.onController[w.controller] as number) < (limit[w.controller] as number) &&
      this.runningOf[w.station] === 0 &&
      t >= (this.lastClose[program] as number) + (delay[program] as number) &&
      this.mayRun(i, t)
    );
  }

  /** Opens what fits, and takes back what leaves its pump under its minimum. False: what was opened cannot end by `latest`. */
  private openWhatFits(t: number): boolean {
    const barred = new Set<Item>();
    for (;;) {
      const added = this.read(t, barred);
      const taken = this.facts.minimums ? this.takeBack(added) : 0;
      for (const i of added)
        if (i.state === RUNNING) {
          const p = i.program;
          this.usedAtOnce[p] = Math.max(this.usedAtOnce[p] as number, this.inProgram[p] as number);
          if (i.endAt + (i.w.afterS[i.cycle] as number) > this.latest) return false;
        }
      if (taken === 0) return true;
      // Beside what has opened they may reach the minimum now.
      if (taken < added.length) barred.clear();
      else {
        const before = barred.size;
        for (const i of added) barred.add(i);
        if (barred.size === before) return true;
      }
    }
  }

  /** Reads the queue once from its head; returns what it opened. */
  private read(t: number, barred: ReadonlySet<Item>): Item[] {
    const { strict } = this.facts;
    const added: Item[] = [];
    let ended = NO_STARTS;
    for (const i of this.queue) {
      if (i.state !== WAITING || i.readyAt > t) continue;
      if (ended.size > 0 && ended.has(i.start)) continue;
      if (barred.has(i) || !this.fits(i, t)) {
        if (strict[i.program]) ended = new Set([...ended, i.start]);
        continue;
      }
      this.count(i, 1);
      i.state = RUNNING;
      i.openedAt = t;
      i.endAt = t + i.left;
      this.running.push(i);
      added.push(i);
    }
    return added;
  }

  // ---- pumps' minimums -------------------------------------------------------------------------------------------

  /** Pumps that run under their minimum now. */
  private underMinimum(): number[] {
    const { minimums } = this.facts;
    if (!minimums || this.running.length === 0) return [];
    const carried = minimums.carried(
      this.room.period,
      this.running.map((i) => i.w),
    );
    return minimums.lpm.flatMap((least, n) => {
      const lpm = carried[n] as number;
      const under = lpm > NEGLIGIBLE_LPM && lpm < least - NEGLIGIBLE_LPM;
      return under && this.running.some((i) => !i.w.unknown && i.w.minimums.includes(n)) ? [n] : [];
    });
  }

  /** How many of those just opened are taken back, for the minimums of their pumps. */
  private takeBack(added: readonly Item[]): number {
    for (let taken = 0; ; ) {
      const under = this.underMinimum();
      const back = added.filter((i) => i.state === RUNNING && under.some((n) => i.w.minimums.includes(n)));
      if (back.length === 0) return taken;
      for (const i of back) {
        this.count(i, -1);
        i.state = WAITING;
      }
      this.running = this.running.filter((i) => i.state === RUNNING);
      taken += back.length;
    }
  }

  private pauseUnderMinimum(t: number): void {
    if (!this.minimumUntil.some((at) => t >= at)) return;
    for (const n of this.underMinimum()) {
      if (t < (this.minimumUntil[n] as number)) continue;
      for (const i of this.running) if (i.w.minimums.includes(n)) this.pause(i, t);
      this.running = this.running.filter((i) => i.state === RUNNING);
      this.minimumUntil[n] = NEVER;
    }
  }

  private watchMinimums(t: number): void {
    const under = this.underMinimum();
    for (let n = 0; n < this.minimumUntil.length; n++)
      this.minimumUntil[n] = under.includes(n) ? Math.min(this.minimumUntil[n] as number, t + UNDER_MINIMUM_S) : NEVER;
  }

  /** The next instant at which anything can open or close; infinite when there is none. */
  private nextMoment(t: number): number {
    let after = Math.min(this.room.changesAt, this.nextOfPrograms(t));
    for (const i of this.running) if (i.endAt < after) after = i.endAt;
    for (const at of this.minimumUntil) if (at > t && at < after) after = at;
    for (const i of this.queue) if (i.state === WAITING && i.readyAt > t && i.readyAt < after) after = i.readyAt;
    return after;
  }

  /** When a start comes; and of those that have begun and are not done, when a delay is over, hours or inputs turn or what is left is cut. */
  private nextOfPrograms(t: number): number {
    const { starts, delay, open, pauses } = this.facts;
    let after = NEVER;
    const consider = (at: number | null): void => {
      if (at !== null && at > t && at < after) after = at;
    };
    for (const [start, { program, at, deadline }] of starts.entries()) {
      if (this.starts.isPending(start)) consider(at);
      if (!this.starts.hasBegun(start)) continue;
      consider(deadline);
      consider((this.lastClose[program] as number) + (delay[program] as number));
      const hours = open[program];
      if (hours) consider(nextChange(hours, t));
      for (const { intervals } of pauses[program] as NightFacts["pauses"][number]) consider(nextChange(intervals, t));
    }
    return after;
  }
}

/** Two draw on one connected system or on one source. */
const sharesWater = (a: Work, b: Work): boolean =>
  a.system === b.system || b.sources.some((s) => a.sources.includes(s));
