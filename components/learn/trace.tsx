"use client";
import { showNumber, showQuantity, toShown, type UnitSystem, unitLabel } from "@/core/units/units";

export type TracePoint = { at: number; lpm: number; settling: boolean };
const W = 900;
const H = 190;

/** Flow as it is read, second by second; readings in the hold-off are pale, the sample window solid. */
export function Trace({ points, expectedLpm, units }: { points: TracePoint[]; expectedLpm: number | null; units: UnitSystem }) {
  const first = points[0]?.at ?? 0;
  const span = Math.max(120, (points[points.length - 1]?.at ?? 0) - first);
  const top = Math.max(10, (expectedLpm ?? 0) * 1.5, ...points.map((p) => p.lpm)) * 1.05;
  const x = (at: number): number => 46 + ((at - first) / span) * (W - 56);
  const y = (lpm: number): number => H - 24 - (lpm / top) * (H - 40);
  const line = (list: TracePoint[]): string => list.map((p, i) => `${i === 0 ? "M" : "L"}${x(p.at).toFixed(1)} ${y(p.lpm).toFixed(1)}`).join(" ");
  const settled = points.filter((p) => !p.settling);
  const now = points[points.length - 1];
  return (
    <svg viewBox={`0 0 ${W} ${H}`} className="w-full max-w-5xl bg-base-200" role="img" aria-label={now ? `Reading ${showQuantity(now.lpm, "flow", units, 1)}` : "No reading yet"}>
      {[0, 0.5, 1].map((f) => <g key={f}><line x1="46" x2={W - 10} y1={y(top * f)} y2={y(top * f)} stroke="var(--hair)" /><text x="40" y={y(top * f) + 4} fontSize="12" textAnchor="end" fill="var(--faint)">{showNumber(toShown(top * f, "flow", units))}</text></g>)}
      {expectedLpm !== null && expectedLpm > 0 && <><line x1="46" x2={W - 10} y1={y(expectedLpm)} y2={y(expectedLpm)} stroke="var(--ink)" strokeDasharray="4 4" /><text x={W - 12} y={y(expectedLpm) - 5} fontSize="12" textAnchor="end" fill="var(--ink)">stands now {showQuantity(expectedLpm, "flow", units, 1)}</text></>}
      <path d={line(points)} fill="none" stroke="var(--water)" strokeWidth="1.2" opacity="0.5" />
      <path d={line(settled)} fill="none" stroke="var(--water)" strokeWidth="2.4" />
      <text x="46" y={H - 6} fontSize="12" fill="var(--faint)">{unitLabel("flow", units)}; seconds since opening: {now ? now.at - first : 0}; pale in hold-off</text>
    </svg>
  );
}
