"use client";
import { useMemo } from "react";
import { useConventions } from "@/components/kit/conventions";
import { useWidth } from "@/components/kit/use-width";
import type { SiteFile } from "@/core/site-file/schema";
import { jointPath, rows, shapes } from "./shapes";

const ROW = 42;
const TOP = 6;
/** Under the name, above the flow. */
const AXIS = 19;
const GAP = 30;
const LETTER_PX = 6;
/** Thickness of a dry pipe and of one that carries its ceiling, px. */
const DRY = 1.4;
const THIN = 3;
const FULL = 11;

type Run = { id: string; name: string; column: number; row: number; ceilingLpm: number | null };

/** The connections and mains of a site as they stand to each other, in whole rows and columns. */
function layout(site: SiteFile): { runs: Run[]; joints: { from: string; to: string }[]; columns: number } {
  const drawn = shapes(site, { compact: true });
  const at = rows(site, drawn);
  const shown = drawn.list.filter((s) => s.kind !== "source");
  const rank = (values: number[]): number[] => [...new Set(values)].sort((a, b) => a - b);
  const xs = rank(shown.map((s) => at.get(s.id)?.x ?? 0));
  const ys = rank(shown.map((s) => at.get(s.id)?.y ?? 0));
  const ids = new Set(shown.map((s) => s.id));
  return {
    runs: shown.map((s) => ({
      id: s.id,
      name: s.name,
      column: xs.indexOf(at.get(s.id)?.x ?? 0),
      row: ys.indexOf(at.get(s.id)?.y ?? 0),
      ceilingLpm: s.ceiling.ceilingLpm,
    })),
    joints: drawn.joints.filter((j) => ids.has(j.from) && ids.has(j.to)),
    columns: Math.max(1, xs.length),
  };
}

/** What flows now, in a small copy of the waterworks: a pipe is as thick as it is full, a dry one a line. */
export function FlowSketch({ site, flows }: { site: SiteFile; flows: ReadonlyMap<string, number> }) {
  const { box, width } = useWidth(300);
  const { figure, quantity } = useConventions();
  const { runs, joints, columns } = useMemo(() => layout(site), [site]);
  const column = width / columns;
  const by = new Map(runs.map((r) => [r.id, r]));
  const left = (r: Run): number => r.column * column + 2;
  const right = (r: Run): number => left(r) + column - GAP;
  const axis = (r: Run): number => TOP + r.row * ROW + AXIS;
  const flow = (id: string): number => flows.get(id) ?? 0;
  const letters = Math.max(4, Math.floor((column - GAP + 6) / LETTER_PX));
  const height = TOP + (Math.max(0, ...runs.map((r) => r.row)) + 1) * ROW;
  return (
    <div ref={box}>
      <svg width={width} height={height} role="img" aria-label="What flows where at that moment" className="block">
        {joints.map((j) => {
          const [from, to] = [by.get(j.from), by.get(j.to)];
          if (!from || !to) return null;
          const runsNow = flow(from.id) > 0 && flow(to.id) > 0;
          return (
            <path
              key={`${j.from}>${j.to}`}
              d={jointPath({ x: right(from), y: axis(from) }, { x: left(to), y: axis(to) })}
              fill="none"
              stroke={runsNow ? "var(--water)" : "var(--faint)"}
              strokeWidth={runsNow ? THIN : DRY}
            />
          );
        })}
        {runs.map((r) => {
          const lpm = flow(r.id);
          const share = r.ceilingLpm ? Math.min(1, lpm / r.ceilingLpm) : 0.3;
          return (
            <g key={r.id}>
              <title>{`${r.name}: ${quantity(lpm, "flow")}${r.ceilingLpm === null ? "" : ` of ${quantity(r.ceilingLpm, "flow")}`}`}</title>
              <line
                x1={left(r)}
                x2={right(r)}
                y1={axis(r)}
                y2={axis(r)}
                stroke={lpm > 0 ? "var(--water)" : "var(--faint)"}
                strokeWidth={lpm > 0 ? THIN + (FULL - THIN) * share : DRY}
              />
              <text x={left(r)} y={axis(r) - 9} fontSize="12" fill={lpm > 0 ? "var(--ink)" : "var(--faint)"}>
                {r.name.length > letters ? `${r.name.slice(0, letters - 1)}…` : r.name}
              </text>
              {lpm > 0 && (
                <text x={left(r)} y={axis(r) + 17} fontSize="12" fontWeight="600" fill="var(--water)">
                  {figure(lpm, "flow")}
                </text>
              )}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
