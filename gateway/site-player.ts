import { type Held, type Ordered, siteRun, withHold } from "../core/at-controller/held.ts";
import { type Lived, LivedDay } from "../core/at-controller/lived-day.ts";
import { valveCheck } from "../core/at-controller/valve-check.ts";
import { beginBenchDay } from "../core/bench/bench-day.ts";
import { type Fault, resolveFaults } from "../core/bench/faults/resolve.ts";
import { type EpochS, localDate, localIso } from "../core/dates/wall-time.ts";
import type { EventMessage, ReadingMessage } from "../core/field/messages.ts";
import type { SiteFile } from "../core/site-file/schema.ts";
import { type AtWork, forgetPast, setUpBy } from "./at-work.ts";

export type Said = Omit<ReadingMessage, "stream" | "seq"> | Omit<EventMessage, "stream" | "seq">;
/** With everything shut and nothing flowing one reading in so many seconds is enough. */
const AT_REST_S = 60;
const NEXT_TOLD = 5;

/**
 * A site as its controllers would live it, second after second and day after day, on the bench: what stands in the ground, and what they hold, are two things. The same
 * site, faults, orders and seed always live the same day, so it can be taken up at any instant.
 */
export class SitePlayer {
  private lived: LivedDay;
  private t: EpochS;
  private date: string;
  private told = { events: 0, alarms: 0 };
  private lastSaid = "";
  private ground: SiteFile;
  private faults: unknown[];
  private faultsOn: string;
  private readonly seed: number;
  private atWork: AtWork;
  /** Of what was ordered, how much has been carried out. */
  private carriedOut = 0;
  private besides: Said[] = [];

  /**
   * @param faultsOn the date on which the faults begin; without an end they last from then on. @default the date of `from`
   * @param work @default set up by the file
   * @throws where a fault does not fit the site
   */
  constructor(
    ground: SiteFile,
    from: EpochS,
    faults: unknown[],
    seed: number,
    faultsOn?: string,
    work: AtWork = setUpBy(ground),
  ) {
    this.ground = ground;
    this.faults = faults;
    this.seed = seed;
    this.t = from;
    this.date = localDate(ground.site.timeZone, from);
    this.faultsOn = faultsOn ?? this.date;
    this.atWork = structuredClone(work);
    this.lived = this.take(this.date);
  }

  /** The second that comes next. */
  get now(): EpochS {
    return this.t;
  }

  get today(): string {
    return this.date;
  }

  /** What is to be kept, as it is now. */
  get work(): AtWork {
    return { ...this.atWork, lockouts: this.lockouts };
  }

  get lockouts(): string[] {
    return [...new Set([...this.atWork.lockouts, ...this.lived.day.controller.lockouts])];
  }

  get learns(): boolean {
    return this.lived.learns;
  }

  get openStations(): string[] {
    return this.openIds();
  }

  /** What is wrong with it, as it was understood. */
  get wrong(): unknown[] {
    return this.faults;
  }

  /**
   * Another site in the ground, other faults or other settings from now on: the day is lived again up to now, and goes on with them. What had not begun by now is not begun
   * for lying in the past, and what is locked out stays so.
   *
   * @throws where a fault does not fit the site; then nothing is changed
   */
  change(to: { ground?: SiteFile; faults?: unknown[]; held?: Held[]; lockouts?: string[] }): void {
    const before = {
      ground: this.ground,
      faults: this.faults,
      faultsOn: this.faultsOn,
      atWork: this.atWork,
      lived: this.lived,
      carriedOut: this.carriedOut,
    };
    const open = this.openIds();
    try {
      if (to.faults) {
        this.faults = this.noneInThePast(to.ground ?? this.ground, to.faults);
        this.faultsOn = this.date;
      }
      this.atWork = {
        ...this.atWork,
        held: to.held ?? this.atWork.held,
        lockouts: to.lockouts ?? this.lockouts,
        settled: {
          at: this.t,
          starts: this.lived.day.night.starts.filter((s) => s.at < this.t).map((s) => this.nameOf(s)),
        },
      };
      this.ground = to.ground ?? this.ground;
      this.lived = this.take(this.date);
    } catch (error) {
      Object.assign(this, before);
      throw error;
    }
    const now = this.openIds();
    const at = new Date(this.t * 1000).toISOString();
    const turned = (type: string, ids: string[]): Said[] =>
      ids.map((subject) => ({ at, kind: "event" as const, type, subject, reason: "set otherwise" }));
    this.besides.push(
      ...turned(
        "close",
        open.filter((id) => !now.includes(id)),
      ),
      ...turned(
        "open",
        now.filter((id) => !open.includes(id)),
      ),
    );
  }

  /** Carries an order out now. @returns why not, in words; null where it is done */
  order(o: Omit<Ordered, "at">): string | null {
    const asked: Ordered = { ...o, at: this.t };
    const { what } = o;
    switch (what.kind) {
      case "off":
        this.set(asked, (h) => ({ ...h, settings: withHold(h.settings, what.until) }));
        return null;
      case "resume":
        this.set(asked, (h) => ({ ...h, settings: withHold(h.settings, null) }));
        return null;
      case "clock":
        this.set(asked, (h) => ({ ...h, clockOffS: 0 }));
        return null;
      case "hand": {
        const poc = this.ground.pocs.find((p) => p.id === what.pocId);
        if (!poc) return "it has no such point of connection";
        if (this.lockouts.includes(poc.id)) return `${poc.name} is locked out`;
        this.set(asked, (h) => h);
        return null;
      }
      case "check":
        return this.atWork.held.some((h) => h.controllerId === what.controllerId) ? null : "it has no such controller";
      case "read":
        return null;
      default: {
        this.applyUpToNow();
        const why = this.lived.order(asked, this.t);
        if (why === null) {
          if (what.kind === "clear") this.atWork.lockouts = this.atWork.lockouts.filter((id) => !what.ids.includes(id));
          this.keep(asked);
          this.carriedOut = this.atWork.ordered.length;
        }
        return why;
      }
    }
  }

  /** What each station of a controller draws, mA. */
  check(controllerId: string): Record<string, number> {
    return valveCheck(this.ground, controllerId, this.faultsNow(), this.t, this.seed + this.t);
  }

  /** Lives one second more; what a controller would say of it. */
  second(): Said[] {
    if (this.t >= this.lived.day.midnight && !this.lived.busy) this.nextDay();
    this.applyUpToNow();
    const lived = this.lived.second(this.t);
    this.t++;
    const said = [...this.besides, ...this.say(lived)];
    this.besides = [];
    return said;
  }

  /** What is set otherwise holds from now on; the order itself is carried out and told with the next second. */
  private set(o: Ordered, otherwise: (h: Held) => Held): void {
    this.keep(o);
    this.change({ held: this.atWork.held.map(otherwise) });
  }

  private keep(o: Ordered): void {
    this.atWork = { ...this.atWork, ordered: [...this.atWork.ordered, o] };
  }

  private nameOf(start: { program: number; at: EpochS }): string {
    return `${this.lived.day.site.programs[start.program]?.id}@${start.at}`;
  }

  private openIds(): string[] {
    const { site, controller } = this.lived.day;
    return this.lived.learns ? [] : [...controller.now.stations].map((s) => site.stations[s]?.id as string);
  }

  private faultsNow(): Fault[] {
    const resolved = resolveFaults(
      this.ground,
      this.faultsOf(this.date),
      this.date,
      this.lived.day.night.starts[0]?.at ?? this.t,
    );
    return resolved.ok ? resolved.faults : [];
  }

  private nextDay(): void {
    const still = new Set(this.lived.stillToLearn.map((o) => o.id));
    const handEnds = (o: Ordered): number => (o.what.kind === "hand" ? o.at + 60 * (o.what.minutes + 1) : 0);
    this.atWork = {
      ...this.atWork,
      lockouts: this.lockouts,
      ordered: this.atWork.ordered.filter((o) => still.has(o.id) || handEnds(o) > this.t),
      settled: null,
    };
    this.date = localDate(this.ground.site.timeZone, this.t);
    this.lived = this.take(this.date);
  }

  private take(date: string): LivedDay {
    const { held, lockouts, ordered, settled } = this.atWork;
    const begun = beginBenchDay(siteRun(this.ground, held, lockouts, ordered), {
      date,
      ground: this.ground,
      faults: this.faultsOf(date),
      seed: this.seed,
    });
    if (!begun.ok) throw new Error(begun.problem.message);
    const { day } = begun;
    if (settled) forgetPast(day, settled);
    const lived = new LivedDay(day);
    this.carriedOut = 0;
    day.controller.begin(day.begin);
    for (let t = day.begin; t < this.t; ) {
      this.carryOut(lived, t);
      const wake = lived.restsUntil(t, Math.min(this.t, ordered[this.carriedOut]?.at ?? Number.POSITIVE_INFINITY));
      if (wake !== null) t = lived.rest(t, wake);
      else {
        lived.second(t);
        t++;
      }
    }
    this.told = { events: day.controller.events.length, alarms: day.controller.alarms.length };
    return lived;
  }

  private carryOut(lived: LivedDay, t: EpochS): void {
    const { ordered } = this.atWork;
    for (let o = ordered[this.carriedOut]; o && o.at <= t; o = ordered[++this.carriedOut]) lived.order(o, t);
  }

  private applyUpToNow(): void {
    this.carryOut(this.lived, this.t);
  }

  /** A fault that is new begins now at the earliest: what has been said cannot be taken back. */
  private noneInThePast(site: SiteFile, faults: unknown[]): unknown[] {
    const { night, begin } = this.lived.day;
    const known = new Set(this.faultsOf(this.date).map((f) => JSON.stringify(f)));
    const resolved = resolveFaults(site, faults, this.date, night.starts[0]?.at ?? begin);
    if (!resolved.ok) throw new Error(resolved.problem.message);
    const clock = localIso(site.site.timeZone, this.t).slice(11, 19);
    return faults.map((f, i) =>
      known.has(JSON.stringify(f)) || (resolved.faults[i]?.from as number) >= this.t
        ? f
        : { ...(f as object), at: clock },
    );
  }

  /** On later days those that ended are over, and those that did not are there from midnight. */
  private faultsOf(date: string): unknown[] {
    if (date === this.faultsOn) return this.faults;
    return (this.faults as { until?: string }[]).flatMap((f) =>
      f.until === undefined ? [{ ...f, at: "00:00:00" }] : [],
    );
  }

  /** What open stations have left, and what comes next. */
  private ahead(): Pick<ReadingMessage, "left" | "next"> {
    const { night, site } = this.lived.day;
    const id = (station: number): string => site.stations[station]?.id ?? "";
    const next = night.upNext(NEXT_TOLD).map(id);
    const left = [...night.leftNow(this.t)].map(([station, s]) => [id(station), s] as const);
    return {
      ...(left.length > 0 ? { left: Object.fromEntries(left) } : {}),
      ...(next.length > 0 ? { next } : {}),
    };
  }

  private say({ commands, seen }: Lived): Said[] {
    const { site, controller } = this.lived.day;
    const at = new Date(this.t * 1000).toISOString();
    const flow: Record<string, number | null> = {};
    const pressure: Record<string, number | null> = {};
    const valves: string[] = [];
    const pumps: string[] = [];
    const tenth = (v: number | null | undefined): number | null =>
      v === null || v === undefined ? null : Math.round(v * 10) / 10;
    site.pocs.forEach((poc, p) => {
      for (const d of poc.devices) {
        if (d.kind === "flowSensor") flow[d.id] = tenth(seen.pocReading[p]);
        if (d.kind === "pressureSensor") pressure[d.id] = tenth(seen.pressureKpa[p]);
        if (d.kind === "masterValve" && commands.pocValve[p]) valves.push(d.id);
        if (d.kind === "pump" && commands.pump[p]) pumps.push(d.id);
      }
    });
    site.mainlines.forEach((main, m) => {
      for (const d of main.devices ?? []) {
        if (d.kind === "flowSensor") flow[d.id] = tenth(seen.mainlineReading[m]);
        if (d.kind === "masterValve" && commands.mainlineValve[m]) valves.push(d.id);
      }
    });
    const open = [...commands.stations].map((s) => site.stations[s]?.id as string);
    const standing = JSON.stringify([open, valves, pumps]);
    const said: Said[] = [];
    if (
      standing !== this.lastSaid ||
      open.length > 0 ||
      this.t % AT_REST_S === 0 ||
      Object.values(flow).some((q) => q !== null && q > 0)
    )
      said.push({ at, kind: "reading", flow, pressure, open, valves, pumps, ...this.ahead() });
    this.lastSaid = standing;
    for (const e of controller.events.slice(this.told.events)) {
      const alarm = e.type === "alarm" ? controller.alarms[this.told.alarms++] : undefined;
      said.push({
        // In the second that is told: who goes on after the last word told goes on after this one.
        at: new Date(Math.max(e.at, this.t) * 1000).toISOString(),
        kind: "event",
        type: e.type,
        subject: e.subjectId,
        reason: e.reason,
        ...(e.order ? { order: e.order } : {}),
        ...(e.more as Pick<EventMessage, "learned" | "rest" | "litres"> | undefined),
        ...(alarm
          ? {
              alarm: {
                kind: alarm.kind,
                measuredLpm: alarm.measuredLpm,
                expectedLpm: alarm.expectedLpm,
                ...(alarm.note ? { note: alarm.note } : {}),
                ...(alarm.kPa ? { kPa: alarm.kPa } : {}),
              },
            }
          : {}),
      });
    }
    this.told.events = controller.events.length;
    return said;
  }
}
