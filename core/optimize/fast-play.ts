import type { Entry } from "../dispatch/queue.ts";
import { type Interval, isInside, nextChange } from "../calendar/windows.ts";

/** What a search may change of each program, by place in the file. `order` holds places in the program's list of entries. */
export type Tuning = { order: number[]; priority: number; atOnce: number }[];

/** All that one station has to water in one program: seconds of its cycles and of the soaks between them. */
export type Work = {
  entry: Entry;
  station: number;
  main: number;
  controller: number;
  /** The dispatch group of its controller, and the connected system and the sources that it draws on. */
  group: number;
  system: number;
  sources: readonly number[];
  /** The cuts that its water passes. */
  cuts: Int32Array;
  /** L/min; 0 where no figure is known, and then it runs alone on its system. */
  flow: number;
  unknown: boolean;
  /** Pumps with a minimum flow that its station starts, by place in `minimums`. */
  minimums: readonly number[];
  cycles: number[];
  soakS: number;
  /** Seconds that its later cycles and soaks still need after each cycle. */
  afterS: number[];
};

/** Pumps that must carry a minimum. */
export type Minimums = {
  lpm: readonly number[];
  /** What each of them carries with these running, in a period. */
  carried: (period: number, running: readonly Work[]) => ArrayLike<number>;
};

/** What of a night no tuning changes, on plain arrays by place in the file; instants in epoch seconds, flows in L/min. */
export type NightFacts = {
  /** By program. */
  work: Work[][];
  startAt: number[];
  /** What is left of a program then is cut. */
  overAt: number[];
  open: (Interval[] | null)[];
  delay: number[];
  strict: boolean[];
  /** Programs with something to run. */
  busy: number[];
  /** Stations at once, by controller and on the whole. */
  limit: number[];
  siteLimit: number;
  stations: number;
  systems: number;
  groups: number;
  /** By mainline: the pump it draws on, −1 for none. */
  pumpOfMain: Int32Array;
  pumps: number;
  /** From each instant on, by cut: what may pass it. The first is the first start. */
  periods: { from: number; cap: Float64Array }[];
  /** By cut: the most that may pass it at any time, and L/min × s that must in the whole night. */
  cutMost: Float64Array;
  cutWork: Float64Array;
  minimums: Minimums | null;
  /** Seconds that no tuning can water, and the first start. */
  shortS: number;
  first: number;
};

/** So long a pump may run under its minimum flow, s; and flows that are none, L/min (site-file#pump-minimum). */
const UNDER_MINIMUM_S = 60;
const NEGLIGIBLE_LPM = 1e-6;
const WAITING = 0;
const RUNNING = 1;
const DONE = 2;
const NEVER = Number.POSITIVE_INFINITY;
const NONE: ReadonlySet<number> = new Set();
const NOBODY: ReadonlySet<Work> = new Set();
const sum = (values: number[]): number => values.reduce((a, b) => a + b, 0);

type Item = {
  w: Work;
  program: number;
  cycle: number;
  left: number;
  readyAt: number;
  openedAt: number;
  endAt: number;
  state: typeof WAITING | typeof RUNNING | typeof DONE;
};

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
  /** By program, like `waiting`. */
  private readonly leftIn: Int32Array;
  private readonly used: Float64Array;
  private readonly inProgram: Int32Array;
  private readonly onController: Int32Array;
  private readonly runningOf: Uint8Array;
  /** By connected system: how many run, and how many of those without a figure. */
  private readonly inSystem: Int32Array;
  private readonly unknownIn: Int32Array;
  private period = 0;
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
    const programs = facts.startAt.length;
    this.facts = facts;
    this.tuning = tuning;
    this.shortS = facts.shortS + [...never].reduce((short, w) => short + sum(w.cycles), 0);
    this.latest = beat && (beat[0] as number) <= this.shortS ? facts.first + (beat[1] as number) : NEVER;
    this.lastEnd = facts.first;
    this.passedTo = facts.first;
    this.queue = this.queued().filter((i) => !never.has(i.w));
    this.waiting = this.queue.length;
    this.leftIn = new Int32Array(programs);
    for (const i of this.queue) this.leftIn[i.program] = (this.leftIn[i.program] as number) + 1;
    this.minimumUntil = new Float64Array(facts.minimums?.lpm.length ?? 0).fill(NEVER);
    this.used = new Float64Array(facts.cutWork.length);
    this.inSystem = new Int32Array(facts.systems);
    this.unknownIn = new Int32Array(facts.systems);
    this.toPass = facts.cutWork.slice();
    for (const w of never) for (const n of w.cuts) this.toPass[n] = (this.toPass[n] as number) - w.flow * sum(w.cycles);
    this.inProgram = new Int32Array(programs);
    this.usedAtOnce = new Int32Array(programs);
    this.lastClose = new Float64Array(programs).fill(Number.NEGATIVE_INFINITY);
    this.onController = new Int32Array(facts.limit.length);
    this.runningOf = new Uint8Array(facts.stations);
    this.behindPump = new Int32Array(facts.pumps);
    this.ranPump = new Uint8Array(facts.pumps);
    this.overdue = Math.min(...facts.busy.map((p) => facts.overAt[p] as number));
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
      if (t >= this.nextPeriodAt()) this.changePeriod(t);
      if (t >= this.overdue) this.cutWhatIsOver(t);
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
    const { work, startAt, busy } = this.facts;
    const { tuning } = this;
    const ranked = [...busy].sort(
      (a, b) =>
        (tuning[a]?.priority ?? 1) - (tuning[b]?.priority ?? 1) ||
        (startAt[a] as number) - (startAt[b] as number) ||
        a - b,
    );
    const items: Item[] = [];
    for (const program of ranked)
      for (const place of (tuning[program] as Tuning[number]).order) {
        const w = (work[program] as Work[])[place] as Work;
        const readyAt = startAt[program] as number;
        const left = w.cycles[0] as number;
        items.push({ w, program, cycle: 0, left, readyAt, openedAt: 0, endAt: 0, state: WAITING });
      }
    return items;
  }

  /** What is still to pass a cut takes at least so long at its full capacity. */
  private mustEndLate(t: number): boolean {
    const { cutMost } = this.facts;
    const since = t - this.passedTo;
    for (let n = 0; n < this.toPass.length; n++) {
      const left = (this.toPass[n] as number) - (this.used[n] as number) * since;
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

  private nextPeriodAt(): number {
    return this.facts.periods[this.period + 1]?.from ?? NEVER;
  }

  /** What may flow has changed: of each group the latest opened close, of those that draw on what is too much, until the others are allowed. */
  private changePeriod(t: number): void {
    while (t >= this.nextPeriodAt()) this.period++;
    for (let group = 0; group < this.facts.groups; group++)
      for (;;) {
        const mine = this.running.filter((i) => i.w.group === group);
        if (this.allowed(mine)) break;
        const drawing = mine.filter((i) => !this.allowed(mine.filter((r) => sharesWater(r.w, i.w))));
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

  private allowed(items: readonly Item[]): boolean {
    const asked = new Float64Array(this.used.length);
    for (const { w } of items) for (const n of w.cuts) asked[n] = (asked[n] as number) + w.flow;
    const { cap } = this.facts.periods[this.period] as NightFacts["periods"][number];
    return asked.every((lpm, n) => lpm <= (cap[n] as number));
  }

  private load({ cuts }: Work, by: number): void {
    for (let n = 0; n < cuts.length; n++) this.used[cuts[n] as number] = (this.used[cuts[n] as number] as number) + by;
  }

  private hasRoom({ cuts, flow }: Work): boolean {
    const { cap } = this.facts.periods[this.period] as NightFacts["periods"][number];
    for (let n = 0; n < cuts.length; n++)
      if ((this.used[cuts[n] as number] as number) + flow > (cap[cuts[n] as number] as number)) return false;
    return true;
  }

  /** Counts a station in (1) or out (−1) everywhere. */
  private count({ w, program }: Item, by: 1 | -1): void {
    this.load(w, by * w.flow);
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
    this.leftIn[i.program] = (this.leftIn[i.program] as number) - 1;
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
      } else if (this.isOpen(i.program, t)) still.push(i);
      else this.pause(i, t);
    this.running = still;
  }

  private cutWhatIsOver(t: number): void {
    for (const i of this.queue) {
      if (i.state === DONE || t < (this.facts.overAt[i.program] as number)) continue;
      if (i.state === RUNNING) {
        this.close(i, t);
        i.left = i.endAt - t;
        this.running = this.running.filter((r) => r !== i);
      }
      this.shortS += i.left + sum(i.w.cycles.slice(i.cycle + 1));
      this.done(i);
    }
  }

  private fits({ w, program }: Item, t: number): boolean {
    const { siteLimit, limit, delay } = this.facts;
    return (
      (this.inProgram[program] as number) < (this.tuning[program] as Tuning[number]).atOnce &&
      this.hasRoom(w) &&
      (w.unknown ? this.inSystem[w.system] === 0 : this.unknownIn[w.system] === 0) &&
      this.onSite < siteLimit &&
      (this.onController[w.controller] as number) < (limit[w.controller] as number) &&
      this.runningOf[w.station] === 0 &&
      t >= (this.lastClose[program] as number) + (delay[program] as number) &&
      this.isOpen(program, t)
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
    const { startAt, strict } = this.facts;
    const added: Item[] = [];
    let ended = NONE;
    for (const i of this.queue) {
      const p = i.program;
      if (i.state !== WAITING || t < (startAt[p] as number) || i.readyAt > t) continue;
      if (ended.size > 0 && ended.has(p)) continue;
      if (barred.has(i) || !this.fits(i, t)) {
        if (strict[p]) ended = new Set([...ended, p]);
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
      this.period,
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
    let after = Math.min(this.nextPeriodAt(), this.nextOfPrograms(t));
    for (const i of this.running) if (i.endAt < after) after = i.endAt;
    for (const at of this.minimumUntil) if (at > t && at < after) after = at;
    for (const i of this.queue)
      if (i.state === WAITING) {
        const at = Math.max(i.readyAt, this.facts.startAt[i.program] as number);
        if (at > t && at < after) after = at;
      }
    return after;
  }

  /** When a delay is over, hours turn or what is left is cut, in programs that have begun and are not done. */
  private nextOfPrograms(t: number): number {
    let after = NEVER;
    for (const p of this.facts.busy) {
      if (t < (this.facts.startAt[p] as number) || this.leftIn[p] === 0) continue;
      const delayed = (this.lastClose[p] as number) + (this.facts.delay[p] as number);
      if (delayed > t && delayed < after) after = delayed;
      const hours = this.facts.open[p];
      const turn = hours ? nextChange(hours, t) : null;
      if (turn !== null && turn < after) after = turn;
      const over = this.facts.overAt[p] as number;
      if (over > t && over < after) after = over;
    }
    return after;
  }
}

/** Two draw on one connected system or on one source. */
const sharesWater = (a: Work, b: Work): boolean =>
  a.system === b.system || b.sources.some((s) => a.sources.includes(s));
