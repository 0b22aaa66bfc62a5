import { got, nth } from "../checked.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import { type FileProblem, parseSite } from "../site-file/parse-site.ts";
import type { Device, Mainline, Pipe, Poc, SiteFile, Source, Station } from "../site-file/schema.ts";
import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";
import { pieceOf, rounded, THROTTLE_AT_LPM } from "./inp-piece.ts";
import { type Group, groupsOf, isSource } from "./inp-groups.ts";
import { type InpLink, type InpNetwork, type InpNode, parseInp, type Unfit } from "./inp-parse.ts";
import { JOINT_M, NEUTRAL_MM, supplyDropKpa } from "./inp-write.ts";

/** A stretch shorter than this is a joint, not a pipe, m. */
const NOTHING_M = 0.02;

export type InpImport = { site: SiteFile; added: string[]; changed: string[]; unfit: Unfit[] };

/**
 * Takes an EPANET input file into a site. What the file names by an id that the site has is changed, all else is added; nothing of
 * the site goes. The result gives the network solver the same pressures as the file (up to what `unfit` lists).
 */
export function waterworksFromInp(
  text: string,
  into: SiteFile,
): { ok: true; value: InpImport } | { ok: false; problems: FileProblem[] } {
  const network = parseInp(text);
  const unfit = [...network.unfit];
  if (![...network.nodes.values()].some(isSource) || network.links.length === 0)
    return {
      ok: false,
      problems: [
        {
          code: "shape",
          path: "",
          message:
            "The file holds no network: it needs a reservoir or tank, and pipes from there. Export it as an EPANET input file (.inp).",
        },
      ],
    };
  const made = new Importer(network, into, unfit).build();
  const parsed = parseSite(made.site);
  return parsed.ok
    ? { ok: true, value: { ...made, site: parsed.site, unfit } }
    : { ok: false, problems: parsed.problems };
}

class Importer {
  private readonly network: InpNetwork;
  private readonly site: SiteFile;
  private readonly unfit: Unfit[];
  private readonly groups: Group[];
  private readonly taken: Set<string>;
  private readonly idOfGroup = new Map<string, string>();
  private readonly idOfSource = new Map<string, string>();
  private readonly added: string[] = [];
  private readonly changed: string[] = [];
  private readonly placed = new Set<string>();

  constructor(network: InpNetwork, site: SiteFile, unfit: Unfit[]) {
    this.network = network;
    this.site = structuredClone(site);
    this.unfit = unfit;
    this.groups = groupsOf(network, unfit);
    this.taken = new Set(
      JSON.stringify(site)
        .match(/"id":"((?:[^"\\]|\\.)*)"/g)
        ?.map((m) => JSON.parse(m.slice(5)) as string),
    );
  }

  build(): { site: SiteFile; added: string[]; changed: string[] } {
    for (const n of this.network.nodes.values()) if (isSource(n)) this.source(n);
    for (const g of this.groups)
      this.idOfGroup.set(g.key, this.elementId(g.key, g.kind === "poc" ? this.site.pocs : this.site.mainlines));
    for (const g of this.groups) if (g.kind === "poc") this.poc(g);
    for (const g of this.groups) if (g.kind === "mainline") this.mainline(g);
    for (const g of this.groups) this.stationsAlong(g);
    return { site: this.site, added: this.added, changed: this.changed };
  }

  /** The id itself where the site has such an element or it is free; else a free one like it. */
  private elementId(wanted: string, list: { id: string }[]): string {
    if (list.some((e) => e.id === wanted)) return wanted;
    let id = wanted.slice(0, 70);
    for (let n = 2; this.taken.has(id); n++) id = `${wanted.slice(0, 70)}-${n}`;
    this.taken.add(id);
    return id;
  }

  private put<T extends { id: string; name: string }>(list: T[], item: T): void {
    const at = list.findIndex((e) => e.id === item.id);
    if (at >= 0) list[at] = item;
    else list.push(item);
    (at >= 0 ? this.changed : this.added).push(item.name);
  }

  private source(n: InpNode): void {
    const out = this.network.links.find((l) => l.from === n.id || l.to === n.id);
    const next = this.network.nodes.get(out?.from === n.id ? out.to : (out?.from ?? ""));
    const untagged = n.kind === "tank" ? n.elevationM : Math.min(n.headM, next?.elevationM ?? n.headM);
    const elevationM = n.tag ? Number(n.tag[2]) : untagged;
    const id = this.elementId(n.tag?.[1] ?? n.id, this.site.sources);
    this.idOfSource.set(n.id, id);
    if (n.tag && out) this.idOfSource.set(out.to, id);
    const before: Source = this.site.sources.find((s) => s.id === id) ?? {
      id,
      name: n.tag?.[3] || `Source ${n.id}`,
      kind: n.kind === "tank" ? "tank" : "municipal",
    };
    const staticPressureKpa = (n.headM - elevationM) * KPA_PER_METRE_OF_WATER;
    const supply = this.network.links.find((l) => l.tag?.[0] === "supply" && l.from === n.id);
    const at = before.pressureDropKpaAt?.flowLpm ?? THROTTLE_AT_LPM;
    this.put(this.site.sources, {
      ...before,
      elevationM: rounded(elevationM),
      ...(staticPressureKpa > 1e-6 || before.staticPressureKpa !== undefined
        ? { staticPressureKpa: rounded(Math.max(0, staticPressureKpa)) }
        : {}),
      ...(supply?.kind === "pipe"
        ? { pressureDropKpaAt: { flowLpm: at, dropKpa: rounded(supplyDropKpa(supply.lengthM, at)) } }
        : {}),
    });
  }

  private poc(g: Group): void {
    const id = got(this.idOfGroup, g.key);
    const before = this.site.pocs.find((p) => p.id === id);
    const regulator = g.links.find((l) => l.kind === "regulator");
    const level = this.network.nodes.get(regulator?.to ?? g.begin)?.elevationM ?? 0;
    const taggedLevel = g.links[0]?.tag ? (this.network.nodes.get(g.begin)?.elevationM ?? 0) : level;
    this.put(this.site.pocs, {
      ...(before ?? { id, name: g.name || id }),
      sourceIds: [...new Set(g.sourceNodes.flatMap((n) => this.idOfSource.get(n) ?? []))],
      elevationM: rounded(
        g.links.length === 0 && isSource(this.network.nodes.get(g.begin)) ? this.sourceLevel(g.begin) : taggedLevel,
      ),
      devices: this.devices(g.links, before?.devices ?? []),
    } satisfies Poc);
  }

  private sourceLevel(node: string): number {
    return this.site.sources.find((s) => s.id === this.idOfSource.get(node))?.elevationM ?? 0;
  }

  private mainline(g: Group): void {
    const id = got(this.idOfGroup, g.key);
    const before = this.site.mainlines.find((m) => m.id === id);
    const feeds = g.feedNodes.flatMap((node) => this.feedsAt(node, g));
    const taps = new Set(feeds.flatMap((f) => (f.alongM === null ? [] : [rounded(f.alongM)])));
    if (taps.size > 1 || (taps.size === 1 && feeds.some((f) => f.alongM === null && f.main)))
      this.unfit.push({ code: "severalTaps", section: "PIPES", line: g.links[0]?.line ?? 0, subject: g.name });
    const devices = this.devices(g.links, [...(before?.devices ?? []), ...(before?.pipes ?? [])]);
    const lead = devices.findIndex((d) => d.kind === "pipe" && d.lengthM > 0);
    const own = lead < 0 ? devices : devices.slice(0, lead);
    const { devices: _, feedAtM: __, ...rest } = before ?? { id, name: g.name || id, pipes: [] };
    const silent = [...(before?.devices ?? [])].filter((d) => takesNoPressure(d));
    const kept = [...own.filter((d) => d.kind !== "pipe"), ...silent.filter((d) => !own.some((o) => o.id === d.id))];
    this.put(this.site.mainlines, {
      ...rest,
      feedIds: [...new Set(feeds.map((f) => f.id))],
      elevationM: rounded(
        this.network.nodes.get(g.links[0] && !g.links[0].tag ? g.links[0].to : g.begin)?.elevationM ?? 0,
      ),
      pipes: devices.filter((d): d is Pipe => d.kind === "pipe"),
      ...(kept.length > 0 ? { devices: kept } : {}),
      ...(taps.size > 0 ? { feedAtM: nth([...taps], 0) } : {}),
    } satisfies Mainline);
  }

  /** The stretch whose water stands at a node, and where along it the node is (null: at its end). */
  private feedsAt(node: string, self: Group): { id: string; alongM: number | null; main: boolean }[] {
    const found: { id: string; alongM: number | null; main: boolean }[] = [];
    for (const g of this.groups) {
      if (g === self) continue;
      const id = got(this.idOfGroup, g.key);
      const end = g.links.at(-1)?.to ?? g.begin;
      if (end === node) found.push({ id, alongM: null, main: g.kind === "mainline" });
      else if (g.kind === "mainline" && g.links[0]?.tag) {
        const along = alongOf(g, node);
        if (along !== null) found.push({ id, alongM: along, main: true });
      }
    }
    return found;
  }

  private devices(links: InpLink[], before: Device[]): Device[] {
    const made: Device[] = [];
    for (const l of links) {
      const [kind, , deviceId, deviceKind, , name] = l.tag ?? [];
      if (l.tag && (kind === "joint" || !deviceId)) continue;
      const last = made[made.length - 1];
      if (l.kind === "pipe" && last?.kind === "pipe" && deviceId && last.id === deviceId) {
        last.lengthM = rounded(last.lengthM + l.lengthM);
        if (l.minorK > 0) last.minorLossK = rounded((last.minorLossK ?? 0) + l.minorK);
        continue;
      }
      const old = before.find((d) => d.id === deviceId);
      const id = old ? old.id : this.elementId(deviceId || l.id, []);
      made.push(pieceOf(l, { id, name: name || undefined, kind: deviceKind, old }));
    }
    // Pieces that take no pressure are not in the network; they stay where they stood.
    before.forEach((d, i) => {
      if (!takesNoPressure(d) || made.some((m) => m.id === d.id)) return;
      const after = made.findIndex((m) => m.id === before[i - 1]?.id);
      const behind = after < 0 ? made.length : after + 1;
      made.splice(i === 0 ? 0 : behind, 0, d);
    });
    return made;
  }

  private stationsAlong(g: Group): void {
    const id = got(this.idOfGroup, g.key);
    const nodes = [g.begin, ...g.links.map((l) => l.to)];
    for (const [i, nodeId] of nodes.entries()) {
      const n = this.network.nodes.get(nodeId);
      if (!n || this.placed.has(nodeId) || isSource(n)) continue;
      if (n.tag ? n.tag[0] !== "station" : n.demandLpm <= 0) continue;
      const main = g.kind === "mainline" ? id : this.mainBehind(nodeId);
      if (main === null) {
        this.unfit.push({ code: "unreached", section: "JUNCTIONS", line: n.line, subject: n.id });
        continue;
      }
      this.placed.add(nodeId);
      this.station(n, main, g.kind === "mainline" ? g.links.slice(0, i).reduce((sum, l) => sum + pipeLength(l), 0) : 0);
    }
  }

  /** The main that begins where a connection ends; its draw hangs there. */
  private mainBehind(node: string): string | null {
    const g = this.groups.find((x) => x.kind === "mainline" && x.begin === node);
    return g ? got(this.idOfGroup, g.key) : null;
  }

  private station(n: InpNode, mainlineId: string, alongM: number): void {
    const id = this.elementId(n.tag?.[1] ?? n.id, this.site.stations);
    const before = this.site.stations.find((s) => s.id === id);
    if (!this.site.controllers[0] && !before)
      this.site.controllers.push({ id: this.elementId("controller-1", []), name: "Controller 1", powered: "mains" });
    const controllerId = before?.controllerId ?? nth(this.site.controllers, 0).id;
    const number =
      before?.number ??
      Math.max(0, ...this.site.stations.filter((s) => s.controllerId === controllerId).map((s) => s.number)) + 1;
    const known = before ? expectedFlow(before)?.lpm : undefined;
    this.put(this.site.stations, {
      ...(before ?? { id, number, name: n.tag?.[3] || `Station ${n.id}`, controllerId }),
      mainlineId,
      elevationM: rounded(n.elevationM),
      alongM: rounded(alongM),
      ...(n.demandLpm > 0 && (known === undefined || Math.abs(known - n.demandLpm) > 1e-6)
        ? { designFlowLpm: rounded(n.demandLpm) }
        : {}),
    } satisfies Station);
  }
}

const takesNoPressure = (d: Device): boolean =>
  d.kind === "pressureSensor" ||
  d.kind === "flowSensor" ||
  (d.kind === "meter" && !d.lossKpaAt) ||
  (d.kind === "masterValve" && d.kv === undefined) ||
  (d.kind === "backflow" && !d.lossPoints?.length);
const pipeLength = (l: InpLink): number =>
  l.kind === "pipe" && l.lengthM > NOTHING_M && !(l.tag && l.tag[0] === "joint") && !isJoint(l) ? l.lengthM : 0;
/** What the writer makes of a connection without length. */
const isJoint = (l: InpLink): boolean =>
  l.kind === "pipe" && l.tag !== null && Math.abs(l.lengthM - JOINT_M) < 1e-9 && l.insideMm === NEUTRAL_MM && !l.tag[2];

function alongOf(g: Group, node: string): number | null {
  let along = 0;
  if (g.begin === node) return 0;
  for (const l of g.links) {
    along += pipeLength(l);
    if (l.to === node) return along;
  }
  return null;
}
