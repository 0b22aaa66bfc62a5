"use client";
import { useEffect, useMemo, useRef, useState } from "react";
import { useWidth } from "@/components/kit/use-width";
import type { StationSight } from "@/core/limits/sight";
import type { SiteFile, Station } from "@/core/site-file/schema";
import type { UnitSystem } from "@/core/units/units";
import { JawRow } from "./jaw-row";
import { type Company, jawScale, type JawScale, NARROWEST, ROW, TOP } from "./jaw-scale";

const TICKS = [0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1, 1.1, 1.25, 1.5, 1.75, 2];
/** Largest percentages that the scale still shows. */
const MOST = { high: 119, low: 64 } as const;
/** While a wall is dragged, the rest is worked out anew so often, ms; the wall itself follows every move. */
const COMMIT_MS = 120;
/** Where working it out takes longer than this, ms, it waits until the hand rests. */
const HEAVY_MS = 40;
/** So many rows are taken to be heavy until it was measured. */
const MANY_ROWS = 100;

type Side = "high" | "low";
const SIDES: readonly Side[] = ["high", "low"];
/** A wall on its way: of one station, or of all. */
type Drag = { side: Side; stationId: string | null; gesture: string; percent: number };

/** The walls of a row that can be taken hold of: while one is dragged, only that one. */
function grabbable(drag: Drag | null, stationId: string | undefined): readonly Side[] {
  if (!drag) return SIDES;
  return drag.stationId === stationId ? [drag.side] : [];
}

type Props = {
  site: SiteFile;
  rows: StationSight[];
  company: Company;
  units: UnitSystem;
  watched: Map<string, number>;
  canEdit: boolean;
  selected: string | null;
  onSelect: (id: string) => void;
  /** A station id overrides one row, none moves all. One drag is one gesture. */
  onMove: (side: Side, percent: number, stationId: string | null, gesture?: string) => void;
};

/**
 * The jaw: one row a station, across is reading ÷ expected on a log scale, so 1.0 is one spine down the page. The two stepped lines are the limits;
 * triangles are where a break would read: solid outside the jaw (seen), hollow inside (unseen).
 */
export function Jaw({ site, rows, company, units, watched, canEdit, selected, onSelect, onMove }: Props) {
  const { box, width } = useWidth(900);
  const scale = useMemo(() => jawScale(Math.max(NARROWEST, width)), [width]);
  const stations = useMemo(() => new Map(site.stations.map((s) => [s.id, s])), [site.stations]);
  const { drag, handlers, svg } = useWallDrag(scale, canEdit, onMove, rows.length > MANY_ROWS);
  const { policy } = site;
  const graded = policy.basis === "graded";
  const height = TOP + rows.length * ROW + 14;
  const limits = useMemo(
    () => rows.map((r) => wallsOf(r, company, stations.get(r.stationId), policy, drag)),
    [rows, company, stations, policy, drag],
  );
  const focusId = rows.some((r) => r.stationId === selected) ? selected : rows[0]?.stationId;
  return (
    <div ref={box} className="min-w-0">
      <svg
        ref={svg}
        width={scale.width}
        height={height}
        className="block select-none"
        role="group"
        aria-label="Limits against expected flow, one row a station"
        onKeyDown={(e) => stepRows(e, rows)}
      >
        <Head scale={scale} bottom={height - 8} />
        <path d={jawPath(limits, scale)} fill="color-mix(in oklab, var(--water) 14%, var(--paper))" />
        <Ticks scale={scale} bottom={height - 8} />
        {rows.map((r, i) => (
          <JawRow
            key={r.stationId}
            row={r}
            station={stations.get(r.stationId) as Station}
            y={TOP + i * ROW}
            scale={scale}
            company={company}
            units={units}
            watched={watched.get(r.stationId)}
            on={selected === r.stationId}
            focusable={r.stationId === focusId}
            onSelect={onSelect}
          />
        ))}
        {(["high", "low"] as const).map((side) => (
          <path
            key={side}
            d={wallPath(limits, side, scale)}
            fill="none"
            stroke="var(--ink)"
            strokeWidth="3"
            pointerEvents="none"
          />
        ))}
        {company === "alone" &&
          !graded &&
          limits.map((l, i) =>
            grabbable(drag, rows[i]?.stationId).map((side) => (
              <rect
                key={`${rows[i]?.stationId}${side}`}
                x={scale.xOf(l[side]) - 7}
                y={TOP + i * ROW}
                width="14"
                height={ROW}
                fill="transparent"
                style={{ cursor: canEdit ? "ew-resize" : "default", touchAction: "none" }}
                {...handlers(side, rows[i]?.stationId ?? null)}
              >
                <title>Drag: this row only. The handle at the top moves all.</title>
              </rect>
            )),
          )}
        {!graded &&
          (["low", "high"] as const).map((side) => (
            <Handle
              key={side}
              side={side}
              percent={
                drag && drag.side === side && drag.stationId === null
                  ? drag.percent
                  : policy[side === "high" ? "highPercent" : "lowPercent"]
              }
              scale={scale}
              canEdit={canEdit}
              pointer={handlers(side, null)}
              onMove={onMove}
            />
          ))}
      </svg>
    </div>
  );
}

type Walls = { high: number; low: number };

/** Where the walls of a row stand, as shares of what is expected; one on its way stands where it is dragged. */
function wallsOf(
  row: StationSight,
  company: Company,
  station: Station | undefined,
  policy: SiteFile["policy"],
  drag: Drag | null,
): Walls {
  const at = row[company];
  const walls = { high: at.highLpm / at.expectedLpm, low: at.lowLpm / at.expectedLpm };
  if (!drag) return walls;
  const key = drag.side === "high" ? "highPercent" : "lowPercent";
  const sign = drag.side === "high" ? 1 : -1;
  const own = station?.[key];
  const mine = drag.stationId === null ? own === undefined : drag.stationId === row.stationId;
  if (!mine) return walls;
  // In company the others' shares stay as they are: what moves is told by the change of the percentage.
  const before = drag.stationId === null ? policy[key] : (own ?? policy[key]);
  const moved =
    company === "alone" ? 1 + (sign * drag.percent) / 100 : walls[drag.side] + (sign * (drag.percent - before)) / 100;
  return { ...walls, [drag.side]: moved };
}

function wallPath(limits: readonly Walls[], side: Side, { xOf }: JawScale): string {
  return limits.map((l, i) => `${i === 0 ? "M" : "L"}${xOf(l[side])} ${TOP + i * ROW}V${TOP + (i + 1) * ROW}`).join("");
}

function jawPath(limits: readonly Walls[], scale: JawScale): string {
  if (limits.length === 0) return "";
  const back = limits.map((l, i) => `L${scale.xOf(l.low)} ${TOP + (i + 1) * ROW}V${TOP + i * ROW}`).reverse();
  return `${wallPath(limits, "high", scale)}${back.join("")}Z`;
}

/** Arrows go from row to row; Home and End to the first and last. */
function stepRows(e: React.KeyboardEvent<SVGSVGElement>, rows: readonly StationSight[]): void {
  const at = rows.findIndex((r) => r.stationId === (e.target as HTMLElement).dataset["jawRow"]);
  if (at < 0) return;
  const to = { ArrowDown: at + 1, j: at + 1, ArrowUp: at - 1, k: at - 1, Home: 0, End: rows.length - 1 }[e.key];
  const next = to === undefined ? undefined : rows[to];
  if (!next) return;
  e.preventDefault();
  e.currentTarget.querySelector<SVGGElement>(`[data-jaw-row="${CSS.escape(next.stationId)}"]`)?.focus();
}

/**
 * Dragging a wall: it follows every move at once; the draft, and all that hangs on it, now and then and at the end. Where that is heavy, it follows
 * when the hand rests.
 */
function useWallDrag(scale: JawScale, canEdit: boolean, onMove: Props["onMove"], many: boolean) {
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<Drag | null>(null);
  const count = useRef(0);
  const pending = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const heavy = useRef(many);
  useEffect(() => () => clearTimeout(pending.current), []);
  const commit = (now: Drag): void => {
    const began = performance.now();
    onMove(now.side, now.percent, now.stationId, now.gesture);
    requestAnimationFrame(() => {
      heavy.current = performance.now() - began > HEAVY_MS;
    });
  };
  const percentAt = (clientX: number, side: Side): number => {
    const left = svg.current?.getBoundingClientRect().left ?? 0;
    const ratio = scale.ratioOf(clientX - left);
    const percent = side === "high" ? (ratio - 1) * 100 : (1 - ratio) * 100;
    return Math.round(Math.max(1, Math.min(MOST[side], percent)));
  };
  const handlers = (side: Side, stationId: string | null) => ({
    onPointerDown: (e: React.PointerEvent<SVGElement>): void => {
      if (!canEdit) return;
      e.currentTarget.setPointerCapture(e.pointerId);
      e.preventDefault();
      setDrag({ side, stationId, gesture: `jaw ${++count.current}`, percent: percentAt(e.clientX, side) });
    },
    onPointerMove: (e: React.PointerEvent): void => {
      if (!drag || !(e.buttons & 1)) return;
      const percent = percentAt(e.clientX, drag.side);
      if (percent === drag.percent) return;
      const next = { ...drag, percent };
      setDrag(next);
      if (heavy.current) clearTimeout(pending.current);
      else if (pending.current !== undefined) return;
      pending.current = setTimeout(() => {
        pending.current = undefined;
        setDrag((now) => {
          if (now) queueMicrotask(() => commit(now));
          return now;
        });
      }, COMMIT_MS);
    },
    onPointerUp: (e: React.PointerEvent): void => {
      if (!drag) return;
      clearTimeout(pending.current);
      pending.current = undefined;
      onMove(drag.side, percentAt(e.clientX, drag.side), drag.stationId, drag.gesture);
      setDrag(null);
    },
  });
  return { drag, handlers, svg };
}

function Head({ scale, bottom }: { scale: JawScale; bottom: number }) {
  const heads: [number, string, "start" | "end"][] = [
    [0, "station", "start"],
    [scale.expectedX, "expected", "end"],
    [scale.belowX, "trips below", "end"],
    [scale.aboveX, "above", "end"],
    [scale.watchedX, "watched", "end"],
    [scale.unseenX, "break unseen", "start"],
  ];
  return (
    <>
      <defs>
        <pattern id="jaw-hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="6" stroke="var(--faint)" strokeWidth="1.2" />
        </pattern>
      </defs>
      {heads.map(([x, words, anchor]) => (
        <text key={words} x={x} y={TOP - 10} fontSize="12.5" textAnchor={anchor} fill="var(--faint)">
          {words}
        </text>
      ))}
      <line x1="0" x2={scale.width} y1={TOP} y2={TOP} stroke="var(--hair)" />
      <title>{`ratio of what is read to what is expected, ${bottom > 0 ? "log scale" : ""}`}</title>
    </>
  );
}

function Ticks({ scale: { xOf }, bottom }: { scale: JawScale; bottom: number }) {
  return TICKS.map((t) => (
    <g key={t}>
      <line
        x1={xOf(t)}
        x2={xOf(t)}
        y1={TOP - (t === 1 ? 8 : 2)}
        y2={bottom}
        stroke={t === 1 ? "var(--ink)" : "var(--hair)"}
        strokeWidth={t === 1 ? 1.4 : 1}
      />
      <text x={xOf(t)} y="12" fontSize="12" textAnchor="middle" fill="var(--faint)">
        {t}
      </text>
    </g>
  ));
}

/** Moves the limit of all stations. */
function Handle({
  side,
  percent,
  scale,
  canEdit,
  pointer,
  onMove,
}: {
  side: Side;
  percent: number;
  scale: JawScale;
  canEdit: boolean;
  pointer: React.SVGProps<SVGGElement>;
  onMove: Props["onMove"];
}) {
  const x = scale.xOf(side === "high" ? 1 + percent / 100 : 1 - percent / 100);
  const outward = side === "high" ? "ArrowRight" : "ArrowLeft";
  const inward = side === "high" ? "ArrowLeft" : "ArrowRight";
  return (
    <g
      role="slider"
      tabIndex={canEdit ? 0 : -1}
      aria-label={side === "high" ? "High limit of all stations" : "Low limit of all stations"}
      aria-valuemin={1}
      aria-valuemax={MOST[side]}
      aria-valuenow={percent}
      aria-valuetext={`${percent} % ${side === "high" ? "above" : "below"} expected`}
      style={{ cursor: "ew-resize", touchAction: "none" }}
      onKeyDown={(e) => {
        const by = { [outward]: 1, [inward]: -1 }[e.key];
        if (by === undefined) return;
        e.preventDefault();
        onMove(side, Math.max(1, percent + by), null);
      }}
      {...pointer}
    >
      <rect x={x - 12} y={TOP - 26} width="24" height="28" fill="transparent" />
      <path d={`M${x - 9} ${TOP - 20} h18 v9 l-9 9 l-9 -9 Z`} fill="var(--ink)" />
      <text x={x} y={TOP - 25} textAnchor="middle" fontSize="12.5" fontWeight="600" fill="var(--ink)">
        {side === "high" ? "+" : "−"}
        {percent} %
      </text>
    </g>
  );
}
