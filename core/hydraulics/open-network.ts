import { nth } from "../checked.ts";
import { Equations } from "./equations.ts";
import { lossOf, oneWay, type Row } from "./link-loss.ts";
import type { OpenFlows, OpenSet } from "./open-set.ts";
import type { HydraulicModel } from "./network-model.ts";

/** For one choice of shut links: what water reaches, links between such nodes, how many at each node, and dead ends. */
type Base = { reached: Uint8Array; alive: Uint8Array; degree: Int32Array; ends: number[] };

/** A link at a node, and the node it leads to. */
type Next = { link: number; other: number };

/**
 * Flows of a network whose outlets give by pressure (gradient method of Todini and Pilati, Hazen–Williams): what the bench asks for every set of open valves. Only what
 * lies between sources and open outlets is solved, links in a row as one, so a set costs by what is open and not by the size of the site.
 *
 * Differs from `solver.ts` in that outlets follow pressure and nothing is loaded; held to it by test.
 */
export class OpenNetwork {
  /** Links at each node, and what they lead to. */
  private readonly near: Next[][];
  private readonly rowOf: Omit<Row, "from" | "to" | "parts">[];
  private readonly model: HydraulicModel;
  private readonly reservoir: Uint8Array;
  /** Ends of regulators stay nodes of their own: their pressure is asked for. */
  private readonly byRegulator: Uint8Array;
  private readonly bases = new Map<string, Base>();

  constructor(model: HydraulicModel) {
    this.model = model;
    this.near = model.nodes.map(() => []);
    this.reservoir = Uint8Array.from(model.nodes, (n) => (n.kind === "reservoir" ? 1 : 0));
    this.byRegulator = new Uint8Array(model.nodes.length);
    model.links.forEach((l, link) => {
      this.near[l.from]?.push({ link, other: l.to });
      this.near[l.to]?.push({ link, other: l.from });
      if (l.kind === "regulator") this.byRegulator[l.from] = this.byRegulator[l.to] = 1;
    });
    this.rowOf = model.links.map(lossOf);
  }

  solve(set: OpenSet): OpenFlows {
    const { model } = this;
    const flows: OpenFlows = {
      outletLpm: set.outlets.map(() => 0),
      outletKpa: set.outlets.map(() => 0),
      linkLpm: new Float64Array(model.links.length),
      balanced: true,
    };
    const base = this.base(set.shut);
    const outlets = set.outlets
      .map((o, i) => ({ o, i }))
      .filter(({ o }) => base.reached[o.node] === 1 && ("lpm" in o ? o.lpm > 0 : o.coefficient > 0));
    if (outlets.length === 0) return flows;
    const rows = this.rows(
      set,
      base,
      outlets.map(({ o }) => o.node),
    );

    const equations = new Equations(
      model,
      set,
      rows,
      outlets.map(({ o }) => o),
      this.reservoir,
    );
    flows.balanced = equations.balance();
    equations.tell(
      flows,
      outlets.map(({ i }) => i),
    );
    return flows;
  }

  /** What holds for every set that leaves the same links shut: nodes that water can reach from a reservoir, with the way of check valves, and the links between them. */
  private base(shut: ReadonlySet<number>): Base {
    const key = [...shut].sort((a, b) => a - b).join();
    const known = this.bases.get(key);
    if (known) return known;
    const { model } = this;
    const reached = Uint8Array.from(this.reservoir);
    const found = model.nodes.flatMap((_, i) => (this.reservoir[i] === 1 ? [i] : []));
    for (const node of found)
      for (const { link, other } of this.near[node] ?? []) {
        const l = nth(model.links, link);
        if (shut.has(link) || reached[other] === 1 || (l.from !== node && oneWay(l))) continue;
        reached[other] = 1;
        found.push(other);
      }
    const alive = Uint8Array.from(model.links, (l, i) =>
      !shut.has(i) && reached[l.from] === 1 && reached[l.to] === 1 ? 1 : 0,
    );
    const degree = new Int32Array(model.nodes.length);
    model.links.forEach((l, i) => {
      if (alive[i] === 0) return;
      degree[l.from] = nth(degree, l.from) + 1;
      degree[l.to] = nth(degree, l.to) + 1;
    });
    const ends = model.nodes.flatMap((_, i) => (degree[i] === 1 && this.reservoir[i] === 0 ? [i] : []));
    const base = { reached, alive, degree, ends };
    this.bases.set(key, base);
    return base;
  }

  /** Links between sources and outlets, dead ends cut off, those in a row joined. */
  private rows(set: OpenSet, base: Base, outletNodes: number[]): Row[] {
    const alive = base.alive.slice();
    const degree = base.degree.slice();
    const holds = this.reservoir.slice();
    for (const node of outletNodes) holds[node] = 1;
    this.cutDeadEnds(base, alive, degree, holds);
    const kept = (node: number): boolean => holds[node] === 1 || degree[node] !== 2 || this.byRegulator[node] === 1;
    const rows: Row[] = [];
    for (let begin = 0; begin < degree.length; begin++) {
      if (degree[begin] === 0 || !kept(begin)) continue;
      for (const first of this.near[begin] ?? []) {
        if (alive[first.link] === 0) continue;
        const row = this.joined(begin, first, alive, kept, set.extraM);
        if (row.to !== row.from) rows.push(row);
      }
    }
    return rows;
  }

  /** Takes out what hangs on one end only and neither gives nor takes water. */
  private cutDeadEnds(base: Base, alive: Uint8Array, degree: Int32Array, holds: Uint8Array): void {
    const ends = base.ends.filter((node) => holds[node] === 0);
    for (const node of ends) {
      const last = degree[node] === 1 ? this.near[node]?.find(({ link }) => alive[link] === 1) : undefined;
      if (!last) continue;
      alive[last.link] = 0;
      degree[node] = 0;
      const left = (degree[last.other] ?? 0) - 1;
      degree[last.other] = left;
      if (left === 1 && holds[last.other] === 0) ends.push(last.other);
    }
  }

  /** The links in a row from one kept node to the next. A link belongs to one row. */
  private joined(
    begin: number,
    first: Next,
    alive: Uint8Array,
    kept: (node: number) => boolean,
    extraM: OpenSet["extraM"],
  ): Row {
    const row: Row = {
      from: begin,
      to: begin,
      pipe: 0,
      square: 0,
      fixedM: 0,
      curves: [],
      parts: [],
      forward: true,
      backward: true,
    };
    for (let next: Next | undefined = first; next; ) {
      const { link, other }: Next = next;
      alive[link] = 0;
      this.add(row, link, this.model.links[link]?.from === row.to ? 1 : -1);
      row.fixedM += extraM?.get(link) ?? 0;
      row.to = other;
      next = kept(other) ? undefined : this.near[other]?.find((x) => alive[x.link] === 1);
    }
    return row;
  }

  private add(row: Row, link: number, sign: 1 | -1): void {
    const own = nth(this.rowOf, link);
    row.pipe += own.pipe;
    row.square += own.square;
    row.fixedM += own.fixedM;
    for (const c of own.curves) row.curves.push({ link: c.link, sign });
    row.parts.push({ link, sign });
    row.forward &&= sign === 1 ? own.forward : own.backward;
    row.backward &&= sign === 1 ? own.backward : own.forward;
  }
}
