"use client";
import { expectedFlow } from "@/core/site-file/expected-flow";
import type { Station } from "@/core/site-file/schema";
import { showNumber, toShown, type UnitSystem, unitLabel } from "@/core/units/units";

type Props = {
  range: { minLpm: number | null; maxLpm: number | null };
  stations: Station[];
  ceilingLpm: number | null;
  burstLpm: number | undefined;
  offScheduleLpm: number | undefined;
  units: UnitSystem;
};

/** Flow on a log scale: what the body sees between its ends, every station a tick, ceiling and limits marked. */
export function RangeBar({ range, stations, ceilingLpm, burstLpm, offScheduleLpm, units }: Props) {
  const flows = stations.flatMap((s) => expectedFlow(s)?.lpm ?? []).filter((f) => f > 0);
  const marks = [range.minLpm, range.maxLpm, ceilingLpm, burstLpm, offScheduleLpm, ...flows].filter(
    (v): v is number => v !== null && v !== undefined && v > 0 && Number.isFinite(v),
  );
  if (marks.length === 0)
    return <p className="text-faint">Enter the inside diameter, or the smallest and largest flow, to see its range.</p>;
  const lo = Math.log10(Math.min(...marks) / 1.6);
  const hi = Math.log10(Math.max(...marks) * 1.4);
  const W = 860;
  const x = (v: number): number => 10 + ((Math.log10(v) - lo) / (hi - lo)) * (W - 20);
  const show = (v: number): string => showNumber(toShown(v, "flow", units), v < 100 || units === "us" ? 1 : 0);
  const flags: [number | null | undefined, string, string][] = [
    [range.minLpm, "smallest", "var(--ink)"],
    [offScheduleLpm, "off-schedule", "var(--caution)"],
    [ceilingLpm, "ceiling", "var(--ink)"],
    [burstLpm, "burst", "var(--alarm)"],
    [range.maxLpm, "largest", "var(--ink)"],
  ];
  const placed = flags
    .filter(([v]) => v !== null && v !== undefined && v > 0)
    .map(([v, word, colour], i) => ({ v: v as number, word, colour, row: i % 2 }));
  return (
    <svg
      viewBox={`0 0 ${W} 118`}
      className="w-full max-w-4xl"
      role="img"
      aria-label={`Range ${range.minLpm === null ? "unknown" : show(range.minLpm)} to ${range.maxLpm === null ? "unknown" : show(range.maxLpm)} ${unitLabel("flow", units)}; ${flows.length} stations from ${flows.length ? show(Math.min(...flows)) : "–"} to ${flows.length ? show(Math.max(...flows)) : "–"}`}
    >
      <rect x="10" y="52" width={W - 20} height="16" fill="var(--bed)" />
      {range.minLpm !== null && range.maxLpm !== null && (
        <rect
          x={x(range.minLpm)}
          y="52"
          width={Math.max(1, x(range.maxLpm) - x(range.minLpm))}
          height="16"
          fill="color-mix(in oklab, var(--water) 40%, var(--paper))"
          stroke="var(--ink)"
        />
      )}
      {flows.map((f, i) => {
        const unseen = range.minLpm !== null && f < range.minLpm;
        return unseen ? (
          <path key={`${i}-${f}`} d={`M${x(f)} 70 l5 9 h-10 Z`} fill="none" stroke="var(--caution)" strokeWidth="1.6" />
        ) : (
          <line key={`${i}-${f}`} x1={x(f)} x2={x(f)} y1="69" y2="80" stroke="var(--water)" strokeWidth="2" />
        );
      })}
      {placed.map(({ v, word, colour, row }) => (
        <g key={word}>
          <line x1={x(v)} x2={x(v)} y1={row === 0 ? 30 : 14} y2="68" stroke={colour} strokeWidth="1.6" />
          <text
            x={Math.min(W - 60, Math.max(50, x(v)))}
            y={row === 0 ? 26 : 10}
            fontSize="13"
            textAnchor="middle"
            fill={colour}
            fontWeight="600"
          >
            {word} {show(v)}
          </text>
        </g>
      ))}
      <text x="10" y="100" fontSize="13" fill="var(--faint)">
        | station in triangles under the smallest flow {unitLabel("flow", units)}, log scale
      </text>
    </svg>
  );
}
