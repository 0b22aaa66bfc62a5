import { nth } from "../checked.ts";
import {
  KPA_PER_PSI,
  KPA_PER_METRE_OF_WATER,
  LITRES_PER_US_GALLON,
  METRES_PER_FOOT,
  MM_PER_INCH,
} from "../units/units.ts";

/** What of an EPANET input file has no place in Presa, or was taken another way: always listed, never lost silently. */
export type Unfit = { code: UnfitCode; section: string; line: number; subject: string };
export type UnfitCode =
  | "section"
  | "headloss"
  | "closedLink"
  | "closedPipe"
  | "constantPower"
  | "valveKind"
  | "pattern"
  | "inflow"
  | "unknownNode"
  | "unknownCurve"
  | "badLine"
  | "loop"
  | "tankLevels"
  | "emitter"
  | "severalTaps"
  | "unreached"
  | "checkValve"
  | "pumpSpeed";

export type InpNode = {
  id: string;
  kind: "junction" | "reservoir" | "tank";
  elevationM: number;
  headM: number;
  demandLpm: number;
  tag: string[] | null;
  line: number;
};
export type InpLink = { id: string; from: string; to: string; tag: string[] | null; line: number } & (
  | { kind: "pipe"; lengthM: number; insideMm: number; c: number; minorK: number; check: boolean }
  | { kind: "pump"; points: { flowLpm: number; headM: number }[] }
  | { kind: "regulator"; setKpa: number }
  | { kind: "fixedLoss"; lossKpa: number }
  /** Loss coefficient of v²/2g in its own bore. */
  | { kind: "throttle"; k: number; insideMm: number }
  | { kind: "lossCurve"; points: { flowLpm: number; lossKpa: number }[] }
);
export type InpNetwork = { title: string; nodes: Map<string, InpNode>; links: InpLink[]; unfit: Unfit[] };

type Line = { at: number; words: string[] };

/** Flow units of the format in L/min. */
const FLOW: Record<string, number> = {
  LPM: 1,
  LPS: 60,
  CMH: 1000 / 60,
  CMD: 1000 / 1440,
  MLD: 1_000_000 / 1440,
  CMS: 60_000,
  GPM: LITRES_PER_US_GALLON,
  MGD: (LITRES_PER_US_GALLON * 1e6) / 1440,
  IMGD: (4.54609 * 1e6) / 1440,
  AFD: 1_233_481.83754752 / 1440,
  CFS: 28.316846592 * 60,
};
const CUSTOMARY = new Set(["GPM", "MGD", "IMGD", "AFD", "CFS"]);
const IGNORED = new Set([
  "TITLE",
  "END",
  "TIMES",
  "REPORT",
  "COORDINATES",
  "VERTICES",
  "LABELS",
  "BACKDROP",
  "OPTIONS",
  "TAGS",
  "STATUS",
  "CURVES",
  "PATTERNS",
]);
const READ = new Set(["JUNCTIONS", "RESERVOIRS", "TANKS", "PIPES", "PUMPS", "VALVES", "DEMANDS"]);

/** Reads the sections of an EPANET input file (format of version 2.2) in any of its flow units. Never throws. */
export function parseInp(text: string): InpNetwork {
  const reader = new InpReader(text);
  reader.readNodes();
  reader.readLinks();
  const { title, nodes, links, unfit } = reader;
  return { title, nodes, links, unfit };
}

type Ends = { id: string; from: string; to: string; tag: string[] | null; line: number };

/** One file being read: what it states so far, and what of it did not fit. */
class InpReader {
  readonly nodes = new Map<string, InpNode>();
  readonly links: InpLink[] = [];
  readonly unfit: Unfit[] = [];
  readonly title: string;
  private readonly sections: Map<string, Line[]>;
  private readonly tags = new Map<string, string[]>();
  private readonly curves = new Map<string, [number, number][]>();
  private readonly closed: Set<string>;
  private readonly otherLoss: boolean;
  /** One of the file's units in ours. */
  private readonly lpm: number;
  private readonly metres: number;
  private readonly mm: number;
  private readonly kPa: number;

  constructor(text: string) {
    this.sections = splitSections(text);
    this.title = (this.of("TITLE")[0]?.words ?? []).join(" ");
    const unit = this.option("UNITS") ?? "GPM";
    const us = CUSTOMARY.has(unit);
    this.lpm = FLOW[unit] ?? LITRES_PER_US_GALLON;
    this.metres = us ? METRES_PER_FOOT : 1;
    this.mm = us ? MM_PER_INCH : 1;
    this.kPa = us ? KPA_PER_PSI : KPA_PER_METRE_OF_WATER;
    const loss = this.option("HEADLOSS") ?? "H-W";
    this.otherLoss = loss !== "H-W";
    if (this.otherLoss) this.miss("headloss", "OPTIONS", 0, loss);
    this.listUnread();
    for (const l of this.of("TAGS")) {
      const [kind, id, tag] = l.words;
      if (tag?.startsWith("presa/")) this.tags.set(`${kind?.toUpperCase()}:${id}`, tag.split("/").slice(1).map(decode));
    }
    const isClosed = (l: Line): boolean => l.words[1]?.toUpperCase() === "CLOSED";
    this.closed = new Set(this.of("STATUS").filter(isClosed).map(nameOf));
  }

  private of(section: string): Line[] {
    return this.sections.get(section) ?? [];
  }

  private option(key: string): string | undefined {
    const line = this.of("OPTIONS").find((l) => l.words[0]?.toUpperCase() === key);
    return line?.words[1]?.toUpperCase();
  }

  private miss(code: UnfitCode, section: string, line: number, subject: string): void {
    this.unfit.push({ code, section, line, subject });
  }

  private listUnread(): void {
    for (const [name, lines] of this.sections) {
      if (IGNORED.has(name) || READ.has(name)) continue;
      const code = name === "EMITTERS" ? "emitter" : "section";
      for (const l of lines) this.miss(code, name, l.at, words(l));
    }
  }

  /** A figure of a line; where there is none, the fallback, or nought and a line that is listed as bad. */
  private number(l: Line, at: number, section: string, fallback?: number): number {
    const word = l.words[at];
    if (word === undefined && fallback !== undefined) return fallback;
    const value = Number(word);
    if (word !== undefined && Number.isFinite(value)) return value;
    this.miss("badLine", section, l.at, words(l));
    return fallback ?? 0;
  }

  // ---- nodes ---------------------------------------------------------------------------------------------------

  readNodes(): void {
    for (const l of this.of("JUNCTIONS")) this.junction(l);
    for (const l of this.of("RESERVOIRS")) this.reservoir(l);
    for (const l of this.of("TANKS")) this.tank(l);
    this.demands();
    for (const n of this.nodes.values())
      if (n.demandLpm < 0) {
        this.miss("inflow", "JUNCTIONS", n.line, n.id);
        n.demandLpm = 0;
      }
  }

  private node(l: Line, values: Omit<InpNode, "id" | "tag" | "line">): void {
    const id = nameOf(l);
    this.nodes.set(id, { id, tag: this.tags.get(`NODE:${id}`) ?? null, line: l.at, ...values });
  }

  private junction(l: Line): void {
    const pattern = l.words[3];
    if (pattern !== undefined && !pattern.startsWith("presa_")) this.miss("pattern", "JUNCTIONS", l.at, nameOf(l));
    const elevationM = this.number(l, 1, "JUNCTIONS", 0) * this.metres;
    const demandLpm = this.number(l, 2, "JUNCTIONS", 0) * this.lpm;
    this.node(l, { kind: "junction", elevationM, headM: elevationM, demandLpm });
  }

  private reservoir(l: Line): void {
    if (l.words[2] !== undefined) this.miss("pattern", "RESERVOIRS", l.at, nameOf(l));
    const headM = this.number(l, 1, "RESERVOIRS") * this.metres;
    this.node(l, { kind: "reservoir", elevationM: headM, headM, demandLpm: 0 });
  }

  private tank(l: Line): void {
    const elevationM = this.number(l, 1, "TANKS") * this.metres;
    if (l.words.length > 3) this.miss("tankLevels", "TANKS", l.at, nameOf(l));
    const headM = elevationM + this.number(l, 2, "TANKS", 0) * this.metres;
    this.node(l, { kind: "tank", elevationM, headM, demandLpm: 0 });
  }

  /** Demands of their own section take the place of those at the junctions; several of one node add up. */
  private demands(): void {
    const replaced = new Set<string>();
    for (const l of this.of("DEMANDS")) {
      const at = this.nodes.get(l.words[0] ?? "");
      if (!at) {
        this.miss("unknownNode", "DEMANDS", l.at, l.words[0] ?? "");
        continue;
      }
      if (!replaced.has(at.id)) at.demandLpm = 0;
      replaced.add(at.id);
      at.demandLpm += this.number(l, 1, "DEMANDS", 0) * this.lpm;
      if (l.words[2] !== undefined) this.miss("pattern", "DEMANDS", l.at, at.id);
    }
  }

  // ---- links ---------------------------------------------------------------------------------------------------

  readLinks(): void {
    for (const l of this.of("CURVES")) {
      const known = this.curves.get(nameOf(l)) ?? [];
      this.curves.set(nameOf(l), [...known, [this.number(l, 1, "CURVES"), this.number(l, 2, "CURVES")]]);
    }
    const each = (section: string, read: (l: Line, ends: Ends) => void): void => {
      for (const l of this.of(section)) {
        const ends = this.ends(l, section);
        if (ends) read(l, ends);
      }
    };
    each("PIPES", (l, ends) => this.pipe(l, ends));
    each("PUMPS", (l, ends) => this.pump(l, ends));
    each("VALVES", (l, ends) => this.valve(l, ends));
  }

  /** Both ends of a link; null, and listed, when one is unknown or the link is closed. */
  private ends(l: Line, section: string): Ends | null {
    const [, from, to] = l.words;
    const id = nameOf(l);
    if (from === undefined || to === undefined || !this.nodes.has(from) || !this.nodes.has(to)) {
      this.miss("unknownNode", section, l.at, id);
      return null;
    }
    if (this.closed.has(id)) {
      this.miss("closedLink", section, l.at, id);
      return null;
    }
    return { id, from, to, tag: this.tags.get(`LINK:${id}`) ?? null, line: l.at };
  }

  private pipe(l: Line, ends: Ends): void {
    const status = (l.words[7] ?? l.words[6] ?? "OPEN").toUpperCase();
    if (status === "CLOSED") {
      this.miss("closedPipe", "PIPES", l.at, ends.id);
      return;
    }
    const minor = Number(l.words[6] ?? 0);
    this.links.push({
      ...ends,
      kind: "pipe",
      lengthM: this.number(l, 3, "PIPES") * this.metres,
      insideMm: this.number(l, 4, "PIPES") * this.mm,
      c: this.otherLoss ? 150 : this.number(l, 5, "PIPES"),
      minorK: Number.isFinite(minor) ? minor : 0,
      check: status === "CV",
    });
  }

  private pump(l: Line, ends: Ends): void {
    const keys = l.words.map((w) => w.toUpperCase());
    const head = keys.indexOf("HEAD");
    if (head < 0) {
      this.miss("constantPower", "PUMPS", l.at, ends.id);
      return;
    }
    if (keys.includes("SPEED") || keys.includes("PATTERN")) this.miss("pumpSpeed", "PUMPS", l.at, ends.id);
    const curve = this.curves.get(l.words[head + 1] ?? "");
    if (!curve) {
      this.miss("unknownCurve", "PUMPS", l.at, ends.id);
      return;
    }
    const points = pumpCurve(curve).map(([q, h]) => ({ flowLpm: q * this.lpm, headM: h * this.metres }));
    this.links.push({ ...ends, kind: "pump", points });
  }

  private valve(l: Line, ends: Ends): void {
    const kind = l.words[4]?.toUpperCase();
    const insideMm = this.number(l, 3, "VALVES") * this.mm;
    if (kind === "GPV") {
      this.lossCurve(l, ends);
      return;
    }
    const setting = this.number(l, 5, "VALVES", 0);
    if (kind === "PRV") this.links.push({ ...ends, kind: "regulator", setKpa: setting * this.kPa });
    else if (kind === "PBV") this.links.push({ ...ends, kind: "fixedLoss", lossKpa: setting * this.kPa });
    else if (kind === "TCV") this.links.push({ ...ends, kind: "throttle", k: setting, insideMm });
    else {
      this.miss("valveKind", "VALVES", l.at, `${ends.id} ${kind ?? ""}`);
      this.links.push({ ...ends, kind: "throttle", k: Number(l.words[6] ?? 0) || 0, insideMm });
    }
  }

  private lossCurve(l: Line, ends: Ends): void {
    const curve = this.curves.get(l.words[5] ?? "");
    if (!curve) {
      this.miss("unknownCurve", "VALVES", l.at, ends.id);
      return;
    }
    const kPaPerUnit = this.metres * KPA_PER_METRE_OF_WATER;
    const points = curve.map(([q, h]) => ({ flowLpm: q * this.lpm, lossKpa: h * kPaPerUnit }));
    this.links.push({ ...ends, kind: "lossCurve", points });
  }
}

/** Id of what a line is about. */
const nameOf = (l: Line): string => l.words[0] ?? "";
/** A line to show, in short. */
const words = (l: Line): string => l.words.join(" ").slice(0, 60);

function splitSections(text: string): Map<string, Line[]> {
  const sections = new Map<string, Line[]>();
  let name = "";
  for (const [i, raw] of text.split(/\r?\n/).entries()) {
    const line = (raw.split(";")[0] ?? "").trim();
    if (line === "") continue;
    const heading = /^\[(\w+)/.exec(line);
    if (heading) {
      name = nth(heading, 1).toUpperCase();
      if (!sections.has(name)) sections.set(name, []);
    } else sections.get(name)?.push({ at: i + 1, words: line.split(/\s+/) });
  }
  return sections;
}

const decode = (part: string): string => {
  try {
    return decodeURIComponent(part);
  } catch {
    return part;
  }
};

/**
 * A head curve as points. One point: shut-off at 4/3 of its head, run-out at twice its flow; three points from no flow: H = A − B·Qⁿ
 * through them (EPANET 2.2 users manual, 3.1.6), sampled. More points: as they are.
 */
function pumpCurve(points: [number, number][]): [number, number][] {
  const three: [number, number][] =
    points.length === 1
      ? [[0, ((points[0]?.[1] as number) * 4) / 3], nth(points, 0), [(points[0]?.[0] as number) * 2, 0]]
      : points;
  const [a, b, c] = three;
  if (three.length !== 3 || !a || !b || !c || a[0] !== 0) return three;
  const n = Math.log((a[1] - c[1]) / (a[1] - b[1])) / Math.log(c[0] / b[0]);
  if (!Number.isFinite(n) || n <= 0) return three;
  const k = (a[1] - b[1]) / b[0] ** n;
  const end = (a[1] / k) ** (1 / n);
  return Array.from({ length: 21 }, (_, i) => [(end * i) / 20, Math.max(0, a[1] - k * ((end * i) / 20) ** n)]);
}
