import type { EpochS } from "../dates/wall-time.ts";
import type { FlowAssignment } from "../network/flow-assignment.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { CapacityCalendar } from "./capacity.ts";
import type { Entry } from "./queue.ts";

/** An assignment of a group, valid as long as its capacities are; fresh: it carries what runs now; byPriority: and draws on its sources as they come first, nothing having been added since. */
type Held = {
  assignment: FlowAssignment;
  from: EpochS;
  until: EpochS;
  fresh: boolean;
  byPriority: boolean;
  /** All that ran when these capacities came into force may run under them; what opens later is asked one by one. */
  trimmed: boolean;
};

/** What the running stations ask of each dispatch group now, and what still fits beside them (site-file#windows). */
export class FlowsNow {
  /** By group; made anew when what is open to it changes, assigned anew when what runs has changed. */
  private assignments: (Held | undefined)[] = [];
  /** Smallest flow that did not fit in this reading, by group and mainline: what is no smaller cannot fit either. */
  private readonly tooMuch = new Map<number, number>();
  private readonly w: Waterworks;
  private readonly capacity: CapacityCalendar;
  private readonly running: () => Entry[];

  constructor(w: Waterworks, capacity: CapacityCalendar, running: () => Entry[]) {
    this.w = w;
    this.capacity = capacity;
    this.running = running;
  }

  /** Stations opened or closed. */
  changed(): void {
    for (const held of this.assignments) if (held) held.fresh = false;
  }

  /** Something was locked out. */
  capacityChanged(): void {
    this.assignments = [];
  }

  /** The queue is read once more from its head. */
  beginReading(): void {
    this.tooMuch.clear();
  }

  /** Adds the entry's flow to its group if that is allowed; says whether it was. */
  fits(e: Entry, t: EpochS): boolean {
    const group = this.groupOf(e);
    const mainline = this.mainlineOf(e);
    const flow = e.flowLpm ?? 0;
    const key = group * this.w.site.mainlines.length + mainline;
    const known = this.tooMuch.get(key) ?? Number.POSITIVE_INFINITY;
    if (flow < known && this.assignment(group, t).tryAdd(mainline, flow)) {
      this.held(group, t).byPriority = false;
      return true;
    }
    this.tooMuch.set(key, Math.min(flow, known));
    return false;
  }

  /** Id of the source, POC or mainline whose ceiling keeps the entry from opening. */
  bindingId(e: Entry, t: EpochS): string | undefined {
    const at = this.assignment(this.groupOf(e), t).binding(this.mainlineOf(e), e.flowLpm ?? 0);
    if (!at) return undefined;
    const { sources, pocs, mainlines } = this.w.site;
    return { source: sources, poc: pocs, mainline: mainlines }[at.kind][at.index]?.id;
  }

  /** Flow through each POC, sources drawn on by priority, L/min. */
  pocLpm(t: EpochS): number[] {
    const poc = this.w.site.pocs.map(() => 0);
    for (let g = 0; g < this.capacity.groupCount; g++) {
      const held = this.held(g, t);
      if (!held.byPriority) held.fresh = false;
      const { assignment } = this.assigned(g, t);
      for (let p = 0; p < poc.length; p++) poc[p] = (poc[p] as number) + assignment.pocLpm(p);
    }
    return poc;
  }

  /** Of a group that is no longer allowed to run all its stations: the latest opened one worth closing; null when it is allowed. */
  tooMany(group: number, t: EpochS): Entry | null {
    if (this.held(group, t).trimmed) return null;
    const mine = this.running().filter((e) => this.groupOf(e) === group);
    if (this.allowed(group, t, mine)) {
      const held = this.held(group, t);
      held.fresh = true;
      held.byPriority = true;
      held.trimmed = true;
      return null;
    }
    const drawing = mine.filter((e) => this.drawsOnOverloaded(e, mine, group, t));
    return (drawing.length > 0 ? drawing : mine).reduce((a, b) => (b.openOrder > a.openOrder ? b : a));
  }

  /** Would the set without this station's whole system be allowed more than with it? Only such a station is worth closing. */
  private drawsOnOverloaded(e: Entry, mine: Entry[], group: number, t: EpochS): boolean {
    const system = this.w.systemOfMainline[this.mainlineOf(e)];
    const sharing = mine.filter(
      (r) => this.w.systemOfMainline[this.mainlineOf(r)] === system || this.shareSource(r, e),
    );
    return !this.allowed(group, t, sharing);
  }

  private shareSource(a: Entry, b: Entry): boolean {
    const sources = (e: Entry): number[] =>
      (this.w.pocsAbove[this.mainlineOf(e)] ?? []).flatMap((p) => this.w.pocSources[p] ?? []);
    const mine = sources(a);
    return sources(b).some((s) => mine.includes(s));
  }

  private allowed(group: number, t: EpochS, entries: Entry[]): boolean {
    const held = this.held(group, t);
    held.fresh = false;
    held.byPriority = false;
    return held.assignment.assign(this.demand(entries));
  }

  private assignment(group: number, t: EpochS): FlowAssignment {
    return this.assigned(group, t).assignment;
  }

  private assigned(group: number, t: EpochS): Held {
    const held = this.held(group, t);
    if (held.fresh) return held;
    held.assignment.assign(this.demand(this.running().filter((e) => this.groupOf(e) === group)));
    held.fresh = true;
    held.byPriority = true;
    return held;
  }

  private held(group: number, t: EpochS): Held {
    const known = this.assignments[group];
    if (known && t >= known.from && t < known.until) return known;
    const made = {
      assignment: this.capacity.assignment(group, t),
      from: t,
      until: this.capacity.nextChange(t) ?? Number.POSITIVE_INFINITY,
      fresh: false,
      byPriority: false,
      trimmed: false,
    };
    this.assignments[group] = made;
    return made;
  }

  /** Demand by mainline, L/min. */
  private demand(entries: Entry[]): number[] {
    const demand = this.w.site.mainlines.map(() => 0);
    for (const e of entries) {
      const m = this.mainlineOf(e);
      demand[m] = (demand[m] ?? 0) + (e.flowLpm ?? 0);
    }
    return demand;
  }

  private mainlineOf(e: Entry): number {
    return this.w.stationMainline[e.station] as number;
  }

  private groupOf(e: Entry): number {
    return this.capacity.groupOfController[this.w.stationController[e.station] as number] as number;
  }
}
