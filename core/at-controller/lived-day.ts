import { got, nth } from "../checked.ts";
import type { BenchDay } from "../bench/bench-day.ts";
import type { Commands, PlantSecond } from "../bench/plant.ts";
import { adjustedSeconds } from "../calendar/run-time.ts";
import { type EpochS, localDate } from "../dates/wall-time.ts";
import type { LearnEvent } from "../learn/events.ts";
import { handProgram, type Ordered, walkProgram } from "./held.ts";
import { LearnThere } from "./learn-there.ts";

export type Lived = { commands: Commands; seen: PlantSecond };

/**
 * A day of a site's controllers: what they are set to, and what they are ordered to do meanwhile. The same day with the same orders is always lived the same way, so that it
 * can be taken up again at any second.
 */
export class LivedDay {
  readonly day: BenchDay;
  private learning: LearnThere | null = null;
  /** Learning whose hour has not come, or that waits until nothing runs. */
  private waiting: Ordered[] = [];

  constructor(day: BenchDay) {
    this.day = day;
  }

  get busy(): boolean {
    return this.learning !== null || this.day.controller.busy || !this.day.night.finished;
  }

  get learns(): boolean {
    return this.learning !== null;
  }

  /** Learning that is still to come. */
  get stillToLearn(): readonly Ordered[] {
    return this.waiting;
  }

  /** Carries an order out in the second `t`. @returns why not, in words; null where it is done */
  order(o: Ordered, t: EpochS): string | null {
    const why = this.carryOut(o, t);
    if (why === null && o.what.kind !== "learn")
      this.day.controller.log(t, "ordered", this.subjectOf(o), orderWords(o), { order: o.id });
    return why;
  }

  private carryOut({ id, what }: Ordered, t: EpochS): string | null {
    const { night, controller, w, site } = this.day;
    switch (what.kind) {
      case "run":
        return this.run(what.runs, t);
      case "walk": {
        const mine = site.stations.flatMap((s, station) =>
          s.controllerId === what.controllerId ? [{ station, seconds: Math.round(what.minutes * 60) }] : [],
        );
        const program = site.programs.findIndex((p) => p.id === walkProgram(what.controllerId));
        if (program < 0 || mine.length === 0) return "it has no such controller, or no stations on it";
        if (this.isOff(what.controllerId, t)) return "it is off; resume first";
        const held = this.pausedByWeather(what.controllerId, t);
        if (held) return `a weather input holds its programs (${held}); run single stations instead`;
        return night.beginByHand(program, mine, t) ? this.dirty() : "none of its stations can run";
      }
      case "program":
        return this.program(what, t);
      case "skip":
        return night.skip(t) > 0 ? this.dirty() : "nothing runs";
      case "stop":
      case "off":
        this.endLearning("stopped", t);
        this.waiting = [];
        controller.stopByHand(t);
        return null;
      case "learn": {
        const known = what.stationIds.filter((s) => w.stationIndex.has(s));
        if (known.length === 0) return "it has none of these stations";
        if (this.learning || this.waiting.length > 0) return "it learns already, or is to";
        this.waiting.push({ id, at: t, by: "", what });
        return null;
      }
      case "clear":
        controller.unlock(what.ids, t, id);
        return null;
      case "lock":
        for (const element of what.ids) this.lock(element, t);
        return null;
      // What is held or told, and hand watering, is carried out by who holds the settings.
      default:
        return null;
    }
  }

  private lock(id: string, t: EpochS): void {
    const { controller, night, site } = this.day;
    controller.lock(id, t);
    const station = site.stations.findIndex((s) => s.id === id);
    if (station >= 0) night.lockStation(station, t);
    const mainlines = site.mainlines.flatMap((m, i) => (m.id === id ? [i] : []));
    const pocs = site.pocs.flatMap((p, i) => (p.id === id ? [i] : []));
    if (mainlines.length + pocs.length > 0) night.lockElements({ mainlines, pocs }, t);
    controller.dirty = true;
  }

  private dirty(): null {
    this.day.controller.dirty = true;
    return null;
  }

  private run(runs: readonly { stationId: string; minutes: number }[], t: EpochS): string | null {
    const { night, w, site } = this.day;
    if (this.learning) return "it learns; stop that first";
    const unknown = runs.find((r) => !w.stationIndex.has(r.stationId));
    if (unknown) return `it has no station ${unknown.stationId}`;
    const places = runs.map((r) => ({
      station: got(w.stationIndex, r.stationId),
      seconds: Math.round(r.minutes * 60),
    }));
    const locked = places.find((p) => night.lockedStations.has(p.station));
    if (locked) return `${nth(site.stations, locked.station).name} is locked out`;
    for (const c of site.controllers) {
      const mine = places.filter((p) => site.stations[p.station]?.controllerId === c.id);
      if (mine.length === 0) continue;
      if (this.isOff(c.id, t)) return "it is off; resume first";
      const program = site.programs.findIndex((p) => p.id === handProgram(c.id));
      if (program < 0 || !night.beginByHand(program, mine, t))
        return "none of these can run: locked out, without supply, or above the ceiling";
    }
    return this.dirty();
  }

  private program(
    what: { programId: string; fromStationId?: string | undefined; minutes?: number | undefined },
    t: EpochS,
  ): string | null {
    const { night, site, w, zone } = this.day;
    if (this.learning) return "it learns; stop that first";
    const index = site.programs.findIndex((p) => p.id === what.programId);
    const program = site.programs[index];
    if (!program) return "it holds no such program";
    if (this.isOff(program.controllerId, t)) return "it is off; resume first";
    if (!night.isOpen(index, t)) return "its water window is closed now";
    const from = what.fromStationId ? program.runs.findIndex((r) => r.stationId === what.fromStationId) : 0;
    if (from < 0) return "that station is not in it";
    const date = localDate(zone, t);
    const runs = program.runs.slice(from).flatMap((r) => {
      const station = w.stationIndex.get(r.stationId);
      const seconds =
        what.minutes === undefined ? adjustedSeconds(site, program, r.minutes, date) : Math.round(what.minutes * 60);
      return station === undefined || r.minutes === 0 ? [] : [{ station, seconds }];
    });
    return night.beginByHand(index, runs, t) ? this.dirty() : "none of its stations can run";
  }

  /** A hold stands on each of its programs. */
  private isOff(controllerId: string, t: EpochS): boolean {
    const { site, zone } = this.day;
    const date = localDate(zone, t);
    const held = (until: string | undefined): boolean =>
      until !== undefined && (until === "indefinite" || date < until);
    const own = site.programs.filter((p) => p.controllerId === controllerId && p.runs.length > 0);
    return (
      site.controllers.find((c) => c.id === controllerId)?.off === true ||
      (own.length > 0 && own.every((p) => held(p.holdUntil)))
    );
  }

  private pausedByWeather(controllerId: string, t: EpochS): string | null {
    const { site, night } = this.day;
    for (const [i, p] of site.programs.entries()) {
      const input = p.controllerId === controllerId ? night.pausing(i, t) : null;
      if (input) return site.weatherInputs?.find((w) => w.id === input)?.name ?? input;
    }
    return null;
  }

  private subjectOf({ what }: Ordered): string {
    switch (what.kind) {
      case "run":
        return what.runs[0]?.stationId ?? "";
      case "program":
        return what.programId;
      case "walk":
      case "check":
        return what.controllerId;
      case "hand":
        return what.pocId;
      default:
        return "";
    }
  }

  /** Lives the second from `t`. */
  second(t: EpochS): Lived {
    const { controller, plant, night } = this.day;
    if (!this.learning) this.beginLearning(t);
    const learning = this.learning;
    if (learning) {
      const { lived, told } = learning.second();
      for (const event of told) this.tell(event, learning, t);
      if (learning.burst) this.burst(learning, t + 1);
      if (lived) return lived;
      this.endLearning("done", t);
    }
    const commands = controller.now;
    const seen = plant.second(t, commands);
    controller.second(t + 1, seen);
    if (night.finished && !controller.busy) this.beginLearning(t + 1);
    return { commands, seen };
  }

  /** May be passed over up to this instant, where nothing can happen; null where it may not. */
  restsUntil(t: EpochS, next: EpochS): EpochS | null {
    const { controller, plant } = this.day;
    if (this.learning || controller.busy || controller.dirty || !plant.atRest(t, controller.now)) return null;
    const due = this.waiting.map((o) => learnFrom(o));
    const wake = Math.min(controller.nextChange(t), plant.nextFaultEdge(t), next, ...due);
    return wake <= t + 1 ? null : wake;
  }

  /** Passes over the seconds up to `wake`, which are all alike. @returns the second that comes next */
  rest(t: EpochS, wake: EpochS): EpochS {
    const { controller, plant } = this.day;
    controller.second(wake - 1, plant.second(wake - 2, controller.now));
    return Math.max(t + 1, wake - 1);
  }

  private beginLearning(t: EpochS): void {
    const next = this.waiting[0];
    const { night, controller } = this.day;
    if (next?.what.kind !== "learn" || t < learnFrom(next) || night.running.length > 0 || controller.busy) return;
    this.waiting.shift();
    this.learning = new LearnThere(this.day, next.id, next.what, t);
    controller.log(t, "learnBegins", "", "", { order: next.id });
  }

  private endLearning(why: string, t: EpochS): void {
    const { learning } = this;
    if (!learning) return;
    learning.stop();
    this.learning = null;
    this.day.controller.log(t, "learnEnds", "", why, {
      order: learning.order,
      more: { litres: learning.litres },
    });
    this.day.controller.dirty = true;
  }

  private burst(learning: LearnThere, now: EpochS): void {
    const { controller, site } = this.day;
    const { burst } = learning;
    const poc = burst && site.pocs[burst.poc];
    this.endLearning("over the burst limit", now);
    if (!burst || !poc) return;
    controller.alarm(now, "burst", poc.id, burst.lpm, 0);
    if (poc.burstResponse !== "notify") controller.lockPocs([burst.poc], now);
  }

  private tell(event: LearnEvent, { order }: LearnThere, t: EpochS): void {
    const { controller } = this.day;
    switch (event.type) {
      case "refused":
        controller.log(t, "learnRefuses", event.stationId, event.reasons.join(" "), { order });
        return;
      case "baseline":
        controller.log(event.at, "learnRests", event.baseline.pocIds[0], `${event.baseline.measuredLpm}`, {
          order,
          more: { rest: event.baseline },
        });
        return;
      case "opens":
        controller.log(event.at, "learnOpens", event.stationId, (event.withIds ?? []).join(" "), { order });
        return;
      case "result":
        controller.log(event.at, "learned", event.result.stationId, event.result.verdict, {
          order,
          more: { learned: event.result },
        });
        return;
      case "left":
        for (const id of event.stationIds) controller.log(t, "learnLeaves", id, "no time is left for it", { order });
        return;
      default:
        return;
    }
  }
}

const learnFrom = (o: Ordered): EpochS =>
  o.what.kind === "learn" && o.what.from !== undefined ? Math.floor(Date.parse(o.what.from) / 1000) : o.at;

/** Who asked for what, for the log of the site. */
function orderWords({ by, what }: Ordered): string {
  const asked = `asked by ${by}`;
  switch (what.kind) {
    case "run":
      return `run for ${what.runs.map((r) => r.minutes).join(", ")} min whatever the weather, ${asked}`;
    case "program":
      return `program begun by hand${what.minutes === undefined ? "" : `, ${what.minutes} min a station`}, ${asked}`;
    case "walk":
      return `walk, ${what.minutes} min a station, ${asked}`;
    case "hand":
      return `open for hand watering for ${what.minutes} min, ${asked}`;
    case "off":
      return `off ${what.until === "indefinite" ? "with no end" : `until ${what.until}`}, ${asked}`;
    default:
      return `${what.kind}, ${asked}`;
  }
}
