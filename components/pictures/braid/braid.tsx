"use client";
import { memo, useCallback, useEffect, useId, useMemo, useRef } from "react";
import { localClock } from "@/core/dates/wall-time";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber, showQuantity, toShown, type UnitSystem, unitLabel } from "@/core/units/units";
import {
  type Braid as BraidData,
  type BraidRun,
  type MainChannel,
  type PocChannel,
  runKey,
  type RunKey,
} from "./braid-data";

const LEFT = 52;
const TOP = 62;
const GAP = 58;
const JOG_PX = 7;
const RIGHT = 64;
/** Points of connection carry sums and no ribbons, so they are drawn narrower than the mains' shared scale. */
const POC_SHARE = 0.4;
/** The widest main is never drawn narrower than this; a site of many channels is scrolled sideways instead. */
const WIDEST_PX = 130;

export type Stone = { at: number; words: string; mainlineId: string | null };
type Props = {
  site: SiteFile;
  data: BraidData;
  units: UnitSystem;
  width: number;
  pxPerMinute: number /** The instant before which no order can end. */;
  noEarlierThan: number | null;
  selected: RunKey | null;
  onSelect: (run: BraidRun) => void;
  waterline: number;
  onWaterline: (at: number) => void;
  stones?: Stone[];
};

/**
 * The braid: time runs down, flow across; one channel a mainline at one shared scale and, beside them, each point of connection. A ribbon's
 * area is litres; bare bed is capacity not used; the right bank is the ceiling and says what binds it.
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
  stones = [],
}: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const channels = data.mains.length + data.pocs.length;
  const total =
    data.mains.reduce((a, m) => a + m.ceilingLpm + m.overLpm, 0) +
    POC_SHARE * data.pocs.reduce((a, p) => a + p.ceilingLpm + p.overLpm, 0);
  const widest = Math.max(1, ...data.mains.map((m) => m.ceilingLpm));
  const scale = Math.max(WIDEST_PX / widest, (width - LEFT - GAP * channels - RIGHT) / total);
  const axis = useRef<SVGGElement>(null);
  const tag = useRef<SVGGElement>(null);
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
  const pad = Math.max(120, Math.min(900, (data.to - data.from) / 12));
  const from = Math.floor((data.from - pad) / 300) * 300;
  const to = data.to + pad;
  const y = useCallback((at: number): number => TOP + ((at - from) / 60) * pxPerMinute, [from, pxPerMinute]);
  const height = y(to) + 16;
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
  const right = x - GAP + 20;
  const timeAt = (clientY: number): number => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return waterline;
    const py = ((clientY - box.top) / box.height) * height;
    return Math.max(data.from, Math.min(data.to, Math.round(from + ((py - TOP) / pxPerMinute) * 60)));
  };
  const drag = (e: React.PointerEvent<SVGGElement>): void => {
    e.currentTarget.setPointerCapture(e.pointerId);
    onWaterline(timeAt(e.clientY));
  };
  const hours: number[] = [];
  const every = pxPerMinute > 5 ? 600 : pxPerMinute > 1.2 ? 1800 : 3600;
  for (let t = Math.ceil(from / every) * every; t <= to; t += every) hours.push(t);
  const clock = (at: number): string => localClock(site.site.timeZone, at);
  return (
    <svg
      ref={svg}
      width={Math.max(right + RIGHT, width)}
      height={height}
      role="group"
      aria-label={`The night from ${clock(data.from)} to ${clock(data.to)}, drawn; the same is in the table`}
      className="block select-none"
    >
      <Patterns />
      {mains.map(({ m, at }) => (
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
          top={TOP - 6}
          bottom={height - 10}
          hours={hours.map(y)}
        >
          {data.closed.map((c) => (
            <rect
              key={c.from}
              x={at}
              y={Math.max(TOP - 6, y(c.from))}
              width={m.ceilingLpm * scale}
              height={Math.max(0, Math.min(height - 10, y(c.to)) - Math.max(TOP - 6, y(c.from)))}
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
          <Soaks channel={m} x={at} scale={scale} y={y} />
          {noEarlierThan !== null && (
            <path d={`M${at + m.ceilingLpm * scale} ${y(noEarlierThan)} l9 -5 v10 Z`} fill="var(--ink)">
              <title>{`no order ends earlier than ${clock(noEarlierThan)}`}</title>
            </path>
          )}
        </Channel>
      ))}
      {pocs.map(({ p, at }) => (
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
          top={TOP - 6}
          bottom={height - 10}
          hours={hours.map(y)}
        >
          <PocFlow
            channel={p}
            x={at}
            scale={scale * POC_SHARE}
            y={y}
            to={data.to}
            top={TOP - 6}
            bottom={height - 10}
            units={units}
          />
        </Channel>
      ))}
      {noEarlierThan !== null && (
        <text x={right + 4} y={y(noEarlierThan) + 4} fontSize="12.5" fill="var(--ink)">
          <tspan x={right + 4} dy="-4">
            no earlier
          </tspan>
          <tspan x={right + 4} dy="14">
            {clock(noEarlierThan)}
          </tspan>
        </text>
      )}
      <g ref={axis}>
        <rect x="0" y="0" width={LEFT - 4} height={height} fill="var(--paper)" />
        {hours.map((t) => (
          <text key={t} x={LEFT - 8} y={y(t) + 4} textAnchor="end" fontSize="13" fill="var(--faint)">
            {clock(t)}
          </text>
        ))}
      </g>
      <g
        role="slider"
        tabIndex={0}
        aria-label="Waterline"
        aria-orientation="vertical"
        aria-valuemin={data.from}
        aria-valuemax={data.to}
        aria-valuenow={waterline}
        aria-valuetext={clock(waterline)}
        style={{ cursor: "ns-resize", touchAction: "none" }}
        onPointerDown={drag}
        onPointerMove={(e) => {
          if (e.buttons & 1) onWaterline(timeAt(e.clientY));
        }}
        onKeyDown={(e) => {
          const step = e.shiftKey ? 1800 : 60;
          if (e.key === "ArrowDown" || e.key === "ArrowRight") {
            e.preventDefault();
            onWaterline(Math.min(data.to, waterline + step));
          }
          if (e.key === "ArrowUp" || e.key === "ArrowLeft") {
            e.preventDefault();
            onWaterline(Math.max(data.from, waterline - step));
          }
        }}
      >
        <rect x="0" y={y(waterline) - 9} width={right + 20} height="18" fill="transparent" />
        <line
          x1={LEFT - 6}
          x2={right + 8}
          y1={y(waterline)}
          y2={y(waterline)}
          stroke="var(--alarm)"
          strokeWidth="1.6"
        />
        <g ref={tag}>
          <path d={`M0 ${y(waterline) - 10} h40 l10 10 l-10 10 h-40 Z`} fill="var(--alarm)" />
          <text x="5" y={y(waterline) + 4.5} fontSize="13" fontWeight="600" fill="var(--paper)">
            {clock(waterline)}
          </text>
        </g>
      </g>
      {/* Over the waterline, which starts at the first of them. */}
      {stones.map((s, i) => {
        const at = mains.find(({ m }) => m.id === s.mainlineId)?.at ?? LEFT;
        return (
          <g key={`${s.at}-${i}`} pointerEvents="none">
            <path d={`M${at - 5} ${y(s.at)} l7 -8 h11 l6 8 l-6 8 h-11 Z`} fill="var(--alarm)" stroke="var(--paper)" />
            <rect
              x={at + 22}
              y={y(s.at) - 10}
              width={s.words.length * 6.4 + 10}
              height="20"
              fill="var(--paper)"
              stroke="var(--alarm)"
            />
            <text x={at + 27} y={y(s.at) + 4} fontSize="13" fontWeight="600" fill="var(--alarm)">
              {s.words}
            </text>
          </g>
        );
      })}
      <title>{`${unitLabel("flow", units)} across, time down`}</title>
    </svg>
  );
}

function Patterns() {
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

function Channel({ x, width, over, name, ceiling, limited, bank, units, top, bottom, hours, children }: ChannelProps) {
  const id = useId();
  const bankX = x + width;
  const shown =
    name.length * 7.6 > width + GAP - 8
      ? `${name.slice(0, Math.max(4, Math.floor((width + GAP - 8) / 7.6) - 1))}…`
      : name;
  return (
    <g aria-labelledby={id}>
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

type RibbonsProps = {
  site: SiteFile;
  channel: MainChannel;
  x: number;
  scale: number;
  y: (at: number) => number;
  units: UnitSystem;
  selected: RunKey | null;
  onSelect: (run: BraidRun) => void;
};

/** Three tints of the one water hue, so that neighbours stay apart; each with a text colour that passes AA on it. */
const TINTS: { fill: string; text: string }[] = [
  { fill: "var(--water)", text: "var(--color-primary-content)" },
  { fill: "color-mix(in oklab, var(--water) 42%, var(--paper))", text: "var(--ink)" },
  { fill: "color-mix(in oklab, var(--water) 68%, var(--ink))", text: "var(--color-primary-content)" },
];
const PASSING = { fill: "color-mix(in oklab, var(--water) 18%, var(--paper))", text: "var(--ink)" };

const Ribbons = memo(function Ribbons({ site, channel, x, scale, y, units, selected, onSelect }: RibbonsProps) {
  const stations = useMemo(() => new Map(site.stations.map((s, i) => [s.id, { ...s, place: i }])), [site.stations]);
  const past = useId();
  return (
    <>
      <clipPath id={past}>
        <rect x={x + channel.ceilingLpm * scale} y="0" width="4000" height="100000" />
      </clipPath>
      {channel.ribbons.map((r) => {
        const s = stations.get(r.run.stationId);
        if (!s) return null;
        const w = Math.max(1, r.width * scale - 1.5);
        const y0 = y(r.from);
        const y1 = Math.max(y0 + 1.5, y(r.to) - 1);
        const key = runKey(r.run);
        const minutes = Math.round((r.to - r.from) / 6) / 10;
        const text = `${showNumber(toShown(r.width, "flow", units), units === "us" ? 1 : 0)} ${unitLabel("flow", units)} · ${minutes} min`;
        const over = Math.max(...r.steps.map((st) => st.x)) + r.width > channel.ceilingLpm + 1e-6 && channel.limited;
        const tint = r.own ? (TINTS[s.place % TINTS.length] ?? PASSING) : PASSING;
        const label = `${s.number} ${s.name}, ${text}`;
        const last = x + (r.steps[r.steps.length - 1]?.x ?? 0) * scale;
        const firstX = x + (r.steps[0]?.x ?? 0) * scale;
        const jogs = r.steps.length > 1;
        const textX = (jogs && y(r.steps[1]?.at ?? 0) - y0 < 34 ? last : firstX) + 5;
        const textY = jogs && y(r.steps[1]?.at ?? 0) - y0 < 34 ? y(r.steps[r.steps.length - 1]?.at ?? 0) + JOG_PX : y0;
        const room = y1 - textY;
        return (
          <g
            key={key}
            role="button"
            tabIndex={r.own ? 0 : -1}
            aria-label={`${label}${over ? ", past the ceiling" : ""}`}
            aria-pressed={selected === key}
            style={{ cursor: "pointer" }}
            onClick={() => onSelect(r.run)}
            onKeyDown={(e) => {
              if (e.key === "Enter" || e.key === " ") {
                e.preventDefault();
                onSelect(r.run);
              }
            }}
          >
            <path
              d={ribbonPath(r.steps, x, scale, w, y, y0, y1)}
              fill={tint.fill}
              stroke={
                selected === key ? "var(--alarm)" : r.run.test ? "var(--caution)" : r.own ? "none" : "var(--water)"
              }
              strokeWidth={selected === key ? 3 : 1}
              strokeDasharray={r.run.test ? "3 2" : r.own || selected === key ? undefined : "3 3"}
            />
            {over && (
              <path
                d={ribbonPath(r.steps, x, scale, w, y, y0, y1)}
                fill="url(#hatch)"
                clipPath={`url(#${past})`}
                pointerEvents="none"
              />
            )}
            {w > String(s.number).length * 7 + 6 && room > 14 && (
              <text x={textX} y={textY + 14} fontSize="13.5" fontWeight="600" fill={tint.text}>
                {w > label.length * 6.6 && room < 30 ? label : s.number}
              </text>
            )}
            {w > text.length * 6.2 + 10 && room >= 30 && (
              <text x={textX} y={textY + 28} fontSize="12.5" fill={tint.text}>
                {text}
              </text>
            )}
            {w > s.name.length * 6.2 + 10 && room >= 44 && (
              <text x={textX} y={textY + (w > text.length * 6.2 + 10 ? 42 : 28)} fontSize="12.5" fill={tint.text}>
                {s.name}
              </text>
            )}
            {over && (
              <text
                x={x + channel.ceilingLpm * scale + 6}
                y={y0 + 12}
                fontSize="12.5"
                fontWeight="600"
                fill="var(--alarm)"
                stroke="var(--paper)"
                strokeWidth="3"
                paintOrder="stroke"
              >
                +
                {showNumber(
                  toShown(Math.max(...r.steps.map((st) => st.x)) + r.width - channel.ceilingLpm, "flow", units),
                )}
              </text>
            )}
            <title>{label}</title>
          </g>
        );
      })}
      {channel.bare.map(({ run, from, to }) => (
        <g
          key={runKey(run)}
          role="button"
          tabIndex={0}
          aria-label={`${stations.get(run.stationId)?.number} without a flow figure, alone`}
          onClick={() => onSelect(run)}
        >
          <rect
            x={x}
            y={y(from)}
            width={channel.ceilingLpm * scale}
            height={Math.max(2, y(to) - y(from))}
            fill="none"
            stroke="var(--caution)"
            strokeDasharray="5 4"
          />
          <text x={x + 5} y={y(from) + 14} fontSize="12.5" fill="var(--caution)">
            {stations.get(run.stationId)?.number}: no flow figure
          </text>
        </g>
      ))}
    </>
  );
});

function ribbonPath(
  steps: { at: number; x: number }[],
  x: number,
  scale: number,
  w: number,
  y: (at: number) => number,
  y0: number,
  y1: number,
): string {
  const places = steps.map((s) => ({ px: x + s.x * scale + 0.75, py: Math.min(y1, y(s.at)) }));
  const first = places[0] as { px: number; py: number };
  let left = `M${first.px} ${y0}`;
  let rightSide = "";
  let px = first.px;
  for (const p of places.slice(1)) {
    const end = Math.min(y1, p.py + JOG_PX * 2);
    const mid = (p.py + end) / 2;
    left += ` L${px} ${p.py} C${px} ${mid} ${p.px} ${mid} ${p.px} ${end}`;
    rightSide = ` L${p.px + w} ${end} C${p.px + w} ${mid} ${px + w} ${mid} ${px + w} ${p.py}${rightSide}`;
    px = p.px;
  }
  return `${left} L${px} ${y1} L${px + w} ${y1}${rightSide} L${first.px + w} ${y0} Z`;
}

/** A soak is a hairline between the cycles it joins. */
function Soaks({
  channel,
  x,
  scale,
  y,
}: {
  channel: MainChannel;
  x: number;
  scale: number;
  y: (at: number) => number;
}) {
  const cycles = new Map<string, MainChannel["ribbons"]>();
  for (const r of channel.ribbons)
    if (r.own)
      cycles.set(`${r.run.stationId}|${r.run.programId}`, [
        ...(cycles.get(`${r.run.stationId}|${r.run.programId}`) ?? []),
        r,
      ]);
  return (
    <g stroke="var(--ink)" strokeWidth="0.7" fill="none" opacity="0.4" pointerEvents="none">
      {[...cycles.entries()].flatMap(([key, list]) =>
        [...list]
          .sort((a, b) => a.from - b.from)
          .flatMap((r, i, all) => {
            const before = all[i - 1];
            if (!before || before.run.cycle === r.run.cycle) return [];
            const x0 = x + ((before.steps[before.steps.length - 1]?.x ?? 0) + before.width / 2) * scale;
            const x1 = x + ((r.steps[0]?.x ?? 0) + r.width / 2) * scale;
            return [
              <path
                key={`${key}${r.from}`}
                d={`M${x0} ${y(before.to)} C${x0} ${(y(before.to) + y(r.from)) / 2} ${x1} ${(y(before.to) + y(r.from)) / 2} ${x1} ${y(r.from)}`}
              />,
            ];
          }),
      )}
    </g>
  );
}

function PocFlow({
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
