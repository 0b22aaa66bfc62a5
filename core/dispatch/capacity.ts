import { type EpochS, addDays } from "../calendar/wall-time.ts";
import { type Interval, isInside, nextChange, windowIntervals } from "../calendar/windows.ts";
import { type Capacities, FlowAssignment } from "../network/flow-assignment.ts";
import type { Waterworks } from "../network/waterworks.ts";

/**
 * What every element may carry at an instant: ceilings less source hours, hand-watering reserves and lockouts, divided among
 * controllers that do not know of each other. Group 0 is the linked controllers; each unlinked one is a group of its own.
 */
export class CapacityCalendar {
  readonly groupOfController: number[];
  readonly groupCount: number;
  readonly lockedPocs: Set<number>;
  readonly lockedMainlines: Set<number>;
  private readonly sourceHours: (Interval[] | null)[];
  private readonly reserves: { poc: number; lpm: number; hours: Interval[] }[];
  private readonly share: { source: number[]; poc: number[]; mainline: number[] }[];
  private readonly w: Waterworks;

  constructor(w: Waterworks, date: string) {
    this.w = w;
    const { site } = w;
    const first = addDays(date, -1);
    const zone = site.site.timeZone;
    this.sourceHours = site.sources.map((s) => (s.hours ? windowIntervals(zone, s.hours, first, 5) : null));
    this.reserves = site.pocs.flatMap((p, poc) =>
      (p.handWatering ?? []).map((h) => ({ poc, lpm: h.flowLpm, hours: windowIntervals(zone, [h.window], first, 5) })),
    );
    this.lockedPocs = new Set(site.pocs.flatMap((p, i) => (p.lockedOut ? [i] : [])));
    this.lockedMainlines = new Set(site.mainlines.flatMap((m, i) => (m.lockedOut ? [i] : [])));
    let groups = 1;
    this.groupOfController = site.controllers.map((c) => (c.unlinkedShare === undefined ? 0 : groups++));
    this.groupCount = groups;
    this.share = this.shares();
  }

  /** Linked controllers share what unlinked ones leave of each element that those draw on. */
  private shares() {
    const { site } = this.w;
    const blank = (value: number) => ({
      source: site.sources.map(() => value), poc: site.pocs.map(() => value), mainline: site.mainlines.map(() => value),
    });
    const shares = Array.from({ length: this.groupCount }, (_, g) => blank(g === 0 ? 1 : 0));
    site.controllers.forEach((controller, c) => {
      const part = controller.unlinkedShare;
      if (part === undefined) return;
      const mains = new Set<number>();
      site.stations.forEach((_, s) => {
        if (this.w.stationController[s] === c) for (const m of this.w.mainsAbove[this.w.stationMainline[s] as number] ?? []) mains.add(m);
      });
      const pocs = new Set([...mains].flatMap((m) => this.w.feedPocs[m] ?? []));
      const sources = new Set([...pocs].flatMap((p) => this.w.pocSources[p] ?? []));
      const own = shares[this.groupOfController[c] as number] as ReturnType<typeof blank>;
      const linked = shares[0] as ReturnType<typeof blank>;
      const divide = (kind: "source" | "poc" | "mainline", items: Set<number>): void => {
        for (const i of items) {
          own[kind][i] = part;
          linked[kind][i] = Math.max(0, (linked[kind][i] as number) - part);
        }
      };
      divide("mainline", mains);
      divide("poc", pocs);
      divide("source", sources);
    });
    return shares;
  }

  /** Hand-watering flow reserved at a POC now, L/min. */
  reserveLpm(poc: number, at: EpochS): number {
    return this.reserves.reduce((sum, r) => sum + (r.poc === poc && isInside(r.hours, at) ? r.lpm : 0), 0);
  }

  sourceOpen(source: number, at: EpochS): boolean {
    const hours = this.sourceHours[source];
    return !hours || isInside(hours, at);
  }

  nextChange(at: EpochS): EpochS | null {
    const changes = [...this.sourceHours.flatMap((h) => (h ? [h] : [])), ...this.reserves.map((r) => r.hours)].flatMap((h) => nextChange(h, at) ?? []);
    return changes.length > 0 ? Math.min(...changes) : null;
  }

  /** `at` null: the most an element can ever carry, every source in its hours and nothing reserved. */
  capacities(group: number, at: EpochS | null): Capacities {
    const share = this.share[group] as Capacities;
    const part = (ceiling: number, s: number): number => (s <= 0 ? 0 : Math.max(0, ceiling) * s);
    return {
      source: this.w.sourceCeiling.map((c, i) => (this.w.site.sources[i]?.enabled === false || (at !== null && !this.sourceOpen(i, at)) ? 0 : part(c, share.source[i] as number))),
      poc: this.w.pocCeiling.map((c, i) => (this.lockedPocs.has(i) ? 0 : part(at === null ? c : c - this.reserveLpm(i, at), share.poc[i] as number))),
      mainline: this.w.mainlineCeiling.map((c, i) => (this.lockedMainlines.has(i) ? 0 : part(c, share.mainline[i] as number))),
    };
  }

  assignment(group: number, at: EpochS | null): FlowAssignment {
    return new FlowAssignment(this.w, this.capacities(group, at));
  }
}
