import { ceilings, deviceRules, type ElementCeiling, staticPressureKpa } from "@/core/ceilings/ceilings";
import type { Device, SiteFile } from "@/core/site-file/schema";

/** Where everything of the drawing stands, in drawing units. Pure: the same file gives the same drawing. */
export type Piece = { id: string; device: Device; x: number; lpm: number | null; half: number; binds: boolean };
export type Run = { id: string; name: string; x: number; y: number; end: number; half: number; pieces: Piece[]; ceiling: ElementCeiling; locked: boolean };
export type Link = { from: string; to: string; d: string; half: number };
export type Drawing = { width: number; height: number; sources: Run[]; pocs: Run[]; mainlines: (Run & { stations: number })[]; links: Link[] };

const ROW = 146;
const PIECE = 60;
const LEAST = 3;
const MOST = 15;

export function drawing(site: SiteFile): Drawing {
  const byId = new Map(ceilings(site).map((c) => [c.id, c]));
  const ceiling = (id: string): ElementCeiling => byId.get(id) as ElementCeiling;
  const largest = Math.max(1, ...[...byId.values()].map((c) => c.ceilingLpm ?? 0));
  const half = (lpm: number | null): number => (lpm === null ? MOST : LEAST + (MOST - LEAST) * Math.min(1, lpm / largest));

  const rowOfMain = new Map<string, number>();
  const depth = new Map<string, number>();
  let row = 0;
  const children = (id: string): string[] => site.mainlines.filter((m) => m.feedIds.includes(id)).map((m) => m.id);
  const place = (id: string, at: number, level: number): void => {
    depth.set(id, Math.max(level, depth.get(id) ?? 0));
    if (rowOfMain.has(id)) return;
    rowOfMain.set(id, at);
    row = Math.max(row, at + 1);
    for (const [i, child] of children(id).entries()) place(child, i === 0 && !rowOfMain.has(child) ? at : row, level + 1);
  };
  const rowOfPoc = new Map<string, number>();
  for (const p of site.pocs) {
    const fed = children(p.id).filter((m) => !rowOfMain.has(m));
    rowOfPoc.set(p.id, row);
    if (fed.length === 0) row++;
    for (const m of fed) place(m, row, 0);
  }
  for (const m of site.mainlines) if (!rowOfMain.has(m.id)) place(m.id, row, 0);
  const rowOfSource = new Map<string, number>();
  for (const s of site.sources) {
    const wanted = Math.min(...site.pocs.filter((p) => p.sourceIds.includes(s.id)).map((p) => rowOfPoc.get(p.id) as number), Number.POSITIVE_INFINITY);
    let at = Number.isFinite(wanted) ? wanted : row;
    while ([...rowOfSource.values()].includes(at)) at++;
    rowOfSource.set(s.id, at);
    row = Math.max(row, at + 1);
  }
  const y = (r: number): number => 78 + r * ROW;

  const pieces = (devices: Device[], x: number, own: ElementCeiling, staticKpa: number | null): Piece[] =>
    devices.map((device, i) => {
      const rules = deviceRules(device, staticKpa).map((r) => r.lpm);
      const lpm = rules.length > 0 ? Math.min(...rules) : null;
      return { id: device.id, device, x: x + PIECE * (i + 0.5), lpm, half: half(lpm ?? null), binds: own.boundBy?.deviceId === device.id };
    });

  const sources: Run[] = site.sources.map((s) => ({ id: s.id, name: s.name, x: 20, y: y(rowOfSource.get(s.id) as number), end: 118, half: half(ceiling(s.id).ceilingLpm), pieces: [], ceiling: ceiling(s.id), locked: s.enabled === false }));
  const pocX = 172;
  const pocs: Run[] = site.pocs.map((p) => ({
    id: p.id, name: p.name, x: pocX, y: y(rowOfPoc.get(p.id) as number), end: pocX + PIECE * Math.max(2, p.devices.length), half: half(ceiling(p.id).ceilingLpm),
    pieces: pieces(p.devices, pocX, ceiling(p.id), staticPressureKpa(site, p)), ceiling: ceiling(p.id), locked: p.lockedOut === true,
  }));
  let x = Math.max(pocX + 2 * PIECE, ...pocs.map((p) => p.end)) + 62;
  const mainlines: Drawing["mainlines"] = [];
  for (let level = 0; level <= Math.max(0, ...depth.values()); level++) {
    const here = site.mainlines.filter((m) => depth.get(m.id) === level);
    let end = x;
    for (const m of here) {
      const devices: Device[] = [...(m.devices ?? []), ...m.pipes];
      const mine = site.stations.filter((s) => s.mainlineId === m.id);
      const run = {
        id: m.id, name: m.name, x, y: y(rowOfMain.get(m.id) as number), end: x + PIECE * 1.25 * Math.max(1.6, devices.length), half: half(ceiling(m.id).ceilingLpm),
        pieces: pieces(devices, x, ceiling(m.id), null).map((p, i) => ({ ...p, x: x + PIECE * 1.25 * (i + 0.5) })), ceiling: ceiling(m.id), locked: m.lockedOut === true,
        stations: mine.length,
      };
      mainlines.push(run);
      end = Math.max(end, run.end);
    }
    x = end + 84;
  }
  const runOf = new Map([...sources, ...pocs, ...mainlines].map((r) => [r.id, r as Run]));
  const links: Link[] = [
    ...site.pocs.flatMap((p) => p.sourceIds.map((s) => link(runOf.get(s), runOf.get(p.id)))),
    ...site.mainlines.flatMap((m) => m.feedIds.map((f) => link(runOf.get(f), runOf.get(m.id)))),
  ].filter((l): l is Link => l !== null);
  return { width: x - 20, height: y(Math.max(1, row) - 1) + 92, sources, pocs, mainlines, links };
}

function link(a: Run | undefined, b: Run | undefined): Link | null {
  if (!a || !b) return null;
  const mid = Math.max(a.end + 20, b.x - 30);
  const r = Math.min(16, Math.abs(b.y - a.y) / 2);
  const down = b.y > a.y ? 1 : -1;
  const d = a.y === b.y
    ? `M${a.end} ${a.y} H${b.x}`
    : `M${a.end} ${a.y} H${mid - r} Q${mid} ${a.y} ${mid} ${a.y + down * r} V${b.y - down * r} Q${mid} ${b.y} ${mid + r} ${b.y} H${b.x}`;
  return { from: a.id, to: b.id, d, half: Math.min(a.half, b.half) };
}

/** Outline of a run whose half-thickness follows its pieces: the pinch is where it is narrowest. */
export function outline(run: Run): { top: string; bottom: string; body: string } {
  const points: [number, number][] = [[run.x, run.pieces[0] ? run.pieces[0].half : run.half]];
  for (const p of run.pieces) points.push([p.x - 20, p.half], [p.x + 20, p.half]);
  points.push([run.end, run.pieces[run.pieces.length - 1]?.half ?? run.half]);
  const top = points.map(([x, h], i) => `${i === 0 ? "M" : "L"}${x} ${run.y - h}`).join(" ");
  const bottom = points.map(([x, h], i) => `${i === 0 ? "M" : "L"}${x} ${run.y + h}`).join(" ");
  const back = [...points].reverse().map(([x, h]) => `L${x} ${run.y + h}`).join(" ");
  return { top, bottom, body: `${top} ${back} Z` };
}
