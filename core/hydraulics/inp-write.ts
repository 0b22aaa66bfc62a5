import { got, nth } from "../checked.ts";
import { KPA_PER_METRE_OF_WATER } from "../units/units.ts";
import { expectedFlow } from "../site-file/expected-flow.ts";
import type { SiteFile } from "../site-file/schema.ts";
import { lossFromPoints } from "./device-loss.ts";
import { type FlowPoint, type HydraulicModel, type ModelLink, networkModel } from "./network-model.ts";

const GRAVITY = 9.80665;
/** Pieces without a bore of their own, and joints, are given this one. */
export const NEUTRAL_MM = 300;
const NEUTRAL_C = 150;
export const JOINT_M = 0.1;

/** Flow at which a loss that does not depend on flow is fully there, L/min; and one that no site reaches. */
const RAMP_LPM = 0.5;
export const LARGE_LPM = 100_000;

/** Pattern of stations that do not draw in the set shown. */
export const SHUT_PATTERN = "presa_shut";

export type InpText = { text: string; nodeIds: string[]; linkIds: string[] };

export type InpDraws = {
  /** Base demand of each station, by place in the file, L/min. */
  stationLpm: number[];
  /** Stations that draw in the set which the file shows; the others stand in it with a pattern of 0. Absent: all. */
  running?: Set<number>;
};

/**
 * The network as an EPANET input file (format of EPANET 2.2; L/min, m, mm). Elements keep what they are in [TAGS], so that the
 * file read back gives the same waterworks; other programs read it as an ordinary network.
 * @param draws absent: none draws.
 * @param names of elements and devices by id, kept in the tags.
 */
export function writeInp(
  model: HydraulicModel,
  title: string,
  draws?: InpDraws,
  names: ReadonlyMap<string, string> = new Map(),
): InpText {
  const taken = new Set<string>();
  const nodeIds = model.nodes.map((n, i) =>
    freshId(n.stationId ?? (n.kind === "reservoir" ? n.subjectId : `${n.subjectId}.${i}`), taken),
  );
  taken.clear();
  const linkIds = model.links.map((l, i) => freshId(l.deviceId ? `${l.deviceId}.${i}` : `${l.subjectId}.${i}`, taken));
  const station = new Map(model.stationNode.map((n, s) => [n, s]));
  const named = (id: string | undefined): string => names.get(id ?? "") ?? "";
  const out = {
    junctions: [] as string[],
    reservoirs: [] as string[],
    pipes: [] as string[],
    pumps: [] as string[],
    valves: [] as string[],
    curves: [] as string[],
    tags: [] as string[],
  };
  model.nodes.forEach((n, i) => {
    if (n.kind === "reservoir") out.reservoirs.push(`${nodeIds[i]} ${fix(n.headM ?? 0)}`);
    else {
      const s = station.get(i);
      const shut = s !== undefined && draws?.running !== undefined && !draws.running.has(s);
      out.junctions.push(
        `${nodeIds[i]} ${fix(n.elevationM)} ${fix(s === undefined ? 0 : (draws?.stationLpm[s] ?? 0))}${shut ? ` ${SHUT_PATTERN}` : ""}`,
      );
    }
    const inner = n.stationId ? "station" : "node";
    out.tags.push(
      `NODE ${nodeIds[i]} ${tag(n.kind === "reservoir" ? "source" : inner, n.stationId ?? n.subjectId, n.kind === "reservoir" ? fix(n.elevationM) : n.subjectId, named(n.stationId ?? n.subjectId))}`,
    );
  });
  const ways = waysIn(model);
  model.links.forEach((l, i) => {
    writeLink(l, needsCheck(l, ways), `${linkIds[i]} ${nodeIds[l.from]} ${nodeIds[l.to]}`, `c${i}`, out);
  });
  model.links.forEach((l, i) => {
    out.tags.push(
      `LINK ${linkIds[i]} ${tag(l.kind, l.subjectId, l.deviceId ?? "", l.deviceKind ?? "", named(l.subjectId), named(l.deviceId))}`,
    );
  });
  const section = (name: string, lines: string[]): string =>
    lines.length > 0 ? `[${name}]\n${lines.join("\n")}\n\n` : "";
  const text =
    `[TITLE]\n${title.replace(/[[\]\r\n;]/g, " ").slice(0, 200)}\n\n` +
    section("JUNCTIONS", out.junctions) +
    section("RESERVOIRS", out.reservoirs) +
    section("PIPES", out.pipes) +
    section("PUMPS", out.pumps) +
    section("VALVES", out.valves) +
    section("CURVES", out.curves) +
    section("PATTERNS", draws?.running ? [`${SHUT_PATTERN} 0`] : []) +
    section("TAGS", out.tags) +
    section("COORDINATES", coordinates(model, nodeIds)) +
    section("OPTIONS", [
      "UNITS LPM",
      "HEADLOSS H-W",
      "ACCURACY 0.00001",
      "TRIALS 200",
      "UNBALANCED CONTINUE 20",
      "DAMPLIMIT 0.01",
    ]) +
    section("TIMES", ["DURATION 0"]) +
    "[END]\n";
  return { text, nodeIds, linkIds };
}

type Out = { pipes: string[]; pumps: string[]; valves: string[]; curves: string[] };

/** How many links lead into each node. */
function waysIn(model: HydraulicModel): number[] {
  const ways = model.nodes.map(() => 0);
  for (const l of model.links) ways[l.to] = nth(ways, l.to) + 1;
  return ways;
}

/** Water could come back through a joint only where another way in meets it. */
function needsCheck(l: ModelLink, ways: number[]): boolean {
  return l.kind === "bypass" || (l.kind === "joint" && nth(ways, l.to) > 1);
}

function writeLink(l: ModelLink, oneWay: boolean, ends: string, curve: string, out: Out): void {
  switch (l.kind) {
    case "pipe":
      out.pipes.push(`${ends} ${fix(l.lengthM)} ${fix(l.insideMm)} ${fix(l.c)} ${fix(l.minorK)} OPEN`);
      return;
    case "joint":
    case "bypass":
      out.pipes.push(`${ends} ${JOINT_M} ${NEUTRAL_MM} ${NEUTRAL_C} 0 ${oneWay ? "CV" : "OPEN"}`);
      return;
    case "supply":
      out.pipes.push(`${ends} ${fix(supplyLengthM(l.dropKpa, l.atLpm))} ${NEUTRAL_MM} ${NEUTRAL_C} 0 OPEN`);
      return;
    case "pump":
      out.pumps.push(`${ends} HEAD ${curve}`);
      // Four points at least, or a solver would fit its own curve through three.
      for (const p of fourPoints(l.points)) out.curves.push(`${curve} ${fix(p.flowLpm)} ${fix(p.headM)}`);
      return;
    case "fixedLoss":
      lossCurve(
        [
          { flowLpm: 0, lossKpa: l.lossKpa },
          { flowLpm: LARGE_LPM, lossKpa: l.lossKpa },
        ],
        ends,
        curve,
        out,
      );
      return;
    case "regulator":
      out.valves.push(`${ends} ${NEUTRAL_MM} PRV ${fix(l.setKpa / KPA_PER_METRE_OF_WATER)} 0`);
      return;
    case "quadraticLoss":
      out.valves.push(`${ends} ${NEUTRAL_MM} TCV ${fix(lossCoefficient(l.lossKpa, l.atLpm))} 0`);
      return;
    case "lossCurve":
      lossCurve(l.points, ends, curve, out);
      return;
  }
}

/** A loss that is there from the first drop begins with a short ramp: a step at no flow leaves a solver without a slope. */
function lossCurve(points: FlowPoint[], ends: string, curve: string, out: Out): void {
  out.valves.push(`${ends} ${NEUTRAL_MM} GPV ${curve} 0`);
  const first = nth(points, 0);
  const ramped =
    first.lossKpa > 0
      ? [
          { flowLpm: 0, lossKpa: 0 },
          { flowLpm: RAMP_LPM, lossKpa: lossFromPoints(points, RAMP_LPM) },
          ...points.filter((p) => p.flowLpm > RAMP_LPM),
        ]
      : points;
  for (const p of ramped) out.curves.push(`${curve} ${fix(p.flowLpm)} ${fix(p.lossKpa / KPA_PER_METRE_OF_WATER)}`);
}

/** The points without that ramp. */
export function withoutRamp(points: FlowPoint[]): FlowPoint[] {
  const [zero, ramp, next] = points;
  if (!zero || !ramp || !next || zero.flowLpm !== 0 || zero.lossKpa !== 0 || Math.abs(ramp.flowLpm - RAMP_LPM) > 1e-6)
    return points;
  const slope = (next.lossKpa - ramp.lossKpa) / (next.flowLpm - ramp.flowLpm);
  return [{ flowLpm: 0, lossKpa: ramp.lossKpa - slope * RAMP_LPM }, ...points.slice(2)];
}

/** Length of the neutral pipe that loses `dropKpa` at `atLpm` by Hazen–Williams, whose power of flow is the supply's own. */
export function supplyLengthM(dropKpa: number, atLpm: number): number {
  const perMetre = (10.67 * (atLpm / 60_000) ** 1.852) / (NEUTRAL_C ** 1.852 * (NEUTRAL_MM / 1000) ** 4.8704);
  return dropKpa / KPA_PER_METRE_OF_WATER / perMetre;
}

/** What such a neutral pipe loses at a flow, kPa; the inverse of {@link supplyLengthM}. */
export function supplyDropKpa(lengthM: number, atLpm: number): number {
  return lengthM / supplyLengthM(1, atLpm);
}

/** K of v²/2g in the neutral bore for a loss that goes with the square of flow. */
export function lossCoefficient(lossKpa: number, atLpm: number): number {
  const v = atLpm / 60_000 / ((Math.PI / 4) * (NEUTRAL_MM / 1000) ** 2);
  return ((lossKpa / KPA_PER_METRE_OF_WATER) * 2 * GRAVITY) / v ** 2;
}

function fourPoints(points: { flowLpm: number; headM: number }[]): { flowLpm: number; headM: number }[] {
  if (points.length !== 3) return points;
  const [a, b] = [points[0], points[1]] as [(typeof points)[number], (typeof points)[number]];
  return [a, { flowLpm: (a.flowLpm + b.flowLpm) / 2, headM: (a.headM + b.headM) / 2 }, ...points.slice(1)];
}

/** A plain picture for other programs: distance from the source across, one row for each branch. */
function coordinates(model: HydraulicModel, ids: string[]): string[] {
  const x = model.nodes.map(() => 0);
  for (let round = 0; round < model.nodes.length; round++) {
    let moved = false;
    for (const l of model.links) {
      const want = nth(x, l.from) + (l.kind === "pipe" ? Math.max(5, l.lengthM) : 5);
      if (want > nth(x, l.to) + 1e-9) {
        x[l.to] = want;
        moved = true;
      }
    }
    if (!moved) break;
  }
  const row = new Map<string, number>();
  for (const n of model.nodes) if (!row.has(n.subjectId)) row.set(n.subjectId, row.size);
  return model.nodes.map((n, i) => `${ids[i]} ${fix(nth(x, i))} ${fix(-40 * got(row, n.subjectId))}`);
}

const fix = (value: number): string => String(Number(value.toPrecision(12)));
const tag = (...parts: string[]): string => `presa/${parts.map(encodeURIComponent).join("/")}`;

function freshId(wanted: string, taken: Set<string>): string {
  const plain = wanted.replace(/[^A-Za-z0-9_.-]/g, "_").slice(0, 24) || "x";
  let id = plain;
  for (let n = 2; taken.has(id); n++) id = `${plain}_${n}`;
  taken.add(id);
  return id;
}

/** The whole site as an input file: every station with its expected flow, of which those of `running` draw (absent: all). */
export function exportInp(site: SiteFile, running?: Set<number>): string {
  const names = new Map(
    [...site.sources, ...site.pocs, ...site.mainlines, ...site.stations].map((e) => [e.id, e.name]),
  );
  for (const d of [
    ...site.pocs.flatMap((p) => p.devices),
    ...site.mainlines.flatMap((m) => [...m.pipes, ...(m.devices ?? [])]),
  ])
    if (d.name !== undefined) names.set(d.id, d.name);
  return writeInp(
    networkModel(site),
    site.site.name,
    { stationLpm: site.stations.map((s) => expectedFlow(s)?.lpm ?? 0), ...(running ? { running } : {}) },
    names,
  ).text;
}
