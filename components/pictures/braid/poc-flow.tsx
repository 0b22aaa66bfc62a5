import { useId } from "react";
import { showNumber, toShown, type UnitSystem } from "@/core/units/units";
import type { PocChannel } from "./braid-data";

/** Flow through a point of connection: a sum, without ribbons; its pump's minimum dotted, the part under it shaded. */
export function PocFlow({
  channel,
  x,
  scale,
  y,
  to,
  top,
  bottom,
  units,
}: {
  channel: PocChannel;
  units: UnitSystem;
  x: number;
  scale: number;
  y: (at: number) => number;
  to: number;
  top: number;
  bottom: number;
}) {
  const points = channel.steps.flatMap((s, i) => {
    const end = channel.steps[i + 1]?.at ?? to;
    return [`L${x + s.lpm * scale} ${y(s.at)}`, `L${x + s.lpm * scale} ${y(end)}`];
  });
  const min = channel.pumpMinimumLpm;
  const past = useId();
  const flow = `M${x} ${y(channel.steps[0]?.at ?? 0)} ${points.join(" ")} L${x} ${y(to)} Z`;
  const most = channel.steps.reduce((a, b) => (b.lpm > a.lpm ? b : a), { at: 0, lpm: 0 });
  const over = channel.overLpm > 0;
  return (
    <>
      {min !== null && (
        <rect x={x} y={top} width={min * scale} height={bottom - top} fill="var(--hair)" opacity="0.6" />
      )}
      <path
        d={flow}
        fill="color-mix(in oklab, var(--water) 45%, var(--paper))"
        stroke="var(--water)"
        strokeWidth="1.2"
      />
      {over && (
        <>
          <clipPath id={past}>
            <rect x={x + channel.ceilingLpm * scale} y="0" width="4000" height="100000" />
          </clipPath>
          <path d={flow} fill="url(#hatch)" clipPath={`url(#${past})`} />
          <text
            x={x + channel.ceilingLpm * scale + 6}
            y={y(most.at) + 12}
            fontSize="12.5"
            fontWeight="600"
            fill="var(--alarm)"
            stroke="var(--paper)"
            strokeWidth="3"
            paintOrder="stroke"
          >
            +{showNumber(toShown(channel.overLpm, "flow", units))}
          </text>
        </>
      )}
      {min !== null && (
        <>
          <line
            x1={x + min * scale}
            x2={x + min * scale}
            y1={top}
            y2={bottom}
            stroke="var(--ink)"
            strokeWidth="1.4"
            strokeDasharray="2 4"
          />
          <text
            transform={`translate(${x + min * scale - 4} ${bottom - 6}) rotate(-90)`}
            fontSize="12"
            fill="var(--ink)"
          >
            pump minimum
          </text>
        </>
      )}
    </>
  );
}
