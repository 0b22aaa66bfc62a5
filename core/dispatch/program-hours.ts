import { inputSignals } from "../calendar/input-signal.ts";
import { type Interval, isInside, nextChange, openIntervals } from "../calendar/windows.ts";
import { addDays, type EpochS } from "../dates/wall-time.ts";
import type { SiteFile } from "../site-file/schema.ts";

/** When each program may water: inside its water window, and while no input that pauses it says otherwise (handbook#6-programs). */
export class ProgramHours {
  private readonly open: Interval[][];
  private readonly pauses: ReturnType<typeof inputSignals>[];

  /** Around the night that begins on `date`. */
  constructor(site: SiteFile, date: string) {
    this.open = site.programs.map((p) => openIntervals(site.site.timeZone, p, addDays(date, -1), 4));
    this.pauses = site.programs.map((p) => inputSignals(site, p).filter((s) => s.does === "pause"));
  }

  isOpen(program: number, t: EpochS): boolean {
    return isInside(this.open[program] as Interval[], t);
  }

  /** `t` where it is open then, else when it opens next; `t` too where it never does. */
  firstOpen(program: number, t: EpochS): EpochS {
    return this.isOpen(program, t) ? t : (nextChange(this.open[program] as Interval[], t) ?? t);
  }

  /** The input that holds a program's station back now; a station that ignores it is not held. */
  pausedBy(program: number, ignored: readonly string[] | undefined, t: EpochS): string | null {
    return (
      this.pauses[program]?.find((p) => isInside(p.intervals, t) && !ignored?.includes(p.inputId))?.inputId ?? null
    );
  }

  /** Instants after `t` at which one of the two can change. */
  *changes(program: number, t: EpochS): Generator<EpochS | null> {
    yield nextChange(this.open[program] as Interval[], t);
    for (const pause of this.pauses[program] ?? []) yield nextChange(pause.intervals, t);
  }
}
