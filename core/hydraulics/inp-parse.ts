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
  const sections = splitSections(text);
  const of = (name: string): Line[] => sections.get(name) ?? [];
  const unfit: Unfit[] = [];
  const miss = (code: UnfitCode, section: string, line: number, subject: string): void => {
    unfit.push({ code, section, line, subject });
  };
  const option = (key: string): string | undefined =>
    of("OPTIONS")
      .find((l) => l.words[0]?.toUpperCase() === key)
      ?.words[1]?.toUpperCase();
  const unit = option("UNITS") ?? "GPM";
  const lpm = FLOW[unit] ?? LITRES_PER_US_GALLON;
  const us = CUSTOMARY.has(unit);
  const metres = us ? METRES_PER_FOOT : 1;
  const mm = us ? MM_PER_INCH : 1;
  const kPa = us ? KPA_PER_PSI : KPA_PER_METRE_OF_WATER;
  const otherLoss = (option("HEADLOSS") ?? "H-W") !== "H-W";
  if (otherLoss) miss("headloss", "OPTIONS", 0, option("HEADLOSS") ?? "");
  for (const [name, lines] of sections)
    if (!IGNORED.has(name) && !READ.has(name))
      for (const l of lines)
        miss(name === "EMITTERS" ? "emitter" : "section", name, l.at, l.words.join(" ").slice(0, 60));

  const tags = new Map<string, string[]>();
  for (const l of of("TAGS")) {
    const [kind, id, tag] = l.words;
    if (tag?.startsWith("presa/")) tags.set(`${kind?.toUpperCase()}:${id}`, tag.split("/").slice(1).map(decode));
  }
  const nodes = new Map<string, InpNode>();
  const number = (l: Line, at: number, section: string, fallback?: number): number => {
    const word = l.words[at];
    if (word === undefined && fallback !== undefined) return fallback;
    const value = Number(word);
    if (word === undefined || !Number.isFinite(value)) {
      miss("badLine", section, l.at, l.words.join(" ").slice(0, 60));
      return fallback ?? 0;
    }
    return value;
  };
  const node = (l: Line, values: Omit<InpNode, "id" | "tag" | "line">): void => {
    const id = l.words[0] as string;
    nodes.set(id, { id, tag: tags.get(`NODE:${id}`) ?? null, line: l.at, ...values });
  };
  for (const l of of("JUNCTIONS")) {
    if (l.words[3] !== undefined && !l.words[3].startsWith("presa_"))
      miss("pattern", "JUNCTIONS", l.at, l.words[0] as string);
    const elevationM = number(l, 1, "JUNCTIONS", 0) * metres;
    node(l, { kind: "junction", elevationM, headM: elevationM, demandLpm: number(l, 2, "JUNCTIONS", 0) * lpm });
  }
  for (const l of of("RESERVOIRS")) {
    if (l.words[2] !== undefined) miss("pattern", "RESERVOIRS", l.at, l.words[0] as string);
    const headM = number(l, 1, "RESERVOIRS") * metres;
    node(l, { kind: "reservoir", elevationM: headM, headM, demandLpm: 0 });
  }
  for (const l of of("TANKS")) {
    const elevationM = number(l, 1, "TANKS") * metres;
    if (l.words.length > 3) miss("tankLevels", "TANKS", l.at, l.words[0] as string);
    node(l, { kind: "tank", elevationM, headM: elevationM + number(l, 2, "TANKS", 0) * metres, demandLpm: 0 });
  }
  const replaced = new Set<string>();
  for (const l of of("DEMANDS")) {
    const at = nodes.get(l.words[0] ?? "");
    if (!at) {
      miss("unknownNode", "DEMANDS", l.at, l.words[0] ?? "");
      continue;
    }
    if (!replaced.has(at.id)) at.demandLpm = 0;
    replaced.add(at.id);
    at.demandLpm += number(l, 1, "DEMANDS", 0) * lpm;
    if (l.words[2] !== undefined) miss("pattern", "DEMANDS", l.at, at.id);
  }
  for (const n of nodes.values())
    if (n.demandLpm < 0) {
      miss("inflow", "JUNCTIONS", n.line, n.id);
      n.demandLpm = 0;
    }

  const curves = new Map<string, [number, number][]>();
  for (const l of of("CURVES")) {
    const id = l.words[0] as string;
    curves.set(id, [...(curves.get(id) ?? []), [number(l, 1, "CURVES"), number(l, 2, "CURVES")]]);
  }
  const closed = new Set(
    of("STATUS")
      .filter((l) => l.words[1]?.toUpperCase() === "CLOSED")
      .map((l) => l.words[0] as string),
  );
  const links: InpLink[] = [];
  const ends = (
    l: Line,
    section: string,
  ): { id: string; from: string; to: string; tag: string[] | null; line: number } | null => {
    const [id, from, to] = l.words as [string, string | undefined, string | undefined];
    if (from === undefined || to === undefined || !nodes.has(from) || !nodes.has(to)) {
      miss("unknownNode", section, l.at, id);
      return null;
    }
    if (closed.has(id)) {
      miss("closedLink", section, l.at, id);
      return null;
    }
    return { id, from, to, tag: tags.get(`LINK:${id}`) ?? null, line: l.at };
  };
  for (const l of of("PIPES")) {
    const e = ends(l, "PIPES");
    if (!e) continue;
    const status = (l.words[7] ?? l.words[6] ?? "OPEN").toUpperCase();
    if (status === "CLOSED") {
      miss("closedPipe", "PIPES", l.at, e.id);
      continue;
    }
    const minor = Number(l.words[6] ?? 0);
    links.push({
      ...e,
      kind: "pipe",
      lengthM: number(l, 3, "PIPES") * metres,
      insideMm: number(l, 4, "PIPES") * mm,
      c: otherLoss ? 150 : number(l, 5, "PIPES"),
      minorK: Number.isFinite(minor) ? minor : 0,
      check: status === "CV",
    });
  }
  for (const l of of("PUMPS")) {
    const e = ends(l, "PUMPS");
    if (!e) continue;
    const words = l.words.map((w) => w.toUpperCase());
    const head = words.indexOf("HEAD");
    if (head < 0) {
      miss("constantPower", "PUMPS", l.at, e.id);
      continue;
    }
    if (words.includes("SPEED") || words.includes("PATTERN")) miss("pumpSpeed", "PUMPS", l.at, e.id);
    const curve = curves.get(l.words[head + 1] ?? "");
    if (!curve) {
      miss("unknownCurve", "PUMPS", l.at, e.id);
      continue;
    }
    links.push({
      ...e,
      kind: "pump",
      points: pumpCurve(curve).map(([q, h]) => ({ flowLpm: q * lpm, headM: h * metres })),
    });
  }
  for (const l of of("VALVES")) {
    const e = ends(l, "VALVES");
    if (!e) continue;
    const kind = l.words[4]?.toUpperCase();
    const insideMm = number(l, 3, "VALVES") * mm;
    if (kind === "GPV") {
      const curve = curves.get(l.words[5] ?? "");
      if (curve)
        links.push({
          ...e,
          kind: "lossCurve",
          points: curve.map(([q, h]) => ({ flowLpm: q * lpm, lossKpa: h * metres * KPA_PER_METRE_OF_WATER })),
        });
      else miss("unknownCurve", "VALVES", l.at, e.id);
      continue;
    }
    const setting = number(l, 5, "VALVES", 0);
    if (kind === "PRV") links.push({ ...e, kind: "regulator", setKpa: setting * kPa });
    else if (kind === "PBV") links.push({ ...e, kind: "fixedLoss", lossKpa: setting * kPa });
    else if (kind === "TCV") links.push({ ...e, kind: "throttle", k: setting, insideMm });
    else {
      miss("valveKind", "VALVES", l.at, `${e.id} ${kind ?? ""}`);
      links.push({ ...e, kind: "throttle", k: Number(l.words[6] ?? 0) || 0, insideMm });
    }
  }
  return { title: (of("TITLE")[0]?.words ?? []).join(" "), nodes, links, unfit };
}

function splitSections(text: string): Map<string, Line[]> {
  const sections = new Map<string, Line[]>();
  let name = "";
  for (const [i, raw] of text.split(/\r?\n/).entries()) {
    const line = (raw.split(";")[0] ?? "").trim();
    if (line === "") continue;
    const heading = /^\[(\w+)/.exec(line);
    if (heading) {
      name = (heading[1] as string).toUpperCase();
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
      ? [[0, ((points[0]?.[1] as number) * 4) / 3], points[0] as [number, number], [(points[0]?.[0] as number) * 2, 0]]
      : points;
  const [a, b, c] = three;
  if (three.length !== 3 || !a || !b || !c || a[0] !== 0) return three;
  const n = Math.log((a[1] - c[1]) / (a[1] - b[1])) / Math.log(c[0] / b[0]);
  if (!Number.isFinite(n) || n <= 0) return three;
  const k = (a[1] - b[1]) / b[0] ** n;
  const end = (a[1] / k) ** (1 / n);
  return Array.from({ length: 21 }, (_, i) => [(end * i) / 20, Math.max(0, a[1] - k * ((end * i) / 20) ** n)]);
}
