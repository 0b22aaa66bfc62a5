"use client";
import { USUAL_STEADY, windowStatistics } from "@/core/learn/steady";
import { showNumber, showQuantity, toShown, type UnitSystem, unitLabel } from "@/core/units/units";
import type { TracePoint } from "../data/use-learning-stream";

const H = 210;
const LEFT = 52;
const FLOOR = H - 26;

type Props = {
  points: TracePoint[];
  expectedLpm: number | null;
  units: UnitSystem;
  /** What came of it: the mean that was kept, and after how many seconds it was steady. */
  result?: { meanLpm: number; sdLpm: number; secondsToSteady: number | null } | null;
  /** Beside a table, where there is less than half the width. */
  narrow?: boolean;
};

/** Flow as it is read, second by second: hold-off hatched and pale, then the readings, and the window in which it is or became steady between ± 3 % of its mean. */
export function Trace({ points, expectedLpm, units, result, narrow }: Props) {
  const W = narrow ? 400 : 900;
  const first = points[0]?.at ?? 0;
  const now = points[points.length - 1];
  const span = Math.max(120, (now?.at ?? 0) - first + 1);
  const top = Math.max(10, (expectedLpm ?? 0) * 1.25, ...points.map((p) => p.lpm)) * 1.06;
  const x = (at: number): number => LEFT + ((at - first) / span) * (W - LEFT - 10);
  const y = (lpm: number): number => FLOOR - (lpm / top) * (FLOOR - 16);
  const line = (list: TracePoint[]): string =>
    list.map((p, i) => `${i === 0 ? "M" : "L"}${x(p.at).toFixed(1)} ${y(p.lpm).toFixed(1)}`).join(" ");
  const stretches = split(points);
  const read = stretches.filter((s) => !s.settling).at(-1)?.points ?? [];
  const window = read.slice(-USUAL_STEADY.windowS);
  const seen = window.length >= 5 ? windowStatistics(window.map((p) => p.lpm)) : null;
  const full = window.length >= USUAL_STEADY.windowS;
  const mean = result?.meanLpm ?? seen?.meanLpm ?? null;
  const band =
    window.length > 0 && seen && (result === undefined || result === null || result.secondsToSteady !== null)
      ? { from: (window[0] as TracePoint).at, to: (window.at(-1) as TracePoint).at, mean: seen.meanLpm }
      : null;
  const running =
    seen && mean !== null && mean > 0 ? { mean, spread: seen.sdLpm / mean, drift: seen.driftLpm / mean } : null;
  return (
    <figure className="m-0">
      <svg
        viewBox={`0 0 ${W} ${H}`}
        className="w-full max-w-5xl bg-base-200"
        role="img"
        aria-label={
          now
            ? `Reading ${showQuantity(now.lpm, "flow", units, 1)}, ${now.at - first + 1} seconds after opening`
            : "No reading yet"
        }
      >
        <defs>
          <pattern id="settling" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line x1="0" x2="0" y1="0" y2="7" stroke="var(--hair)" strokeWidth="2.5" />
          </pattern>
        </defs>
        {stretches
          .filter((s) => s.settling)
          .map((s) => (
            <rect
              key={s.points[0]?.at}
              x={x((s.points[0] as TracePoint).at)}
              width={Math.max(0, x((s.points.at(-1) as TracePoint).at + 1) - x((s.points[0] as TracePoint).at))}
              y="16"
              height={FLOOR - 16}
              fill="url(#settling)"
            />
          ))}
        {stretches[0]?.settling && (
          <text x={x(first) + 6} y="30" fontSize="12" fill="var(--faint)">
            {narrow ? "hold-off" : "fill and hold-off, not judged"}
          </text>
        )}
        {[0, 0.5, 1].map((f) => (
          <g key={f}>
            <line x1={LEFT} x2={W - 10} y1={y((top / 1.06) * f)} y2={y((top / 1.06) * f)} stroke="var(--hair)" />
            <text x={LEFT - 6} y={y((top / 1.06) * f) + 4} fontSize="12" textAnchor="end" fill="var(--faint)">
              {showNumber(toShown((top / 1.06) * f, "flow", units), 1)}
            </text>
          </g>
        ))}
        {expectedLpm !== null && expectedLpm > 0 && (
          <>
            <line
              x1={LEFT}
              x2={W - 10}
              y1={y(expectedLpm)}
              y2={y(expectedLpm)}
              stroke="var(--ink)"
              strokeDasharray="4 4"
            />
            <text x={W - 12} y={y(expectedLpm) + 14} fontSize="12" textAnchor="end" fill="var(--ink)">
              stands now {showQuantity(expectedLpm, "flow", units, 1)}
            </text>
          </>
        )}
        {band && (
          <rect
            x={x(band.from)}
            width={Math.max(1, x(band.to + 1) - x(band.from))}
            y={y(band.mean * (1 + USUAL_STEADY.tolerance))}
            height={Math.max(
              1,
              y(band.mean * (1 - USUAL_STEADY.tolerance)) - y(band.mean * (1 + USUAL_STEADY.tolerance)),
            )}
            fill="var(--water)"
            opacity="0.22"
          />
        )}
        {band && (
          <line
            x1={x(band.from)}
            x2={x(band.to + 1)}
            y1={y(band.mean)}
            y2={y(band.mean)}
            stroke="var(--ink)"
            strokeWidth="1.5"
          />
        )}
        {stretches.map((s) => (
          <path
            key={`${s.points[0]?.at}${s.settling}`}
            d={line(s.points)}
            fill="none"
            stroke="var(--water)"
            strokeWidth={s.settling ? 1.2 : 2.2}
            opacity={s.settling ? 0.6 : 1}
          />
        ))}
        {result?.secondsToSteady !== null && result && band && (
          <g>
            <line x1={x(band.to + 1)} x2={x(band.to + 1)} y1="16" y2={FLOOR} stroke="var(--ink)" />
            <path d={`M${x(band.to + 1)} 16 l-5 -7 h10 z`} fill="var(--ink)" />
          </g>
        )}
        {timeMarks(span, narrow ? 4 : 8).map((s) => (
          <text key={s} x={x(first + s)} y={H - 8} fontSize="12" textAnchor="middle" fill="var(--faint)">
            {s} s
          </text>
        ))}
        <text x="6" y="12" fontSize="12" fill="var(--faint)">
          {unitLabel("flow", units)}
        </text>
      </svg>
      <figcaption className="text-sm mt-1">
        {result?.secondsToSteady === null && "It did not become steady before its limit."}
        {result && result.secondsToSteady !== null && (
          <>
            Steady after <strong>{result.secondsToSteady} s</strong>: mean{" "}
            <strong>{showQuantity(result.meanLpm, "flow", units, 1)}</strong> ±{" "}
            {showQuantity(result.sdLpm, "flow", units, 2)}.
          </>
        )}
        {!result && running && (
          <>
            {full ? "Last 30 s" : `${window.length} of 30 s`}: mean {showQuantity(running.mean, "flow", units, 1)},
            spread {percent(running.spread)}, drift {percent(running.drift)}; steady at 3 % and less.
          </>
        )}
        {!result && !running && "Not judged yet."}
      </figcaption>
    </figure>
  );
}

const percent = (share: number): string => `${(100 * share).toFixed(1)} %`;

/** Stretches in hold-off and stretches judged, in order. */
function split(points: TracePoint[]): { settling: boolean; points: TracePoint[] }[] {
  const found: { settling: boolean; points: TracePoint[] }[] = [];
  for (const p of points) {
    const last = found.at(-1);
    if (last && last.settling === p.settling) last.points.push(p);
    else found.push({ settling: p.settling, points: [p] });
  }
  return found;
}

function timeMarks(span: number, most: number): number[] {
  const step = [30, 60, 120, 300, 600, 1200].find((s) => span / s <= most) ?? 1800;
  return Array.from({ length: Math.floor(span / step) + 1 }, (_, i) => i * step).filter((s) => s < span - step / 4);
}
