import { inUse } from "../network/in-use.ts";
import { nth } from "../checked.ts";
import { insideDiameterMm } from "../ceilings/ceilings.ts";
import { pipeC } from "../pipes/pipe-table.ts";
import type { Device, Mainline, Pipe, Poc, SiteFile, Source } from "../site-file/schema.ts";
import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";
import { pumpPoints } from "./device-loss.ts";

export type FlowPoint = { flowLpm: number; lossKpa: number };
export type ModelNode = {
  /** Of the source, POC, mainline or station it belongs to. */
  subjectId: string;
  kind: "reservoir" | "junction";
  elevationM: number;
  /** Reservoirs: the level the water stands at under no flow, m. */
  headM?: number;
  stationId?: string;
};
export type ModelLink = {
  from: number;
  to: number;
  subjectId: string;
  deviceId?: string;
  deviceKind?: Device["kind"];
} & (
  | { kind: "pipe"; lengthM: number; insideMm: number; c: number; minorK: number }
  /** A connection without length or loss that water passes one way only. */
  | { kind: "joint" }
  | { kind: "pump"; points: { flowLpm: number; headM: number }[] }
  /** Round a pump that stands still, where the supply has pressure of its own. */
  | { kind: "bypass" }
  | { kind: "fixedLoss"; lossKpa: number }
  | { kind: "lossCurve"; points: FlowPoint[] }
  | { kind: "quadraticLoss"; lossKpa: number; atLpm: number }
  | { kind: "regulator"; setKpa: number }
  /** What the supply itself loses, ∝ Q^1.852. */
  | { kind: "supply"; dropKpa: number; atLpm: number }
);
export type Assumption = { code: "noStaticPressure" | "unknownPipe" | "noPipes" | "evenlySpread"; subjectId: string };

/**
 * The site as a hydraulic network: nodes with levels, links with losses, stations as draws on their main. Levels that are not
 * stated are those of what feeds them; stations without a place are spread evenly along their main, in file order.
 */
export type HydraulicModel = {
  nodes: ModelNode[];
  links: ModelLink[];
  /** Node of each station, by its place in the file. */
  stationNode: number[];
  assumptions: Assumption[];
};

/** A tap this far from the one before shares its place, m. */
const SAME_PLACE_M = 0.01;
const WIDE_MM = 300;

export function networkModel(site: SiteFile): HydraulicModel {
  return new Builder(inUse(site)).build();
}

class Builder {
  private readonly nodes: ModelNode[] = [];
  private readonly links: ModelLink[] = [];
  private readonly assumptions: Assumption[] = [];
  private readonly stationNode: number[];
  private readonly pocEnd = new Map<string, number>();
  private readonly mains = new Map<string, { end: number; level: number; tap: (alongM: number) => number }>();
  private readonly site: SiteFile;

  constructor(site: SiteFile) {
    this.site = site;
    this.stationNode = site.stations.map(() => -1);
  }

  build(): HydraulicModel {
    const exits = new Map(this.site.sources.map((s) => [s.id, this.source(s)]));
    for (const poc of this.site.pocs) this.poc(poc, exits);
    for (const m of this.site.mainlines) this.mainline(m);
    return { nodes: this.nodes, links: this.links, stationNode: this.stationNode, assumptions: this.assumptions };
  }

  private node(subjectId: string, elevationM: number, more: Partial<ModelNode> = {}): number {
    this.nodes.push({ subjectId, kind: "junction", elevationM, ...more });
    return this.nodes.length - 1;
  }

  private sourceLevel(s: Source): number {
    const poc = this.site.pocs.find((p) => p.sourceIds.includes(s.id));
    return s.elevationM ?? poc?.elevationM ?? 0;
  }

  /** A reservoir at the source's level and static pressure, then what the supply itself loses. */
  private source(s: Source): number {
    const level = this.sourceLevel(s);
    if (
      s.staticPressureKpa === undefined &&
      !this.site.pocs.some((p) => p.sourceIds.includes(s.id) && p.devices.some((d) => d.kind === "pump"))
    )
      this.assumptions.push({ code: "noStaticPressure", subjectId: s.id });
    const still = this.node(s.id, level, {
      kind: "reservoir",
      headM: level + (s.staticPressureKpa ?? 0) / KPA_PER_METRE_OF_WATER,
    });
    const exit = this.node(s.id, level);
    const drop = s.pressureDropKpaAt;
    this.links.push(
      drop && drop.dropKpa > 0
        ? { from: still, to: exit, subjectId: s.id, kind: "supply", dropKpa: drop.dropKpa, atLpm: drop.flowLpm }
        : { from: still, to: exit, subjectId: s.id, kind: "joint" },
    );
    return exit;
  }

  private poc(poc: Poc, exits: Map<string, number>): void {
    const first = this.site.sources.find((s) => s.id === poc.sourceIds[0]);
    const level = poc.elevationM ?? (first ? this.sourceLevel(first) : 0);
    const inlet = this.node(poc.id, level);
    let pressure = false;
    for (const id of poc.sourceIds) {
      const source = this.site.sources.find((s) => s.id === id);
      const exit = exits.get(id);
      if (!source || exit === undefined) continue;
      pressure ||= source.staticPressureKpa !== undefined && source.staticPressureKpa > 0;
      this.links.push({ from: exit, to: inlet, subjectId: poc.id, kind: "joint" });
    }
    this.pocEnd.set(
      poc.id,
      poc.devices.reduce((at, d) => this.device(at, d, poc.id, level, pressure), inlet),
    );
  }

  private device(at: number, d: Device, subjectId: string, level: number, pressureBefore: boolean): number {
    const link = deviceLink(d);
    if (d.kind === "pipe" && !link) this.assumptions.push({ code: "unknownPipe", subjectId: d.id });
    if (!link) return at;
    const next = this.node(subjectId, level);
    this.links.push({ from: at, to: next, subjectId, deviceId: d.id, deviceKind: d.kind, ...link } as ModelLink);
    if (d.kind === "regulator") {
      // A solver takes no two regulators in a row; a joint keeps them apart.
      const behind = this.node(subjectId, level);
      this.links.push({ from: next, to: behind, subjectId, kind: "joint" });
      return behind;
    }
    if (d.kind === "pump" && pressureBefore)
      this.links.push({ from: at, to: next, subjectId, deviceId: d.id, kind: "bypass" });
    return next;
  }

  /** Where a mainline ends; built when first asked for, so feeds come before what they feed. */
  private mainline(m: Mainline): { end: number; level: number; tap: (alongM: number) => number } {
    const ready = this.mains.get(m.id);
    if (ready) return ready;
    const feeds = m.feedIds.flatMap((id) => {
      const poc = this.pocEnd.get(id);
      if (poc !== undefined) return [poc];
      const main = this.site.mainlines.find((x) => x.id === id);
      if (!main) return [];
      const above = this.mainline(main);
      return [m.feedAtM === undefined ? above.end : above.tap(m.feedAtM)];
    });
    const level = m.elevationM ?? this.nodes[feeds[0] ?? -1]?.elevationM ?? 0;
    const begin = this.node(m.id, level);
    for (const f of feeds) this.links.push({ from: f, to: begin, subjectId: m.id, kind: "joint" });
    const after = (m.devices ?? []).reduce((at, d) => this.device(at, d, m.id, level, true), begin);
    const made = this.pipes(m, after, level);
    this.mains.set(m.id, made);
    return made;
  }

  /** Lays the pipes with a node at every station and every branch. */
  private pipes(
    m: Mainline,
    begin: number,
    level: number,
  ): { end: number; level: number; tap: (alongM: number) => number } {
    const pipes = m.pipes.filter((p) => insideDiameterMm(p) !== null);
    for (const p of m.pipes)
      if (insideDiameterMm(p) === null) this.assumptions.push({ code: "unknownPipe", subjectId: p.id });
    const length = pipes.reduce((sum, p) => sum + p.lengthM, 0);
    if (length === 0) this.assumptions.push({ code: "noPipes", subjectId: m.id });
    const mine = this.site.stations.flatMap((s, i) => (s.mainlineId === m.id ? [{ s, i }] : []));
    const spread = mine.filter(({ s }) => s.alongM === undefined);
    if (spread.length > 1 && length > 0) this.assumptions.push({ code: "evenlySpread", subjectId: m.id });
    const stops = [
      ...mine.map(({ s, i }) => ({
        at: Math.min(s.alongM ?? (length * (spread.findIndex((x) => x.i === i) + 1)) / spread.length, length),
        station: i,
        elevationM: s.elevationM ?? level,
      })),
      ...this.site.mainlines
        .filter((x) => x.feedIds.includes(m.id) && x.feedAtM !== undefined)
        .map((x) => ({ at: Math.min(x.feedAtM as number, length), station: -1, elevationM: level })),
    ].sort((a, b) => a.at - b.at || a.station - b.station);

    const taps: { at: number; node: number }[] = [{ at: 0, node: begin }];
    let node = begin;
    let laid = 0;
    const lay = (pipe: Pipe, lengthM: number, to: number): void => {
      this.links.push({
        from: node,
        to,
        subjectId: m.id,
        deviceId: pipe.id,
        kind: "pipe",
        lengthM,
        insideMm: insideDiameterMm(pipe) as number,
        c: pipeC(pipe),
        minorK: ((pipe.minorLossK ?? 0) * lengthM) / (pipe.lengthM || 1),
      });
      node = to;
      laid += lengthM;
    };
    const stopNode = (stop: (typeof stops)[number]): number => {
      const made = this.node(
        m.id,
        stop.elevationM,
        stop.station >= 0 ? { stationId: nth(this.site.stations, stop.station).id } : {},
      );
      if (stop.station >= 0) this.stationNode[stop.station] = made;
      taps.push({ at: stop.at, node: made });
      return made;
    };
    const queue = [...stops];
    let from = 0;
    for (const pipe of pipes) {
      const to = from + pipe.lengthM;
      while (queue[0] && queue[0].at <= to + 1e-9) {
        const stop = queue.shift() as (typeof stops)[number];
        const step = stop.at - laid;
        // Several taps in one place still need a node each, since their levels may differ.
        if (step < SAME_PLACE_M) node = this.short(m.id, node, stopNode(stop));
        else lay(pipe, step, stopNode(stop));
      }
      if (to - laid > SAME_PLACE_M) lay(pipe, to - laid, this.node(m.id, level));
      laid = to;
      from = to;
    }
    for (const stop of queue) node = this.short(m.id, node, stopNode(stop));
    const end = node;
    return {
      end,
      level,
      tap: (alongM) =>
        [...taps].sort(
          (a, b) => Math.abs(a.at - Math.min(alongM, length)) - Math.abs(b.at - Math.min(alongM, length)),
        )[0]?.node ?? end,
    };
  }

  private short(subjectId: string, from: number, to: number): number {
    this.links.push({ from, to, subjectId, kind: "pipe", lengthM: SAME_PLACE_M, insideMm: WIDE_MM, c: 150, minorK: 0 });
    return to;
  }
}

type DistributiveOmit<T, K extends PropertyKey> = T extends unknown ? Omit<T, K> : never;

/** What a device is to the water; null for what takes no pressure. */
function deviceLink(d: Device): DistributiveOmit<ModelLink, "from" | "to" | "subjectId"> | null {
  switch (d.kind) {
    case "meter":
      return d.lossKpaAt && d.lossKpaAt.lossKpa > 0
        ? { kind: "quadraticLoss", lossKpa: d.lossKpaAt.lossKpa, atLpm: d.lossKpaAt.flowLpm }
        : null;
    case "backflow": {
      const points = [...(d.lossPoints ?? [])].sort((a, b) => a.flowLpm - b.flowLpm);
      if (points.length === 0) return null;
      return points.length === 1
        ? { kind: "fixedLoss", lossKpa: nth(points, 0).lossKpa }
        : { kind: "lossCurve", points };
    }
    case "masterValve":
      return d.kv === undefined ? null : { kind: "quadraticLoss", lossKpa: 100, atLpm: d.kv / 0.06 };
    case "pump":
      return { kind: "pump", points: pumpPoints(d) };
    case "pipe": {
      const bore = insideDiameterMm(d);
      return bore === null || (d.lengthM === 0 && !d.minorLossK)
        ? null
        : {
            kind: "pipe",
            lengthM: Math.max(d.lengthM, SAME_PLACE_M),
            insideMm: bore,
            c: pipeC(d),
            minorK: d.minorLossK ?? 0,
          };
    }
    case "fixedLoss":
      return d.lossKpa > 0 ? { kind: "fixedLoss", lossKpa: d.lossKpa } : null;
    case "regulator":
      return { kind: "regulator", setKpa: d.setKpa };
    case "pressureSensor":
    case "flowSensor":
      return null;
  }
}
