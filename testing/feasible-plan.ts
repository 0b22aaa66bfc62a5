import { ceilings } from "../core/ceilings/ceilings.ts";
import type { Plan } from "../core/dispatch/plan.ts";
import { expectedFlow } from "../core/site-file/expected-flow.ts";
import type { SiteFile } from "../core/site-file/schema.ts";

/**
 * Judges a plan without knowing how it was made: ceilings at every moment (Edmonds–Karp on a matrix, not the
 * dispatcher's own assignment), soaks, delays, numbers at once, every due second run or in the shortfalls, and the
 * plan's own figures. Returns what is wrong, in words; empty when feasible.
 */
export function planFaults(site: SiteFile, plan: Plan, dueSeconds: Map<string, number>): string[] {
  const wrong: string[] = [];
  const runs = plan.runs.map((r) => ({ ...r, s: Date.parse(r.start) / 1000, e: Date.parse(r.end) / 1000 }));
  const station = new Map(site.stations.map((s) => [s.id, s]));
  const flow = (id: string): number => expectedFlow(station.get(id) as SiteFile["stations"][number])?.lpm ?? 0;
  const moments = [...new Set(runs.map((r) => r.s))];

  for (const t of moments) {
    const now = runs.filter((r) => r.s <= t && t < r.e);
    if (
      !carries(
        site,
        now.map((r) => ({ main: station.get(r.stationId)?.mainlineId as string, lpm: flow(r.stationId) })),
      )
    )
      wrong.push(`over a ceiling at ${t}: ${now.map((r) => r.stationId).join(" ")}`);
    const count = (of: (r: (typeof now)[number]) => boolean): number => now.filter(of).length;
    for (const p of site.programs)
      if (count((r) => r.programId === p.id) > (p.maxStationsAtOnce ?? 1))
        wrong.push(`program ${p.id}: too many at once`);
    for (const c of site.controllers)
      if (count((r) => station.get(r.stationId)?.controllerId === c.id) > (c.maxStationsAtOnce ?? Infinity))
        wrong.push(`controller ${c.id}: too many at once`);
    if (now.length > (site.site.maxStationsAtOnce ?? Infinity)) wrong.push("site: too many at once");
    if (new Set(now.map((r) => r.stationId)).size !== now.length) wrong.push("a station runs twice at once");
  }
  for (const p of site.programs) {
    const mine = runs.filter((r) => r.programId === p.id);
    for (const a of mine)
      for (const b of mine) if (b.s >= a.e && b.s < a.e + (p.delayS ?? 0)) wrong.push(`program ${p.id}: delay broken`);
  }
  for (const a of runs)
    for (const b of runs)
      if (
        a.stationId === b.stationId &&
        a.programId === b.programId &&
        b.cycle === a.cycle + 1 &&
        b.s >= a.e &&
        b.s <
          a.e +
            60 * (station.get(a.stationId)?.soakMin ?? site.programs.find((p) => p.id === a.programId)?.soakMin ?? 0)
      )
        wrong.push(`${a.stationId}: soak broken`);

  const done = new Map<string, number>();
  const add = (key: string, s: number): void => {
    done.set(key, (done.get(key) ?? 0) + s);
  };
  for (const r of runs) add(`${r.stationId}|${r.programId}`, r.e - r.s);
  for (const s of plan.shortfalls) add(`${s.stationId}|${s.programId}`, Math.round(s.minutes * 60));
  for (const key of new Set([...done.keys(), ...dueSeconds.keys()]))
    if ((done.get(key) ?? 0) !== (dueSeconds.get(key) ?? 0))
      wrong.push(`${key}: ${done.get(key) ?? 0} s run or short, ${dueSeconds.get(key) ?? 0} s due`);

  const finish = runs.length > 0 ? Math.max(...runs.map((r) => r.e)) : null;
  if ((plan.finish === null ? null : Date.parse(plan.finish) / 1000) !== finish)
    wrong.push("finish is not the last close");
  if (plan.lowerBoundS > plan.makespanS + 1e-3)
    wrong.push(`lower bound ${plan.lowerBoundS} above the makespan ${plan.makespanS}`);
  if (plan.lateStartBoundS > plan.makespanS + 1e-3 || plan.lateStartBoundS < plan.lowerBoundS - 1e-9)
    wrong.push(`late-start bound ${plan.lateStartBoundS} outside ${plan.lowerBoundS} to ${plan.makespanS}`);
  if (plan.ratio !== null && Math.abs(plan.ratio - plan.makespanS / plan.lowerBoundS) > 1e-9)
    wrong.push("ratio is not makespan ÷ bound");
  for (const peak of plan.peaks)
    if (peak.ceilingLpm !== null && peak.lpm > peak.ceilingLpm + 1e-5) wrong.push(`${peak.id}: peak above its ceiling`);
  return wrong;
}

/** Is there a flow that carries this demand? Edmonds–Karp on a matrix of node-split elements. */
export function carries(site: SiteFile, demand: { main: string; lpm: number }[]): boolean {
  const limit = new Map(ceilings(site).map((c) => [c.id, c.ceilingLpm ?? 1e9]));
  const names = [
    "S",
    "T",
    ...[...site.sources, ...site.pocs, ...site.mainlines].flatMap((e) => [`${e.id}<`, `${e.id}>`]),
  ];
  const at = new Map(names.map((n, i) => [n, i]));
  const n = names.length;
  const cap = Array.from({ length: n }, () => new Float64Array(n));
  const put = (a: string, b: string, c: number): void => {
    (cap[at.get(a) as number] as Float64Array)[at.get(b) as number] =
      ((cap[at.get(a) as number] as Float64Array)[at.get(b) as number] ?? 0) + c;
  };
  for (const e of [...site.sources, ...site.pocs, ...site.mainlines])
    put(`${e.id}<`, `${e.id}>`, limit.get(e.id) as number);
  for (const s of site.sources) if (s.enabled !== false) put("S", `${s.id}<`, 1e9);
  for (const p of site.pocs) for (const s of p.sourceIds) put(`${s}>`, `${p.id}<`, 1e9);
  for (const m of site.mainlines) for (const f of m.feedIds) put(`${f}>`, `${m.id}<`, 1e9);
  for (const d of demand) put(`${d.main}>`, "T", d.lpm);
  const wanted = demand.reduce((a, d) => a + d.lpm, 0);
  let carried = 0;
  for (;;) {
    const from = new Int32Array(n).fill(-1);
    from[0] = 0;
    const queue = [0];
    for (let i = 0; i < queue.length && from[1] === -1; i++)
      for (let v = 0; v < n; v++)
        if (from[v] === -1 && ((cap[queue[i] as number] as Float64Array)[v] as number) > 1e-9) {
          from[v] = queue[i] as number;
          queue.push(v);
        }
    if (from[1] === -1) return carried >= wanted - 1e-4;
    let room = Infinity;
    for (let v = 1; v !== 0; v = from[v] as number)
      room = Math.min(room, (cap[from[v] as number] as Float64Array)[v] as number);
    for (let v = 1; v !== 0; v = from[v] as number) {
      const u = from[v] as number;
      (cap[u] as Float64Array)[v] = ((cap[u] as Float64Array)[v] as number) - room;
      (cap[v] as Float64Array)[u] = ((cap[v] as Float64Array)[u] as number) + room;
    }
    carried += room;
  }
}
