import type { RefObject } from "react";
import { LEFT } from "./measures";

/** A line across the night, dragged or moved by the arrows: what is open at that moment is shown beside the picture. */
export function Waterline({
  at,
  from,
  to,
  right,
  y,
  clock,
  tag,
  timeAt,
  onMove,
}: {
  at: number;
  from: number;
  to: number;
  right: number;
  y: (at: number) => number;
  clock: (at: number) => string;
  tag: RefObject<SVGGElement | null>;
  timeAt: (clientY: number) => number;
  onMove: (at: number) => void;
}) {
  const line = y(at);
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label="Waterline"
      aria-orientation="vertical"
      aria-valuemin={from}
      aria-valuemax={to}
      aria-valuenow={at}
      aria-valuetext={clock(at)}
      style={{ cursor: "ns-resize", touchAction: "none" }}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        onMove(timeAt(e.clientY));
      }}
      onPointerMove={(e) => {
        if (e.buttons & 1) onMove(timeAt(e.clientY));
      }}
      onKeyDown={(e) => {
        const step = e.shiftKey ? 1800 : 60;
        const by = { ArrowDown: step, ArrowRight: step, ArrowUp: -step, ArrowLeft: -step }[e.key];
        if (by === undefined) return;
        e.preventDefault();
        onMove(Math.max(from, Math.min(to, at + by)));
      }}
    >
      <rect x="0" y={line - 9} width={right + 20} height="18" fill="transparent" />
      <line x1={LEFT - 6} x2={right + 8} y1={line} y2={line} stroke="var(--paper)" strokeWidth="4" />
      <line x1={LEFT - 6} x2={right + 8} y1={line} y2={line} stroke="var(--water)" strokeWidth="2" />
      <g ref={tag}>
        <path d={`M0 ${line - 10}h42l10 10l-10 10h-42Z`} fill="var(--water)" />
        <text x="5" y={line + 4.5} fontSize="13" fontWeight="600" fill="var(--color-primary-content)">
          {clock(at)}
        </text>
      </g>
    </g>
  );
}
