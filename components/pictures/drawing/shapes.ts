import { ceilings, deviceRules, type ElementCeiling, staticPressureKpa } from "@/core/ceilings/ceilings";
import type { Device, SiteFile, Station } from "@/core/site-file/schema";

/** A piece on a run of pipe: where along it, how wide the pipe is there, whether it binds. */
export type Piece = { id: string; device: Device; x: number; lpm: number | null; half: number; binds: boolean };
/** One element as a stretch of pipe in its own frame: the pipe's axis lies at `axisY`, water flows left to right. */
export type Shape = {
  id: string;
  kind: "source" | "poc" | "mainline";
  name: string;
  width: number;
  height: number;
  axisY: number;
  half: number;
  pieces: Piece[];
  ceiling: ElementCeiling;
  locked: boolean;
  /** Taken out of use: no water runs in it. */
  off: boolean;
  /** Where the pipe ends; beyond it stand the station stubs. */
  end: number;
  stations: Station[];
  open: boolean;
};
export type Joint = { from: string; to: string; half: number };
export type Shapes = { list: Shape[]; joints: Joint[]; compact: boolean };
export type Places = ReadonlyMap<string, { x: number; y: number }>;

const LEAST_HALF = 3;
const MOST_HALF = 15;
/** From so many connections and mainlines on, captions give way to names, or the whole would not read on one screen. */
const CROWDED = 8;
export const STATION_ROW = 17;
export const STATION_COLUMN = 168;
/** Room for a name and what binds beside it, where both stand on one line. */
const BOUND_WIDTH = 236;
const STATIONS_A_COLUMN = 10;

export type Scale = { piece: number; above: number; below: number };
export const FULL: Scale = { piece: 60, above: 76, below: 74 };
export const COMPACT: Scale = { piece: 40, above: 50, below: 27 };

type InUse = { enabled?: boolean | undefined; lockedOut?: boolean | undefined };

/** Every element of the waterworks as a shape. Pure: the same file gives the same shapes. */
export function shapes(site: SiteFile, options: { open?: ReadonlySet<string>; compact?: boolean } = {}): Shapes {
  const compact = options.compact ?? site.pocs.length + site.mainlines.length > CROWDED;
  const scale = compact ? COMPACT : FULL;
  const byId = new Map(ceilings(site).map((c) => [c.id, c]));
  const largest = Math.max(1, ...[...byId.values()].map((c) => c.ceilingLpm ?? 0));
  const half = (lpm: number | null): number =>
    (compact ? 0.8 : 1) *
    (lpm === null ? MOST_HALF : LEAST_HALF + (MOST_HALF - LEAST_HALF) * Math.min(1, lpm / largest));
  const height = scale.above + scale.below;
  const base = (id: string, kind: Shape["kind"], name: string, { enabled, lockedOut }: InUse) => {
    const ceiling = byId.get(id) as ElementCeiling;
    return {
      id,
      kind,
      name,
      ceiling,
      locked: lockedOut === true,
      off: enabled === false,
      half: half(ceiling.ceilingLpm),
      height,
      axisY: scale.above,
      stations: [] as Station[],
      open: false,
    };
  };
  const pieces = (devices: Device[], own: ElementCeiling, staticKpa: number | null, step: number): Piece[] =>
    devices.map((device, i) => {
      const rules = deviceRules(device, staticKpa).map((r) => r.lpm);
      const lpm = rules.length > 0 ? Math.min(...rules) : null;
      return {
        id: device.id,
        device,
        x: step * (i + 0.5),
        lpm,
        half: half(lpm),
        binds: own.boundBy?.deviceId === device.id,
      };
    });
  const nameWidth = (name: string): number => name.length * 7.4 + 14;

  const sources: Shape[] = site.sources.map((s) => {
    const width = Math.max(120, nameWidth(s.name) + (compact ? 62 : 0));
    return { ...base(s.id, "source", s.name, s), width, end: width, pieces: [] };
  });
  const pocs: Shape[] = site.pocs.map((p) => {
    const b = base(p.id, "poc", p.name, p);
    const width = Math.max(scale.piece * Math.max(2, p.devices.length), nameWidth(p.name), compact ? BOUND_WIDTH : 0);
    return { ...b, width, end: width, pieces: pieces(p.devices, b.ceiling, staticPressureKpa(site, p), scale.piece) };
  });
  const mains: Shape[] = site.mainlines.map((m) => {
    const b = base(m.id, "mainline", m.name, m);
    const devices: Device[] = [...(m.devices ?? []), ...m.pipes];
    const stations = site.stations.filter((s) => s.mainlineId === m.id);
    const step = scale.piece * 1.15;
    const open = options.open?.has(m.id) === true && stations.length > 0;
    const columns = open ? Math.ceil(stations.length / STATIONS_A_COLUMN) : 0;
    const end = Math.max(
      step * Math.max(1.6, devices.length),
      nameWidth(m.name),
      compact ? BOUND_WIDTH : 150,
      columns * STATION_COLUMN,
    );
    return {
      ...b,
      pieces: pieces(devices, b.ceiling, null, step),
      end,
      stations,
      open,
      width: end,
      height: height + (open ? Math.min(STATIONS_A_COLUMN, stations.length) * STATION_ROW + 10 : 0),
    };
  });
  const list = [...sources, ...pocs, ...mains];
  const halfOf = new Map(list.map((s) => [s.id, s.half]));
  const joint = (from: string, to: string): Joint[] =>
    halfOf.has(from) && halfOf.has(to)
      ? [{ from, to, half: Math.min(halfOf.get(from) as number, halfOf.get(to) as number) }]
      : [];
  return {
    list,
    compact,
    joints: [
      ...site.pocs.flatMap((p) => p.sourceIds.flatMap((s) => joint(s, p.id))),
      ...site.mainlines.flatMap((m) => m.feedIds.flatMap((f) => joint(f, m.id))),
    ],
  };
}

/** Columns by depth and rows by feed: where everything stands until it is arranged or moved. */
export function rows(site: SiteFile, { list, joints, compact }: Shapes): Places {
  const of = new Map(list.map((s) => [s.id, s]));
  const depth = new Map<string, number>();
  const rowOf = new Map<string, number>();
  let row = 0;
  const fedBy = (id: string): string[] =>
    joints.filter((j) => j.from === id && of.get(j.to)?.kind === "mainline").map((j) => j.to);
  const place = (id: string, at: number, level: number): void => {
    depth.set(id, Math.max(level, depth.get(id) ?? 0));
    if (rowOf.has(id)) return;
    rowOf.set(id, at);
    row = Math.max(row, at + 1);
    for (const [i, child] of fedBy(id).entries()) place(child, i === 0 && !rowOf.has(child) ? at : row, level + 1);
  };
  // Connections that feed a main together stand together.
  const sharing = (a: string, b: string): boolean => fedBy(a).some((m) => fedBy(b).includes(m));
  for (const p of site.pocs)
    if (!rowOf.has(p.id)) for (const q of site.pocs) if (q === p || sharing(p.id, q.id)) place(q.id, row, 1);
  for (const m of site.mainlines) if (!rowOf.has(m.id)) place(m.id, row, 2);
  const taken = new Set<number>();
  for (const s of site.sources) {
    const wanted = Math.min(
      ...site.pocs.filter((p) => p.sourceIds.includes(s.id)).map((p) => rowOf.get(p.id) as number),
      Number.POSITIVE_INFINITY,
    );
    let at = Number.isFinite(wanted) ? wanted : row;
    while (taken.has(at)) at++;
    taken.add(at);
    rowOf.set(s.id, at);
    depth.set(s.id, 0);
    row = Math.max(row, at + 1);
  }
  const columns: number[] = [];
  for (const s of list) columns[depth.get(s.id) as number] = Math.max(columns[depth.get(s.id) as number] ?? 0, s.width);
  const left = columns.map((_, i) => columns.slice(0, i).reduce((sum, w) => sum + (w ?? 0) + 64, 0));
  const heights = Array.from({ length: row }, (_, r) =>
    Math.max(0, ...list.filter((s) => rowOf.get(s.id) === r).map((s) => s.height)),
  );
  const top = heights.map((_, r) => heights.slice(0, r).reduce((sum, h) => sum + h + (compact ? 4 : 10), 0));
  return new Map(
    list.map((s) => [
      s.id,
      { x: left[depth.get(s.id) as number] as number, y: top[rowOf.get(s.id) as number] as number },
    ]),
  );
}

/** Outline of a run whose half-thickness follows its pieces: the pinch is where it is narrowest. */
export function outline(shape: Shape): { top: string; bottom: string; body: string } {
  const reach = shape.pieces.length > 1 ? ((shape.pieces[1]?.x ?? 0) - (shape.pieces[0]?.x ?? 0)) / 3 : 20;
  const points: [number, number][] = [[0, shape.pieces[0]?.half ?? shape.half]];
  for (const p of shape.pieces) points.push([p.x - reach, p.half], [p.x + reach, p.half]);
  points.push([shape.end, shape.pieces[shape.pieces.length - 1]?.half ?? shape.half]);
  const y = shape.axisY;
  const top = points.map(([x, h], i) => `${i === 0 ? "M" : "L"}${x} ${y - h}`).join(" ");
  const bottom = points.map(([x, h], i) => `${i === 0 ? "M" : "L"}${x} ${y + h}`).join(" ");
  const back = [...points]
    .reverse()
    .map(([x, h]) => `L${x} ${y + h}`)
    .join(" ");
  return { top, bottom, body: `${top} ${back} Z` };
}

/** The way of a joint from one shape's end to another's beginning: level, a bend, down or up, a bend, level. */
export function jointPath(from: { x: number; y: number }, to: { x: number; y: number }): string {
  if (Math.abs(from.y - to.y) < 0.5) return `M${from.x} ${from.y} H${to.x}`;
  const mid = to.x > from.x + 40 ? Math.max(from.x + 20, to.x - 32) : (from.x + to.x) / 2;
  const r = Math.min(16, Math.abs(to.y - from.y) / 2, Math.max(2, Math.abs(to.x - from.x) / 3));
  const down = to.y > from.y ? 1 : -1;
  if (to.x < from.x + 24) return `M${from.x} ${from.y} C${from.x + 60} ${from.y} ${to.x - 60} ${to.y} ${to.x} ${to.y}`;
  return `M${from.x} ${from.y} H${mid - r} Q${mid} ${from.y} ${mid} ${from.y + down * r} V${to.y - down * r} Q${mid} ${to.y} ${mid + r} ${to.y} H${to.x}`;
}
