import { type EpochS, addDays } from "../dates/wall-time.ts";
import { type Interval, isInside, nextChange, windowIntervals } from "../calendar/windows.ts";
import { type Capacities, FlowAssignment } from "../network/flow-assignment.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { Controller } from "../site-file/schema.ts";

type Draft = { source: number[]; poc: number[]; mainline: number[] };
/** Elements that a controller's stations draw on, by place in the file. */
export type Draws = { source: Set<number>; poc: Set<number>; mainline: Set<number> };

export function isUnlinked(c: Controller): boolean {
  return c.unlinked === true || c.unlinkedShare !== undefined || c.unlinkedHours !== undefined;
}

export function drawsOn(w: Waterworks, controller: number): Draws {
  const mainline = new Set<number>();
  w.site.stations.forEach((_, s) => {
    if (w.stationController[s] === controller)
      for (const m of w.mainsAbove[w.stationMainline[s] as number] ?? []) mainline.add(m);
  });
  const poc = new Set([...mainline].flatMap((m) => w.feedPocs[m] ?? []));
  return { mainline, poc, source: new Set([...poc].flatMap((p) => w.pocSources[p] ?? [])) };
}

/**
 * What every element may carry at an instant: ceilings less source hours, hand-watering reserves and lockouts, divided among
 * controllers that do not know of each other. Group 0 is the linked controllers; each unlinked one is a group of its own, with its
 * fixed share, or the whole in its own hours, in which the others get nothing of what it draws on. One with neither takes what it
 * likes, as it really would: `check` names it, and the night shows where the sum passes a ceiling.
 */
export class CapacityCalendar {
  readonly groupOfController: number[];
  readonly groupCount: number;
  private readonly shutPocs: Set<number>;
  private readonly shutMainlines: Set<number>;
  /** By group: everything open at its most. */
  private widest: (FlowAssignment | undefined)[] = [];
  private readonly sourceHours: (Interval[] | null)[];
  private readonly reserves: { poc: number; lpm: number; hours: Interval[] }[];
  private readonly ownHours: { group: number; hours: Interval[]; draws: Draws }[];
  private readonly share: Draft[];
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
    this.shutPocs = new Set(site.pocs.flatMap((p, i) => (p.lockedOut ? [i] : [])));
    this.shutMainlines = new Set(site.mainlines.flatMap((m, i) => (m.lockedOut ? [i] : [])));
    let groups = 1;
    this.groupOfController = site.controllers.map((c) => (isUnlinked(c) ? groups++ : 0));
    this.groupCount = groups;
    this.share = this.shares();
    this.ownHours = site.controllers.flatMap((c, i) =>
      isUnlinked(c) && c.unlinkedShare === undefined && c.unlinkedHours
        ? [
            {
              group: this.groupOfController[i] as number,
              hours: windowIntervals(zone, c.unlinkedHours, first, 5),
              draws: drawsOn(w, i),
            },
          ]
        : [],
    );
  }

  /** Linked controllers share what unlinked ones leave of each element that those draw on. */
  private shares() {
    const { site } = this.w;
    const blank = (value: number) => ({
      source: site.sources.map(() => value),
      poc: site.pocs.map(() => value),
      mainline: site.mainlines.map(() => value),
    });
    const shares = Array.from({ length: this.groupCount }, (_, g) => blank(g === 0 ? 1 : 0));
    site.controllers.forEach((controller, c) => {
      if (!isUnlinked(controller)) return;
      const part = controller.unlinkedShare ?? 1;
      const { mainline, poc, source } = drawsOn(this.w, c);
      const own = shares[this.groupOfController[c] as number] as ReturnType<typeof blank>;
      const linked = shares[0] as ReturnType<typeof blank>;
      const divide = (kind: "source" | "poc" | "mainline", items: Set<number>): void => {
        for (const i of items) {
          own[kind][i] = part;
          if (controller.unlinkedShare !== undefined) linked[kind][i] = Math.max(0, (linked[kind][i] as number) - part);
        }
      };
      divide("mainline", mainline);
      divide("poc", poc);
      divide("source", source);
    });
    return shares;
  }

  get lockedPocs(): ReadonlySet<number> {
    return this.shutPocs;
  }

  get lockedMainlines(): ReadonlySet<number> {
    return this.shutMainlines;
  }

  /** Locks elements out for the rest of the night. */
  lock(elements: { mainlines: number[]; pocs: number[] }): void {
    for (const m of elements.mainlines) this.shutMainlines.add(m);
    for (const p of elements.pocs) this.shutPocs.add(p);
    this.widest = [];
  }

  /** Frees elements that were locked out. */
  unlock(elements: { mainlines: number[]; pocs: number[] }): void {
    for (const m of elements.mainlines) this.shutMainlines.delete(m);
    for (const p of elements.pocs) this.shutPocs.delete(p);
    this.widest = [];
  }

  /** Could a group ever give a mainline alone `lpm`, every source in its hours and nothing reserved? */
  everGives(group: number, mainline: number, lpm: number): boolean {
    const widest = this.widest[group] ?? this.assignment(group, null);
    this.widest[group] = widest;
    return widest.alone(mainline, lpm);
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
    const changes = [
      ...this.sourceHours.flatMap((h) => (h ? [h] : [])),
      ...this.reserves.map((r) => r.hours),
      ...this.ownHours.map((o) => o.hours),
    ].flatMap((h) => nextChange(h, at) ?? []);
    return changes.length > 0 ? Math.min(...changes) : null;
  }

  /** `at` null: the most an element can ever carry, every source in its hours and nothing reserved. */
  capacities(group: number, at: EpochS | null): Capacities {
    const share = this.shareNow(group, at);
    const part = (ceiling: number, s: number): number => (s <= 0 ? 0 : Math.max(0, ceiling) * s);
    return {
      source: this.w.sourceCeiling.map((c, i) =>
        this.w.site.sources[i]?.enabled === false || (at !== null && !this.sourceOpen(i, at))
          ? 0
          : part(c, share.source[i] as number),
      ),
      poc: this.w.pocCeiling.map((c, i) =>
        this.shutPocs.has(i) ? 0 : part(at === null ? c : c - this.reserveLpm(i, at), share.poc[i] as number),
      ),
      mainline: this.w.mainlineCeiling.map((c, i) =>
        this.shutMainlines.has(i) ? 0 : part(c, share.mainline[i] as number),
      ),
    };
  }

  /** A group's shares at an instant: nothing outside its own hours, nothing of what another has to itself in its hours. */
  private shareNow(group: number, at: EpochS | null): Draft {
    const share = this.share[group] as Draft;
    if (at === null || this.ownHours.length === 0) return share;
    const own = this.ownHours.find((o) => o.group === group);
    if (own)
      return isInside(own.hours, at)
        ? share
        : { source: share.source.map(() => 0), poc: share.poc.map(() => 0), mainline: share.mainline.map(() => 0) };
    const taken = this.ownHours.filter((o) => isInside(o.hours, at));
    const left = (kind: keyof Draws): number[] =>
      share[kind].map((s, i) => (taken.some((o) => o.draws[kind].has(i)) ? 0 : s));
    return taken.length === 0 ? share : { source: left("source"), poc: left("poc"), mainline: left("mainline") };
  }

  assignment(group: number, at: EpochS | null): FlowAssignment {
    return new FlowAssignment(this.w, this.capacities(group, at));
  }
}
