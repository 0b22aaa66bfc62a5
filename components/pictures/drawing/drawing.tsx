"use client";
import { useMemo } from "react";
import type { SiteFile } from "@/core/site-file/schema";
import type { UnitSystem } from "@/core/units/units";
import { RunPicture } from "./run-picture";
import { jointPath, type Places, rows, type Shapes, shapes } from "./shapes";

const MARGIN = 16;

/** The waterworks as one still picture, for an SVG or PNG file. */
export function WaterworksPicture({
  site,
  units,
  ready,
  places,
}: {
  site: SiteFile;
  units: UnitSystem;
  ready?: Shapes;
  places?: Places;
}) {
  const { drawn, at } = useMemo(() => {
    const drawn = ready ?? shapes(site);
    return { drawn, at: places ?? rows(site, drawn) };
  }, [site, ready, places]);
  const { x0, y0, width, height } = bounds(drawn, at);
  const end = (id: string): { x: number; y: number } => {
    const [s, p] = [drawn.list.find((x) => x.id === id), at.get(id)];
    return { x: (p?.x ?? 0) + (s?.end ?? 0), y: (p?.y ?? 0) + (s?.axisY ?? 0) };
  };
  const begin = (id: string): { x: number; y: number } => ({
    x: at.get(id)?.x ?? 0,
    y: (at.get(id)?.y ?? 0) + (drawn.list.find((x) => x.id === id)?.axisY ?? 0),
  });
  return (
    <svg
      xmlns="http://www.w3.org/2000/svg"
      viewBox={`${x0} ${y0} ${width} ${height}`}
      className="block w-full"
      style={{ maxWidth: width * 1.15 }}
      fontFamily="inherit"
      role="img"
      aria-label="Drawing of the waterworks"
    >
      {drawn.joints.map((j) => (
        <path
          key={`ink ${j.from}>${j.to}`}
          d={jointPath(end(j.from), begin(j.to))}
          fill="none"
          stroke="var(--ink)"
          strokeWidth={2 * j.half + 3}
        />
      ))}
      {drawn.joints.map((j) => (
        <path
          key={`${j.from}>${j.to}`}
          d={jointPath(end(j.from), begin(j.to))}
          fill="none"
          stroke="color-mix(in oklab, var(--water) 42%, var(--paper))"
          strokeWidth={2 * j.half}
        />
      ))}
      {drawn.list.map((s) => (
        <g key={s.id} transform={`translate(${at.get(s.id)?.x ?? 0} ${at.get(s.id)?.y ?? 0})`}>
          <RunPicture
            shape={s}
            units={units}
            compact={drawn.compact}
            selected={null}
            sourceKind={site.sources.find((x) => x.id === s.id)?.kind}
          />
          {s.kind === "mainline" && !s.open && s.stations.length > 0 && (
            <StationStub
              x={drawn.compact ? 84 : s.end}
              y={drawn.compact ? s.axisY + s.half + 32 : s.axisY - s.half}
              count={s.stations.length}
            />
          )}
        </g>
      ))}
    </svg>
  );
}

/** Stations folded into their main: three stubs and their number. */
export function StationStub({ x, y, count }: { x: number; y: number; count: number }) {
  return (
    <g>
      {[0, 7, 14].map((dx) => (
        <path key={dx} d={`M${x - 24 + dx} ${y - 4} v-9 m-3 0 h6`} stroke="var(--ink)" strokeWidth="1.5" fill="none" />
      ))}
      <text x={x} y={y - 17} fontSize="13" textAnchor="end" fill="var(--ink)">
        {count} station{count === 1 ? "" : "s"}
      </text>
    </g>
  );
}

export function bounds({ list }: Shapes, at: Places): { x0: number; y0: number; width: number; height: number } {
  const edges = list.map((s) => ({ x: at.get(s.id)?.x ?? 0, y: at.get(s.id)?.y ?? 0, s }));
  const x0 = Math.min(0, ...edges.map((e) => e.x)) - MARGIN;
  const y0 = Math.min(0, ...edges.map((e) => e.y)) - MARGIN;
  const width = Math.max(200, ...edges.map((e) => e.x + e.s.width)) - x0 + MARGIN;
  return { x0, y0, width, height: Math.max(80, ...edges.map((e) => e.y + e.s.height)) - y0 + MARGIN };
}
