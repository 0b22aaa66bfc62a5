import { FLOW_TOLERANCE_LPM } from "../ceilings/ceilings.ts";
import type { Waterworks } from "./waterworks.ts";

/** What each element may carry now, L/min; 0 for what is closed, locked out or out of hours. */
export type Capacities = { source: number[]; poc: number[]; mainline: number[] };
export type ElementFlows = { source: number[]; poc: number[]; mainline: number[] };
export type ElementRef = { kind: keyof Capacities; index: number };

/** Arcs of the network source → POC → mainline, with POCs and mainlines split in two so that each has a capacity: the same for every assignment on a waterworks. */
type Arcs = {
  /** The last arc out of each node, and of each arc the one before it from the same node; −1 where there is none. */
  head: Int32Array;
  next: Int32Array;
  to: Int32Array;
  /** The arc that is each element's own. */
  source: number[];
  poc: number[];
  mainline: number[];
  /** Node at which a mainline's water comes in; one further is where it goes out. */
  mainIn: number[];
  /** Sources by priority, lowest number first, then file order. */
  order: number[];
  /** By mainline, made when first asked for: nodes through which no water comes to it. */
  deadEnds: (Uint8Array | undefined)[];
};

/** What is left over is nothing, L/min. */
const NEGLIGIBLE_LPM = FLOW_TOLERANCE_LPM / 10;

const known = new WeakMap<Waterworks, Arcs>();

function arcsOf(w: Waterworks): Arcs {
  const found = known.get(w);
  if (found) return found;
  const { sources, pocs, mainlines } = w.site;
  const nodes = 1 + sources.length + 2 * pocs.length + 2 * mainlines.length;
  const head = new Int32Array(nodes).fill(-1);
  const [next, to]: [number[], number[]] = [[], []];
  const arc = (from: number, end: number): number => {
    const at = to.length;
    to.push(end, from);
    next.push(head[from] as number, head[end] as number);
    head[from] = at;
    head[end] = at + 1;
    return at;
  };
  const pocIn = (p: number): number => 1 + sources.length + 2 * p;
  const mainIn = mainlines.map((_, m) => 1 + sources.length + 2 * pocs.length + 2 * m);
  const order = sources
    .map((source, s) => ({ s, priority: source.priority ?? 1 }))
    .sort((a, b) => a.priority - b.priority || a.s - b.s)
    .map(({ s }) => s);
  // Arcs are found last-added first, so what should be drawn on first is added last.
  const mainline = mainIn.map((node, m) => {
    const own = arc(node, node + 1);
    for (const f of w.feedMainlines[m] ?? []) arc((mainIn[f] as number) + 1, node);
    for (const p of w.feedPocs[m] ?? []) arc(pocIn(p) + 1, node);
    return own;
  });
  const poc = pocs.map((_, p) => {
    const own = arc(pocIn(p), pocIn(p) + 1);
    for (const s of w.pocSources[p] ?? []) arc(1 + s, pocIn(p));
    return own;
  });
  const source: number[] = [];
  for (const s of [...order].reverse()) source[s] = arc(0, 1 + s);
  const ends = { next: Int32Array.from(next), to: Int32Array.from(to) };
  const made = { head, ...ends, source, poc, mainline, mainIn, order, deadEnds: mainlines.map(() => undefined) };
  known.set(w, made);
  return made;
}

/**
 * Nodes that lead nowhere on the way to a mainline, whatever flows: those from which it is not reached, if all that is reached from them is fed from one side only, so that nothing can be led around
 * through them.
 */
function deadEndsFor(arcs: Arcs, mainline: number): Uint8Array {
  const known = arcs.deadEnds[mainline];
  if (known) return known;
  const { head, next, to } = arcs;
  const feeds = new Uint8Array(head.length);
  for (let a = 0; a < to.length; a += 2) feeds[to[a] as number] = Math.min(2, (feeds[to[a] as number] as number) + 1);
  const target = (arcs.mainIn[mainline] as number) + 1;
  /** 1: leads to it, or may be led around through. */
  const open: (0 | 1 | undefined)[] = [];
  const leads = (node: number): boolean => {
    if (open[node] !== undefined) return open[node] === 1;
    let way = node === target || feeds[node] === 2;
    // Every second arc is a way back.
    for (let a = head[node] as number; a !== -1; a = next[a] as number)
      if (a % 2 === 0 && leads(to[a] as number)) way = true;
    open[node] = way ? 1 : 0;
    return way;
  };
  const made = Uint8Array.from(head, (_, node) => (leads(node) ? 0 : 1));
  arcs.deadEnds[mainline] = made;
  return made;
}

/**
 * A flow source → POC → mainline that carries the running stations (handbook#5-ceilings): a set may run together when a maximum flow equals
 * its demand. Demand is added station by station with augmenting paths (Ford–Fulkerson on node-split elements), so each
 * further station costs one search, and a refusal leaves the assignment as it was.
 */
export class FlowAssignment {
  private readonly arcs: Arcs;
  private readonly residual: Float64Array;
  private readonly initial: Float64Array;
  /** Residual before the station that is being added. */
  private readonly before: Float64Array;
  private readonly mark: Int32Array;
  private round = 0;
  /** Of the mainline that is being given water. */
  private deadEnds: Uint8Array = new Uint8Array(0);
  /** Of each mainline, what is not placed yet. */
  private readonly left: Float64Array;
  private readonly w: Waterworks;

  constructor(w: Waterworks, capacities: Capacities) {
    this.w = w;
    this.arcs = arcsOf(w);
    this.mark = new Int32Array(this.arcs.head.length);
    // Every second arc is a way back, with nothing to give back yet.
    this.initial = new Float64Array(this.arcs.to.length);
    for (let a = 0; a < this.initial.length; a += 2) this.initial[a] = Number.POSITIVE_INFINITY;
    for (const kind of ["source", "poc", "mainline"] as const)
      for (const [i, a] of this.arcs[kind].entries()) this.initial[a] = slack(capacities[kind][i] ?? 0);
    this.residual = this.initial.slice();
    this.before = this.initial.slice();
    this.left = new Float64Array(this.arcs.mainline.length);
  }

  /** Could a mainline alone be given `lpm`, with nothing else running? What was assigned is dropped. */
  alone(mainline: number, lpm: number): boolean {
    this.residual.set(this.initial);
    return this.tryAdd(mainline, lpm);
  }

  /** Adds `lpm` of demand on a mainline if a way for it exists; false, and nothing changed, if not. */
  tryAdd(mainline: number, lpm: number): boolean {
    this.before.set(this.residual);
    let left = lpm;
    const target = this.outOf(mainline);
    this.deadEnds = deadEndsFor(this.arcs, mainline);
    while (left > NEGLIGIBLE_LPM) {
      this.round++;
      const pushed = this.push(0, target, left);
      if (pushed <= 0) {
        this.residual.set(this.before);
        return false;
      }
      left -= pushed;
    }
    return true;
  }

  /** Node at which the water of a mainline goes out. */
  private outOf(mainline: number): number {
    return (this.arcs.mainIn[mainline] as number) + 1;
  }

  private push(node: number, target: number, want: number): number {
    if (node === target) return want;
    const { head, next, to: ends } = this.arcs;
    this.mark[node] = this.round;
    for (let a = head[node] as number; a !== -1; a = next[a] as number) {
      const room = this.residual[a] as number;
      const to = ends[a] as number;
      if (room <= 1e-9 || this.mark[to] === this.round || this.deadEnds[to] === 1) continue;
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
  assign(demandByMainline: ArrayLike<number>): boolean {
    const { residual, initial, left } = this;
    residual.set(initial);
    const { source, order } = this.arcs;
    for (const s of order) residual[source[s] as number] = 0;
    left.set(demandByMainline);
    for (const s of order) {
      residual[source[s] as number] = initial[source[s] as number] as number;
      for (let m = 0; m < left.length; m++) {
        let rest = left[m] as number;
        if (rest <= NEGLIGIBLE_LPM) continue;
        this.deadEnds = deadEndsFor(this.arcs, m);
        while (rest > NEGLIGIBLE_LPM) {
          this.round++;
          const pushed = this.push(0, this.outOf(m), rest);
          if (pushed <= 0) break;
          rest -= pushed;
        }
        left[m] = rest;
      }
    }
    return left.every((rest) => rest <= NEGLIGIBLE_LPM);
  }

  /** Flow now carried by each element, L/min. */
  flows(): ElementFlows {
    const carried = (arcs: number[]): number[] => arcs.map((a) => this.residual[a ^ 1] as number);
    const { source, poc, mainline } = this.arcs;
    return { source: carried(source), poc: carried(poc), mainline: carried(mainline) };
  }

  /** The same laid on what other assignments carry. */
  addFlows(total: ElementFlows): void {
    for (const kind of ["source", "poc", "mainline"] as const) {
      const [flows, arcs] = [total[kind], this.arcs[kind]];
      for (let i = 0; i < flows.length; i++)
        flows[i] = (flows[i] as number) + (this.residual[(arcs[i] as number) ^ 1] as number);
    }
  }

  /** Flow now carried by a POC, L/min. */
  pocLpm(poc: number): number {
    return this.residual[(this.arcs.poc[poc] as number) ^ 1] as number;
  }

  /** Nearest element above a mainline (itself first) without room for `lpm` more: what a waiting station waits for. */
  binding(mainline: number, lpm: number): ElementRef | null {
    const room = (arc: number | undefined): number => (arc === undefined ? 0 : (this.residual[arc] as number));
    for (const m of this.w.mainsAbove[mainline] ?? [])
      if (room(this.arcs.mainline[m]) < lpm) return { kind: "mainline", index: m };
    const pocs = this.w.pocsAbove[mainline] ?? [];
    for (const p of pocs) if (room(this.arcs.poc[p]) < lpm) return { kind: "poc", index: p };
    for (const s of pocs.flatMap((p) => this.w.pocSources[p] ?? []))
      if (room(this.arcs.source[s]) < lpm) return { kind: "source", index: s };
    return null;
  }
}

const slack = (capacity: number): number => (capacity > 0 ? capacity + FLOW_TOLERANCE_LPM : 0);
