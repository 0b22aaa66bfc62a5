import { networkModel, type HydraulicModel } from "../hydraulics/network-model.ts";
import { OpenNetwork } from "../hydraulics/open-network.ts";
import type { Outlet } from "../hydraulics/open-set.ts";
import type { Waterworks } from "../network/waterworks.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";

/** Assumed where a site states no pressure; only ratios of it reach a figure. */
export const ASSUMED_STATIC_KPA = 400;
/** A reference pressure is never taken for less. */
const LEAST_KPA = 1;

/** What stands open and what is wrong, as far as the water is concerned. Places are those in the file. */
export type OpenState = {
  stations: {
    station: number /** Of its flow that is left: less than 1 where clogged. */;
    share: number /** L/min that a break of it lets out when it runs alone. */;
    brokenLpm: number;
  }[];
  /** Breaks and hoses: L/min when nothing else runs. */
  breaks: { kind: "poc" | "mainline"; place: number; lpm: number }[];
  pocLive: boolean[];
  /** Mainlines behind a shut valve of their own. */
  mainShut: boolean[];
  pumpOn: boolean[];
  /** Sources that give nothing now. */
  sourceShut: boolean[];
  /** kPa less at a POC, and at a source. */
  pocDropKpa: number[];
  sourceDropKpa: number[];
};
/** Flows once every valve stands fully open and the pressure is the usual one, L/min. */
export type OpenSolution = {
  /** By place of the station. */
  ownLpm: Map<number, number>;
  brokenLpm: Map<number, number>;
  /** In the order of the state's. */
  breakLpm: number[];
  pocLpm: number[];
  /** Through each feed of each mainline, in the order of `feedPocs` and `feedMainlines`. */
  feedLpm: { pocs: number[]; mains: number[] }[];
};

/** By the stations of a site: a site under another policy is the same to the water. */
const KNOWN = new WeakMap<SiteFile["stations"], BenchNetwork>();
const MOST_KEPT = 20_000;

/**
 * Station flow by pressure, through the network, kept by what stands open: each station lets out `E·√(pressure ÷ pressure when it runs alone)` (handbook#9-bench), so alone it
 * gives its expected flow and together they give less.
 */
export class BenchNetwork {
  private readonly model: HydraulicModel;
  private readonly network: OpenNetwork;
  private readonly kept = new Map<string, OpenSolution>();
  private readonly coefficients = new Map<string, number>();
  private readonly w: Waterworks;
  /** Joint links: into each POC by source, into each mainline by feed. */
  private readonly pocJoints: { link: number; source: number }[][];
  private readonly mainJoints: { poc: Map<number, number>; main: Map<number, number>; all: number[] }[];
  private readonly pumpLinks: { link: number; poc: number; bypass: boolean }[];
  private readonly pocEnd: number[];
  private readonly mainBegin: number[];
  private readonly headM: Map<number, number>;

  private constructor(w: Waterworks) {
    this.w = w;
    const { site } = w;
    const model = networkModel(site);
    this.model = model;
    this.network = new OpenNetwork(model);
    const sourceOfExit = new Map(
      model.links.flatMap((l) =>
        model.nodes[l.from]?.kind === "reservoir" ? [[l.to, w.sourceIndex.get(l.subjectId) as number] as const] : [],
      ),
    );
    this.pocJoints = site.pocs.map(() => []);
    this.mainJoints = site.mainlines.map(() => ({ poc: new Map(), main: new Map(), all: [] }));
    this.pumpLinks = [];
    this.pocEnd = site.pocs.map((p) =>
      model.nodes.reduce((last, n, i) => (n.subjectId === p.id && n.stationId === undefined ? i : last), -1),
    );
    this.mainBegin = site.mainlines.map((m) => model.nodes.findIndex((n) => n.subjectId === m.id));
    model.links.forEach((l, link) => {
      const poc = w.pocIndex.get(l.subjectId);
      const main = w.mainlineIndex.get(l.subjectId);
      const source = sourceOfExit.get(l.from);
      if (poc !== undefined && (l.kind === "pump" || l.kind === "bypass"))
        this.pumpLinks.push({ link, poc, bypass: l.kind === "bypass" });
      if (l.kind !== "joint") return;
      if (poc !== undefined && source !== undefined) this.pocJoints[poc]?.push({ link, source });
      if (main === undefined || l.to !== this.mainBegin[main]) return;
      const joints = this.mainJoints[main] as BenchNetwork["mainJoints"][number];
      joints.all.push(link);
      const fromPoc = this.pocEnd.indexOf(l.from);
      if (fromPoc >= 0) joints.poc.set(fromPoc, link);
      else joints.main.set(w.mainlineIndex.get(model.nodes[l.from]?.subjectId ?? "") ?? -1, link);
    });
    this.headM = new Map();
    model.nodes.forEach((n, i) => {
      const source = site.sources.find((s) => s.id === n.subjectId);
      if (n.kind !== "reservoir" || !source || source.staticPressureKpa !== undefined) return;
      const pumped = site.pocs.some((p) => p.sourceIds.includes(source.id) && p.devices.some((d) => d.kind === "pump"));
      if (!pumped) this.headM.set(i, n.elevationM + ASSUMED_STATIC_KPA / KPA_PER_METRE_OF_WATER);
    });
  }

  /** One for each waterworks, so that nights of the same site, also under other policies, share what is known. */
  static of(w: Waterworks): BenchNetwork {
    const known = KNOWN.get(w.site.stations);
    const { site } = w;
    if (
      known &&
      known.w.site.sources === site.sources &&
      known.w.site.pocs === site.pocs &&
      known.w.site.mainlines === site.mainlines
    )
      return known;
    const made = new BenchNetwork(w);
    KNOWN.set(site.stations, made);
    return made;
  }

  /** @param key names the state: the same key is the same state */
  solve(key: string, state: () => OpenState): OpenSolution {
    const known = this.kept.get(key);
    if (known) return known;
    const solution = this.solved(state());
    if (this.kept.size >= MOST_KEPT) this.kept.clear();
    this.kept.set(key, solution);
    return solution;
  }

  private solved(state: OpenState): OpenSolution {
    const { site } = this.w;
    const outlets: Outlet[] = [];
    const parts = state.stations.map(({ station, share, brokenLpm }) => {
      const node = this.model.stationNode[station] as number;
      const expected = expectedFlow(site.stations[station] as (typeof site.stations)[number])?.lpm ?? 0;
      const perLpm = this.perLpm(`station ${station}`, node, expected > 0 ? expected : brokenLpm, station);
      const [own, broken] = [expected * share * perLpm, brokenLpm * perLpm];
      outlets.push({ node, coefficient: own + broken });
      return { station, own: own + broken > 0 ? own / (own + broken) : 0 };
    });
    for (const b of state.breaks) {
      const node = (b.kind === "poc" ? this.pocEnd[b.place] : this.mainBegin[b.place]) as number;
      outlets.push({ node, coefficient: b.lpm * this.perLpm(`${b.kind} ${b.place} ${b.lpm}`, node, b.lpm, null) });
    }
    const shut = new Set<number>();
    const extraM = new Map<number, number>();
    this.pocJoints.forEach((joints, p) => {
      for (const { link, source } of joints) {
        if (!state.pocLive[p] || state.sourceShut[source]) shut.add(link);
        const dropKpa = (state.pocDropKpa[p] as number) + (state.sourceDropKpa[source] as number);
        if (dropKpa > 0) extraM.set(link, dropKpa / KPA_PER_METRE_OF_WATER);
      }
    });
    this.mainJoints.forEach((joints, m) => {
      if (state.mainShut[m]) for (const link of joints.all) shut.add(link);
    });
    for (const { link, poc, bypass } of this.pumpLinks) if (state.pumpOn[poc] === bypass) shut.add(link);
    const flows = this.network.solve({ outlets, shut, headM: this.headM, extraM });
    const through = (link: number | undefined): number =>
      link === undefined ? 0 : Math.max(0, flows.linkLpm[link] as number);
    return {
      ownLpm: new Map(parts.map((x, i) => [x.station, (flows.outletLpm[i] as number) * x.own])),
      brokenLpm: new Map(parts.map((x, i) => [x.station, (flows.outletLpm[i] as number) * (1 - x.own)])),
      breakLpm: state.breaks.map((_, i) => flows.outletLpm[parts.length + i] as number),
      pocLpm: this.pocJoints.map((joints) => joints.reduce((sum, j) => sum + through(j.link), 0)),
      feedLpm: this.mainJoints.map((joints, m) => ({
        pocs: (this.w.feedPocs[m] ?? []).map((p) => through(joints.poc.get(p))),
        mains: (this.w.feedMainlines[m] ?? []).map((f) => through(joints.main.get(f))),
      })),
    };
  }

  /** 1 ÷ √(metres of pressure at a node when only this draw runs and nothing is wrong). */
  private perLpm(key: string, node: number, lpm: number, station: number | null): number {
    const known = this.coefficients.get(key);
    if (known !== undefined) return known;
    const pumped = station === null || this.w.site.stations[station]?.usesPump !== false;
    const shut = new Set(this.pumpLinks.filter((x) => x.bypass === pumped).map((x) => x.link));
    const enabled = this.w.site.sources.map((s) => s.enabled !== false);
    for (const joints of this.pocJoints) for (const { link, source } of joints) if (!enabled[source]) shut.add(link);
    const flows = this.network.solve({ outlets: [{ node, lpm }], shut, headM: this.headM });
    const made = 1 / Math.sqrt(Math.max(flows.outletKpa[0] as number, LEAST_KPA) / KPA_PER_METRE_OF_WATER);
    this.coefficients.set(key, made);
    return made;
  }
}
