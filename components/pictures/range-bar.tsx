"use client";
import { useWidth } from "@/components/kit/use-width";
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
  const { box, width: W } = useWidth(700);
  const seen = stations.flatMap((s) => {
    const lpm = expectedFlow(s)?.lpm ?? 0;
    return lpm > 0 ? [{ id: s.id, lpm }] : [];
  });
  const flows = seen.map((s) => s.lpm);
  const marks = [range.minLpm, range.maxLpm, ceilingLpm, burstLpm, offScheduleLpm, ...flows].filter(
    (v): v is number => v !== null && v !== undefined && v > 0 && Number.isFinite(v),
  );
  if (marks.length === 0)
    return <p className="text-faint">Enter the inside diameter, or the smallest and largest flow, to see its range.</p>;
  const lo = Math.log10(Math.min(...marks) / 1.6);
  const hi = Math.log10(Math.max(...marks) * 1.4);
  const x = (v: number): number => 10 + ((Math.log10(v) - lo) / (hi - lo)) * (W - 20);
  const show = (v: number): string => showNumber(toShown(v, "flow", units), v < 100 || units === "us" ? 1 : 0);
  const flags: [number | null | undefined, string, string][] = [
    [range.minLpm, "smallest", "var(--ink)"],
    [offScheduleLpm, "off-schedule", "var(--caution)"],
    [ceilingLpm, "ceiling", "var(--ink)"],
    [burstLpm, "burst", "var(--alarm)"],
    [range.maxLpm, "largest", "var(--ink)"],
  ];
  // From left to right, each on the lowest line where it does not meet the one before.
  const ends = [0, 0, 0];
  const placed = flags
    .flatMap(([v, word, colour]) => (v !== null && v !== undefined && v > 0 ? [{ v, word, colour }] : []))
    .sort((a, b) => a.v - b.v)
    .map((flag) => {
      const half = (flag.word.length + show(flag.v).length + 1) * 3.2 + 4;
      const at = Math.min(W - half, Math.max(half, x(flag.v)));
      const free = ends.findIndex((end) => end <= at - half);
      const row = free < 0 ? ends.length - 1 : free;
      ends[row] = at + half;
      return { ...flag, at, row };
    });
  const above = (row: number): number => 40 - row * 15;
  return (
    <div ref={box} className="overflow-hidden">
      <svg
        width={W}
        height="104"
        className="block"
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
        {seen.map(({ id, lpm: f }) => {
          const unseen = range.minLpm !== null && f < range.minLpm;
          return unseen ? (
            <path key={id} d={`M${x(f)} 70 l5 9 h-10 Z`} fill="none" stroke="var(--caution)" strokeWidth="1.6" />
          ) : (
            <line key={id} x1={x(f)} x2={x(f)} y1="69" y2="80" stroke="var(--water)" strokeWidth="2" />
          );
        })}
        {placed.map(({ v, word, colour, at, row }) => (
          <g key={word}>
            <line x1={x(v)} x2={x(v)} y1={above(row) + 3} y2="68" stroke={colour} strokeWidth="1.6" />
            <text x={at} y={above(row)} fontSize="12" textAnchor="middle" fill={colour} fontWeight="600">
              {word} {show(v)}
            </text>
          </g>
        ))}
        <text x="10" y="98" fontSize="12" fill="var(--faint)">
          {unitLabel("flow", units)}, log scale; each line a station, a triangle one it cannot see
        </text>
      </svg>
    </div>
  );
}
