import { useId } from "react";
import { showNumber, showQuantity, toShown, type UnitSystem } from "@/core/units/units";
import { GAP } from "./measures";

/** Stipple for closed hours, hatching for flow past a bank. */
export function Patterns() {
  return (
    <defs>
      <pattern id="stipple" width="7" height="7" patternUnits="userSpaceOnUse">
        <circle cx="2" cy="2" r="0.9" fill="var(--faint)" />
        <circle cx="5.5" cy="5.5" r="0.9" fill="var(--faint)" />
      </pattern>
      <pattern id="hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <line x1="0" y1="0" x2="0" y2="6" stroke="var(--alarm)" strokeWidth="2.4" />
      </pattern>
    </defs>
  );
}

type ChannelProps = {
  x: number;
  width: number;
  over: number;
  name: string;
  ceiling: number;
  limited: boolean;
  bank: string;
  units: UnitSystem;
  top: number;
  bottom: number;
  hours: number[];
  children: React.ReactNode;
};

/** Arrows go from run to run of a channel, in the order of time. */
function stepRuns(e: React.KeyboardEvent<SVGGElement>): void {
  const by = { ArrowDown: 1, ArrowRight: 1, j: 1, ArrowUp: -1, ArrowLeft: -1, k: -1 }[e.key];
  const runs = [...e.currentTarget.querySelectorAll<SVGGElement>("[data-run]")];
  const at = runs.indexOf(e.target as (typeof runs)[number]);
  if (by === undefined || at < 0) return;
  e.preventDefault();
  runs[Math.max(0, Math.min(runs.length - 1, at + by))]?.focus();
}

/** One channel: its bed between two banks, the right one with what binds it. */
export function Channel({
  x,
  width,
  over,
  name,
  ceiling,
  limited,
  bank,
  units,
  top,
  bottom,
  hours,
  children,
}: ChannelProps) {
  const id = useId();
  const bankX = x + width;
  const shown =
    name.length * 7.6 > width + GAP - 8
      ? `${name.slice(0, Math.max(4, Math.floor((width + GAP - 8) / 7.6) - 1))}…`
      : name;
  return (
    // biome-ignore lint/a11y/noInteractiveElementToNoninteractiveRole: a group of runs that hears their keys
    <g aria-labelledby={id} role="group" onKeyDown={stepRuns}>
      <text id={id} x={x} y="18" fontSize="15.5" fontWeight="600" fill="var(--ink)">
        {shown}
        <title>{name}</title>
      </text>
      {width > 70 && (
        <text x={x} y="36" fontSize="12.5" fill="var(--faint)">
          0
        </text>
      )}
      <text
        x={bankX}
        y="36"
        fontSize="12.5"
        textAnchor={width > 70 ? "end" : "start"}
        dx={width > 70 ? 0 : -width}
        fill="var(--faint)"
      >
        {limited
          ? showQuantity(ceiling, "flow", units)
          : `no limit, ${showNumber(toShown(ceiling, "flow", units))} shown`}
      </text>
      <rect x={x} y={top} width={width} height={bottom - top} fill="var(--bed)" />
      {hours.map((h) => (
        <line key={h} x1={x} x2={bankX} y1={h} y2={h} stroke="var(--hair)" strokeWidth="1" />
      ))}
      {children}
      <line x1={x} x2={x} y1={top - 10} y2={bottom} stroke="var(--ink)" strokeWidth="1.5" />
      <line
        x1={bankX}
        x2={bankX}
        y1={top - 14}
        y2={bottom}
        stroke="var(--ink)"
        strokeWidth={limited ? 3.5 : 1}
        strokeDasharray={limited ? undefined : "4 4"}
      />
      <text transform={`translate(${bankX + over + 7} ${top + 4}) rotate(90)`} fontSize="12.5" fill="var(--caution)">
        {bank.slice(0, Math.floor((bottom - top) / 6.2))}
      </text>
    </g>
  );
}
