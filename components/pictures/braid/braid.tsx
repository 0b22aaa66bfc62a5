"use client";
import { memo, useCallback, useEffect, useMemo, useRef } from "react";
import { localClock } from "@/core/dates/wall-time";
import type { SiteFile } from "@/core/site-file/schema";
import { type UnitSystem, unitLabel } from "@/core/units/units";
import type { Braid as BraidData, BraidRun, MainChannel, PocChannel, RunKey } from "./braid-data";
import { Channel, Patterns } from "./channel";
import { GAP, LEFT, TOP } from "./measures";
import { PocFlow } from "./poc-flow";
import { Ribbons } from "./ribbons";
import { Soaks } from "./soaks";
import { Stones, type Stone } from "./stones";
import { Waterline } from "./waterline";

const RIGHT = 64;
/** Points of connection carry sums and no ribbons, so they are drawn narrower than the mains' shared scale. */
const POC_SHARE = 0.4;
/** The widest main is never drawn narrower than this; a site of many channels is scrolled sideways instead. */
const WIDEST_PX = 130;

type Props = {
  site: SiteFile;
  data: BraidData;
  units: UnitSystem;
  width: number;
  pxPerMinute: number;
  /** The instant before which no order can end. */
  noEarlierThan: number | null;
  selected: RunKey | null;
  onSelect: (run: BraidRun) => void;
  waterline: number;
  onWaterline: (at: number) => void;
  stones?: Stone[];
};

/** Where everything stands: channels across at one shared scale, time down. */
export type BraidPlan = {
  mains: { m: MainChannel; at: number }[];
  pocs: { p: PocChannel; at: number }[];
  scale: number;
  right: number;
  height: number;
  from: number;
  to: number;
  y: (at: number) => number;
  hours: number[];
};

function planOf(data: BraidData, width: number, pxPerMinute: number): BraidPlan {
  const channels = data.mains.length + data.pocs.length;
  const total =
    data.mains.reduce((a, m) => a + m.ceilingLpm + m.overLpm, 0) +
    POC_SHARE * data.pocs.reduce((a, p) => a + p.ceilingLpm + p.overLpm, 0);
  const widest = Math.max(1, ...data.mains.map((m) => m.ceilingLpm));
  const scale = Math.max(WIDEST_PX / widest, (width - LEFT - GAP * channels - RIGHT) / total);
  const pad = Math.max(120, Math.min(900, (data.to - data.from) / 12));
  const from = Math.floor((data.from - pad) / 300) * 300;
  const to = data.to + pad;
  const y = (at: number): number => TOP + ((at - from) / 60) * pxPerMinute;
  let x = LEFT;
  const mains = data.mains.map((m) => {
    const at = x;
    x += (m.ceilingLpm + m.overLpm) * scale + GAP;
    return { m, at };
  });
  const pocs = data.pocs.map((p) => {
    const at = x;
    x += (p.ceilingLpm + p.overLpm) * scale * POC_SHARE + GAP;
    return { p, at };
  });
  const hours: number[] = [];
  const every = [
    [5, 600],
    [1.2, 1800],
    [0, 3600],
  ].find(([over = 0]) => pxPerMinute > over)?.[1] as number;
  for (let t = Math.ceil(from / every) * every; t <= to; t += every) hours.push(t);
  return { mains, pocs, scale, right: x - GAP + 20, height: y(to) + 16, from, to, y, hours };
}

/**
 * The braid: time runs down, flow across; one channel a mainline at one shared scale and, beside them, each point of connection. A ribbon's
 * area is litres; bare bed is capacity not used; the right bank is the ceiling and says what binds it. Moving the waterline draws nothing else anew.
 */
export function Braid({
  site,
  data,
  units,
  width,
  pxPerMinute,
  noEarlierThan,
  selected,
  onSelect,
  waterline,
  onWaterline,
  stones,
}: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const axis = useRef<SVGGElement>(null);
  const tag = useRef<SVGGElement>(null);
  const plan = useMemo(() => planOf(data, width, pxPerMinute), [data, width, pxPerMinute]);
  const zone = site.site.timeZone;
  const clock = useCallback((at: number): string => localClock(zone, at), [zone]);
  /* Hours and the waterline's tag stay at the left edge while the channels pass under them. */
  useEffect(() => {
    const box = svg.current?.parentElement;
    if (!box) return;
    const follow = (): void => {
      for (const g of [axis.current, tag.current]) g?.setAttribute("transform", `translate(${box.scrollLeft} 0)`);
    };
    follow();
    box.addEventListener("scroll", follow, { passive: true });
    return () => box.removeEventListener("scroll", follow);
  }, []);
  const timeAt = (clientY: number): number => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return waterline;
    const py = ((clientY - box.top) / box.height) * plan.height;
    return Math.max(data.from, Math.min(data.to, Math.round(plan.from + ((py - TOP) / pxPerMinute) * 60)));
  };
  return (
    <svg
      ref={svg}
      width={Math.max(plan.right + RIGHT, width)}
      height={plan.height}
      role="group"
      aria-label={`The night from ${clock(data.from)} to ${clock(data.to)}, drawn; the same is in the table`}
      className="block select-none"
    >
      <Bed
        site={site}
        data={data}
        plan={plan}
        units={units}
        noEarlierThan={noEarlierThan}
        selected={selected}
        onSelect={onSelect}
      />
      <g ref={axis}>
        <rect x="0" y="0" width={LEFT - 4} height={plan.height} fill="var(--paper)" />
        {plan.hours.map((t) => (
          <text key={t} x={LEFT - 8} y={plan.y(t) + 4} textAnchor="end" fontSize="13" fill="var(--faint)">
            {clock(t)}
          </text>
        ))}
      </g>
      <Waterline
        at={waterline}
        from={data.from}
        to={data.to}
        right={plan.right}
        y={plan.y}
        clock={clock}
        tag={tag}
        timeAt={timeAt}
        onMove={onWaterline}
      />
      {stones && <Stones stones={stones} mains={plan.mains} y={plan.y} />}
      <title>{`${unitLabel("flow", units)} across, time down`}</title>
    </svg>
  );
}

/** Everything that the waterline passes over. */
const Bed = memo(function Bed({
  site,
  data,
  plan,
  units,
  noEarlierThan,
  selected,
  onSelect,
}: Pick<Props, "site" | "data" | "units" | "noEarlierThan" | "selected" | "onSelect"> & { plan: BraidPlan }) {
  const { y, height, scale, right } = plan;
  const hours = plan.hours.map(y);
  const [top, bottom] = [TOP - 6, height - 10];
  const clock = (at: number): string => localClock(site.site.timeZone, at);
  return (
    <>
      <Patterns />
      {plan.mains.map(({ m, at }) => (
        <Channel
          key={m.id}
          x={at}
          width={m.ceilingLpm * scale}
          over={m.overLpm * scale}
          name={m.name}
          ceiling={m.ceilingLpm}
          limited={m.limited}
          bank={m.bank}
          units={units}
          top={top}
          bottom={bottom}
          hours={hours}
        >
          {data.closed.map((c) => (
            <rect
              key={c.from}
              x={at}
              y={Math.max(top, y(c.from))}
              width={m.ceilingLpm * scale}
              height={Math.max(0, Math.min(bottom, y(c.to)) - Math.max(top, y(c.from)))}
              fill="url(#stipple)"
            />
          ))}
          <Ribbons
            site={site}
            channel={m}
            x={at}
            scale={scale}
            y={y}
            units={units}
            selected={selected}
            onSelect={onSelect}
          />
          <Soaks channel={m} x={at} scale={scale} y={y} selected={selected} />
          {noEarlierThan !== null && (
            <path d={`M${at + m.ceilingLpm * scale} ${y(noEarlierThan)} l9 -5 v10 Z`} fill="var(--ink)">
              <title>{`no order ends earlier than ${clock(noEarlierThan)}`}</title>
            </path>
          )}
        </Channel>
      ))}
      {plan.pocs.map(({ p, at }) => (
        <Channel
          key={p.id}
          x={at}
          width={p.ceilingLpm * scale * POC_SHARE}
          over={p.overLpm * scale * POC_SHARE}
          name={p.name}
          ceiling={p.ceilingLpm}
          limited={p.limited}
          bank={p.bank}
          units={units}
          top={top}
          bottom={bottom}
          hours={hours}
        >
          <PocFlow
            channel={p}
            x={at}
            scale={scale * POC_SHARE}
            y={y}
            to={data.to}
            top={top}
            bottom={bottom}
            units={units}
          />
        </Channel>
      ))}
      {noEarlierThan !== null && (
        <text y={y(noEarlierThan) + 4} fontSize="12.5" fill="var(--ink)">
          <tspan x={right + 4} dy="-4">
            no earlier
          </tspan>
          <tspan x={right + 4} dy="14">
            {clock(noEarlierThan)}
          </tspan>
        </text>
      )}
    </>
  );
});
