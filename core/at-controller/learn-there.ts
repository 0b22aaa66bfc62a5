import { nth } from "../checked.ts";
import type { BenchDay } from "../bench/bench-day.ts";
import type { Commands, PlantSecond } from "../bench/plant.ts";
import { type EpochS, localDate } from "../dates/wall-time.ts";
import type { Order } from "../field/orders.ts";
import type { LearnEvent } from "../learn/events.ts";
import { learningBy } from "../learn/learn.ts";
import { Measuring } from "../learn/measuring.ts";
import { timeLimitS } from "../learn/system-run.ts";

export type LearnOrder = Extract<Order, { kind: "learn" }>;
const BURST_S = 10;
/** What one station and the test of rest may take at most, with filling; for the end that every learning has. */
const SPARE_S = 1800;

/**
 * Learning carried out by a controller, one second at a time, exactly as on the bench (handbook#7-learning). While it lasts nothing else of the site runs. A connection over
 * its burst limit ends it.
 */
export class LearnThere {
  readonly order: string;
  /** By then it has ended, whatever happens. */
  readonly endsBy: EpochS;
  litres = 0;
  burst: { poc: number; lpm: number } | null = null;
  private readonly day: BenchDay;
  private readonly measuring: Measuring;
  private readonly events: ReturnType<typeof learningBy>;
  private over: number[];
  private ended = false;

  constructor(day: BenchDay, order: string, what: LearnOrder, t: EpochS) {
    this.day = day;
    this.order = order;
    this.measuring = new Measuring(day.w, day.plant, t);
    this.over = day.site.pocs.map(() => 0);
    const ids = what.stationIds.filter((id) => day.w.stationIndex.has(id));
    const longest = ids.reduce(
      (sum, id) => sum + 2 * timeLimitS(nth(day.site.stations, day.w.stationIndex.get(id) ?? 0), null) + SPARE_S,
      SPARE_S,
    );
    this.endsBy = t + longest;
    this.events = learningBy(
      day.site,
      {
        date: localDate(day.zone, t),
        stationIds: ids,
        ...(what.to === undefined ? {} : { endAt: Math.floor(Date.parse(what.to) / 1000) }),
      },
      day.w,
      this.measuring,
      t,
    );
  }

  /** Lives one second and tells what came of the one before; `lived` is null once it has ended. */
  second(): { lived: { commands: Commands; seen: PlantSecond } | null; told: LearnEvent[] } {
    const told: LearnEvent[] = [];
    while (!this.ended) {
      const next = this.events.next();
      if (next.done) {
        this.litres = next.value.litres;
        break;
      }
      told.push(next.value);
      if (next.value.type !== "sample") continue;
      this.litres = this.measuring.litres;
      const lived = this.measuring.lived;
      if (lived) this.watch(lived.seen);
      if (this.burst || this.measuring.now >= this.endsBy) this.stop();
      return { lived, told };
    }
    return { lived: null, told };
  }

  /** Nothing more is opened. */
  stop(): void {
    this.ended = true;
    this.events.return({ seconds: 0, litres: this.litres });
  }

  private watch(seen: PlantSecond): void {
    for (const [p, poc] of this.day.site.pocs.entries()) {
      const reading = seen.pocReading[p] ?? 0;
      const beyond = poc.burstLimitLpm !== undefined && reading > poc.burstLimitLpm;
      this.over[p] = beyond ? nth(this.over, p) + 1 : 0;
      if (nth(this.over, p) >= (poc.burstPersistenceS ?? BURST_S)) this.burst ??= { poc: p, lpm: reading };
    }
  }
}
