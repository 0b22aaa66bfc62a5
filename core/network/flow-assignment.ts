import { FLOW_TOLERANCE_LPM } from "../ceilings/ceilings.ts";
import type { Waterworks } from "./waterworks.ts";

/** What each element may carry now, L/min; 0 for what is closed, locked out or out of hours. */
export type Capacities = { source: number[]; poc: number[]; mainline: number[] };
export type ElementFlows = { source: number[]; poc: number[]; mainline: number[] };
export type ElementRef = { kind: keyof Capacities; index: number };

/**
 * A flow source → POC → mainline that carries the running stations (handbook#5-ceilings): a set may run together when a maximum flow equals
 * its demand. Demand is added station by station with augmenting paths (Ford–Fulkerson on node-split elements), so each
 * further station costs one search, and a refusal leaves the assignment as it was.
 */
export class FlowAssignment {
  private readonly head: number[] = [];
  private readonly next: number[] = [];
  private readonly to: number[] = [];
  private residual: number[] = [];
  private readonly initial: number[];
  private readonly sourceArc: number[] = [];
  private readonly pocArc: number[] = [];
  private readonly mainlineArc: number[] = [];
  private readonly mark: number[];
  private round = 0;
  private readonly w: Waterworks;

  constructor(w: Waterworks, capacities: Capacities) {
    this.w = w;
    const { sources, pocs, mainlines } = w.site;
    const nodes = 1 + sources.length + 2 * pocs.length + 2 * mainlines.length;
    this.head = Array<number>(nodes).fill(-1);
    this.mark = Array<number>(nodes).fill(0);
    const pocIn = (p: number): number => 1 + sources.length + 2 * p;
    const byPriority = sources
      .map((_, s) => s)
      .sort((a, b) => (sources[a]?.priority ?? 1) - (sources[b]?.priority ?? 1) || a - b);
    // Arcs are found last-added first, so what should be drawn on first is added last.
    for (const m of mainlines.keys()) {
      this.mainlineArc[m] = this.arc(this.mainIn(m), this.mainIn(m) + 1, slack(capacities.mainline[m] ?? 0));
      for (const f of w.feedMainlines[m] ?? []) this.arc(this.mainIn(f) + 1, this.mainIn(m), Number.POSITIVE_INFINITY);
      for (const p of w.feedPocs[m] ?? []) this.arc(pocIn(p) + 1, this.mainIn(m), Number.POSITIVE_INFINITY);
    }
    for (const p of pocs.keys()) {
      this.pocArc[p] = this.arc(pocIn(p), pocIn(p) + 1, slack(capacities.poc[p] ?? 0));
      for (const s of w.pocSources[p] ?? []) this.arc(1 + s, pocIn(p), Number.POSITIVE_INFINITY);
    }
    for (const s of byPriority.reverse()) this.sourceArc[s] = this.arc(0, 1 + s, slack(capacities.source[s] ?? 0));
    this.initial = [...this.residual];
  }

  private mainIn(m: number): number {
    return 1 + this.w.site.sources.length + 2 * this.w.site.pocs.length + 2 * m;
  }

  private arc(from: number, to: number, capacity: number): number {
    const at = this.to.length;
    this.to.push(to, from);
    this.residual.push(capacity, 0);
    this.next.push(this.head[from] as number, this.head[to] as number);
    this.head[from] = at;
    this.head[to] = at + 1;
    return at;
  }

  /** Adds `lpm` of demand on a mainline if a way for it exists; false, and nothing changed, if not. */
  tryAdd(mainline: number, lpm: number): boolean {
    const before = [...this.residual];
    let left = lpm;
    const target = this.mainIn(mainline) + 1;
    while (left > FLOW_TOLERANCE_LPM / 10) {
      this.round++;
      const pushed = this.push(0, target, left);
      if (pushed <= 0) {
        this.residual = before;
        return false;
      }
      left -= pushed;
    }
    return true;
  }

  private push(node: number, target: number, want: number): number {
    if (node === target) return want;
    this.mark[node] = this.round;
    for (let a = this.head[node] as number; a !== -1; a = this.next[a] as number) {
      const room = this.residual[a] as number;
      const to = this.to[a] as number;
      if (room <= 1e-9 || this.mark[to] === this.round) continue;
      const pushed = this.push(to, target, Math.min(want, room));
      if (pushed > 0) {
        this.residual[a] = room - pushed;
        this.residual[a ^ 1] = (this.residual[a ^ 1] as number) + pushed;
        return pushed;
      }
    }
    return 0;
  }

  /**
   * Assigns a whole set anew, drawing on sources by priority, lowest number first, then file order: each source gives all it can
   * before the next is asked. False when not all demand could be placed.
   */
  assign(demandByMainline: number[]): boolean {
    this.residual = [...this.initial];
    const { sources } = this.w.site;
    const order = sources
      .map((_, s) => s)
      .sort((a, b) => (sources[a]?.priority ?? 1) - (sources[b]?.priority ?? 1) || a - b);
    for (const s of order) this.residual[this.sourceArc[s] as number] = 0;
    const left = [...demandByMainline];
    for (const s of order) {
      this.residual[this.sourceArc[s] as number] = this.initial[this.sourceArc[s] as number] as number;
      for (const [m, want] of left.entries()) {
        let rest = want;
        while (rest > FLOW_TOLERANCE_LPM / 10) {
          this.round++;
          const pushed = this.push(0, this.mainIn(m) + 1, rest);
          if (pushed <= 0) break;
          rest -= pushed;
        }
        left[m] = rest;
      }
    }
    return left.every((rest) => rest <= FLOW_TOLERANCE_LPM / 10);
  }

  /** Flow now carried by each element, L/min. */
  flows(): ElementFlows {
    const carried = (arcs: number[]): number[] => arcs.map((a) => this.residual[a ^ 1] as number);
    return { source: carried(this.sourceArc), poc: carried(this.pocArc), mainline: carried(this.mainlineArc) };
  }

  /** Nearest element above a mainline (itself first) without room for `lpm` more: what a waiting station waits for. */
  binding(mainline: number, lpm: number): ElementRef | null {
    const room = (arc: number | undefined): number => (arc === undefined ? 0 : (this.residual[arc] as number));
    for (const m of this.w.mainsAbove[mainline] ?? [])
      if (room(this.mainlineArc[m]) < lpm) return { kind: "mainline", index: m };
    const pocs = this.w.pocsAbove[mainline] ?? [];
    for (const p of pocs) if (room(this.pocArc[p]) < lpm) return { kind: "poc", index: p };
    for (const s of pocs.flatMap((p) => this.w.pocSources[p] ?? []))
      if (room(this.sourceArc[s]) < lpm) return { kind: "source", index: s };
    return null;
  }
}

const slack = (capacity: number): number => (capacity > 0 ? capacity + FLOW_TOLERANCE_LPM : 0);
