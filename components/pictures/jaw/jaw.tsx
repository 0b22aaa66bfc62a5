"use client";
import { useRef } from "react";
import type { StationSight } from "@/core/limits/sight";
import type { SiteFile, Station } from "@/core/site-file/schema";
import { showNumber, toShown, type UnitSystem } from "@/core/units/units";

const ROW = 27;
const TOP = 66;
const X0 = 330;
const X1 = 1010;
const WIDTH = 1290;
const LO = Math.log(0.35);
const HI = Math.log(2.2);
const TICKS = [0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1, 1.1, 1.25, 1.5, 1.75, 2];

const xOf = (ratio: number): number =>
  X0 + ((Math.log(Math.max(0.351, Math.min(2.199, ratio))) - LO) / (HI - LO)) * (X1 - X0);
const ratioOf = (x: number): number => Math.exp(LO + ((x - X0) / (X1 - X0)) * (HI - LO));

/** In which company a station is judged: by itself, in the set of the plan where its break stands out most, in the largest. */
export type Company = "alone" | "best" | "fullest";
type Props = {
  site: SiteFile;
  rows: StationSight[];
  company: Company;
  units: UnitSystem;
  watched: Map<string, number>;
  canEdit: boolean;
  selected: string | null;
  onSelect: (id: string) => void;
  /** side, percent; a station id overrides one row, none moves all. */
  onMove: (
    side: "high" | "low",
    percent: number,
    stationId: string | null,
    /** One drag is one change. */ gesture?: string,
  ) => void;
};

/**
 * The jaw: one row a station, across is reading ÷ expected on a log scale, so 1.0 is one spine down the page. The two stepped lines are the limits;
 * triangles are where a break would read: solid outside the jaw (seen), hollow inside (unseen).
 */
export function Jaw({ site, rows, company, units, watched, canEdit, selected, onSelect, onMove }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const drag = useRef<{
    side: "high" | "low";
    stationId: string | null;
    gesture: string;
    percent: number | null;
  } | null>(null);
  const drags = useRef(0);
  const stations = new Map(site.stations.map((s) => [s.id, s]));
  const height = TOP + rows.length * ROW + 14;
  const limits = rows.map((r) => {
    const at = r[company];
    return { high: at.highLpm / at.expectedLpm, low: at.lowLpm / at.expectedLpm };
  });
  const wall = (side: "high" | "low"): string =>
    limits.map((l, i) => `${i === 0 ? "M" : "L"}${xOf(l[side])} ${TOP + i * ROW} V${TOP + (i + 1) * ROW}`).join(" ");
  const jaw =
    limits.length > 0
      ? `${wall("high")} ${[...limits]
          .reverse()
          .map((l, k) => {
            const i = limits.length - 1 - k;
            return `L${xOf(l.low)} ${TOP + (i + 1) * ROW} V${TOP + i * ROW}`;
          })
          .join(" ")} Z`
      : "";
  const percentAt = (clientX: number, side: "high" | "low"): number => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return 0;
    const ratio = ratioOf(((clientX - box.left) / box.width) * WIDTH);
    return Math.round(
      Math.max(1, Math.min(side === "high" ? 119 : 64, side === "high" ? (ratio - 1) * 100 : (1 - ratio) * 100)),
    );
  };
  const begin =
    (side: "high" | "low", stationId: string | null) =>
    (e: React.PointerEvent<SVGElement>): void => {
      if (!canEdit) return;
      e.currentTarget.setPointerCapture(e.pointerId);
      drag.current = { side, stationId, gesture: `jaw ${++drags.current}`, percent: null };
      e.preventDefault();
    };
  const move = (e: React.PointerEvent): void => {
    const now = drag.current;
    if (!now || !(e.buttons & 1)) return;
    const percent = percentAt(e.clientX, now.side);
    if (percent === now.percent) return;
    now.percent = percent;
    onMove(now.side, percent, now.stationId, now.gesture);
  };
  const end = (): void => {
    drag.current = null;
  };
  const policy = site.policy;
  const graded = policy.basis === "graded";
  const handle = (side: "high" | "low") => {
    const percent = side === "high" ? policy.highPercent : policy.lowPercent;
    const x = xOf(side === "high" ? 1 + percent / 100 : 1 - percent / 100);
    return (
      <g
        role="slider"
        tabIndex={canEdit ? 0 : -1}
        aria-label={side === "high" ? "High limit of all stations" : "Low limit of all stations"}
        aria-valuemin={1}
        aria-valuemax={side === "high" ? 119 : 64}
        aria-valuenow={percent}
        aria-valuetext={`${percent} % ${side === "high" ? "above" : "below"} expected`}
        style={{ cursor: "ew-resize", touchAction: "none" }}
        onPointerDown={begin(side, null)}
        onPointerMove={move}
        onPointerUp={end}
        onKeyDown={(e) => {
          const outward = side === "high" ? "ArrowRight" : "ArrowLeft";
          const inward = side === "high" ? "ArrowLeft" : "ArrowRight";
          if (e.key === outward) {
            e.preventDefault();
            onMove(side, percent + 1, null);
          }
          if (e.key === inward) {
            e.preventDefault();
            onMove(side, Math.max(1, percent - 1), null);
          }
        }}
      >
        <rect x={x - 12} y={TOP - 26} width="24" height="28" fill="transparent" />
        <path d={`M${x - 9} ${TOP - 20} h18 v9 l-9 9 l-9 -9 Z`} fill="var(--ink)" />
        <text x={x} y={TOP - 25} textAnchor="middle" fontSize="12.5" fontWeight="600" fill="var(--ink)">
          {side === "high" ? "+" : "−"}
          {percent} %
        </text>
      </g>
    );
  };
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${WIDTH} ${height}`}
      className="block w-full min-w-[56rem] select-none"
      role="group"
      aria-label="Limits against expected flow, one row a station"
    >
      <defs>
        <pattern id="jaw-hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1="0" y1="0" x2="0" y2="6" stroke="var(--faint)" strokeWidth="1.2" />
        </pattern>
      </defs>
      <text x="0" y={TOP - 12} fontSize="13" fill="var(--faint)">
        station
      </text>
      <text x="238" y={TOP - 12} fontSize="13" textAnchor="end" fill="var(--faint)">
        expected
      </text>
      <text x="312" y={TOP - 12} fontSize="13" textAnchor="end" fill="var(--faint)">
        trips below
      </text>
      <text x="1082" y={TOP - 12} fontSize="13" textAnchor="end" fill="var(--faint)">
        trips above
      </text>
      <text x="1155" y={TOP - 12} fontSize="13" textAnchor="end" fill="var(--faint)">
        watched
      </text>
      <text x="1170" y={TOP - 12} fontSize="13" fill="var(--faint)">
        break unseen
      </text>
      <path d={jaw} fill="color-mix(in oklab, var(--water) 14%, var(--paper))" />
      {TICKS.map((t) => (
        <g key={t}>
          <line
            x1={xOf(t)}
            x2={xOf(t)}
            y1={TOP - (t === 1 ? 8 : 2)}
            y2={height - 8}
            stroke={t === 1 ? "var(--ink)" : "var(--hair)"}
            strokeWidth={t === 1 ? 1.4 : 1}
          />
          <text x={xOf(t)} y="12" fontSize="12" textAnchor="middle" fill="var(--faint)">
            {t}
          </text>
          <line x1={xOf(t)} x2={xOf(t)} y1="16" y2="21" stroke="var(--faint)" />
        </g>
      ))}
      {rows.map((r, i) => (
        <Row
          key={r.stationId}
          row={r}
          station={stations.get(r.stationId) as Station}
          y={TOP + i * ROW}
          company={company}
          units={units}
          watched={watched.get(r.stationId)}
          on={selected === r.stationId}
          onSelect={onSelect}
        />
      ))}
      <path d={wall("high")} fill="none" stroke="var(--ink)" strokeWidth="3" pointerEvents="none" />
      <path d={wall("low")} fill="none" stroke="var(--ink)" strokeWidth="3" pointerEvents="none" />
      {company === "alone" &&
        !graded &&
        limits.map((l, i) =>
          (["high", "low"] as const).map((side) => (
            <rect
              key={`${rows[i]?.stationId}${side}`}
              x={xOf(l[side]) - 7}
              y={TOP + i * ROW}
              width="14"
              height={ROW}
              fill="transparent"
              style={{ cursor: canEdit ? "ew-resize" : "default", touchAction: "none" }}
              onPointerDown={begin(side, rows[i]?.stationId ?? null)}
              onPointerMove={move}
              onPointerUp={end}
            >
              <title>Drag: this row only. The handle at the top moves all.</title>
            </rect>
          )),
        )}
      {!graded && handle("low")}
      {!graded && handle("high")}
    </svg>
  );
}

function Row({
  row,
  station,
  y,
  company,
  units,
  watched,
  on,
  onSelect,
}: {
  row: StationSight;
  station: Station;
  y: number;
  company: Company;
  units: UnitSystem;
  watched: number | undefined;
  on: boolean;
  onSelect: (id: string) => void;
}) {
  const at = row[company];
  const mid = y + ROW / 2;
  const flow = (v: number): string => showNumber(toShown(v, "flow", units), units === "us" || v < 20 ? 1 : 0);
  const base = row.expectedLpm;
  const unseen = [at.seesOutlet ? null : "outlet", at.seesLateral ? null : "lateral"].filter(Boolean).join(", ");
  const minRatio = row.sensorMinLpm === null ? 0 : row.sensorMinLpm / at.expectedLpm;
  const maxRatio = row.deliverableLpm === null ? Number.POSITIVE_INFINITY : row.deliverableLpm / at.expectedLpm;
  return (
    <g
      role="button"
      tabIndex={0}
      aria-pressed={on}
      aria-label={`${station.number} ${station.name}: expected ${flow(at.expectedLpm)}, trips below ${flow(at.lowLpm)}, above ${flow(at.highLpm)}${unseen ? `, unseen: ${unseen}` : ""}`}
      style={{ cursor: "pointer" }}
      onClick={() => onSelect(station.id)}
      onKeyDown={(e) => {
        if (e.key === "Enter" || e.key === " ") {
          e.preventDefault();
          onSelect(station.id);
        }
      }}
    >
      <rect x="0" y={y} width={WIDTH} height={ROW} fill={on ? "var(--bed)" : "transparent"} opacity="0.8" />
      <line x1="0" x2={WIDTH} y1={y + ROW} y2={y + ROW} stroke="var(--hair)" />
      {minRatio > 0.351 && (
        <rect x={X0} y={y + 3} width={Math.max(0, xOf(minRatio) - X0)} height={ROW - 6} fill="url(#jaw-hatch)">
          <title>under the sensor's minimum</title>
        </rect>
      )}
      {maxRatio < 2.199 && (
        <rect x={xOf(maxRatio)} y={y + 3} width={X1 - xOf(maxRatio)} height={ROW - 6} fill="url(#jaw-hatch)">
          <title>more than the supply can deliver</title>
        </rect>
      )}
      <text x="0" y={mid + 5} fontSize="14" fill="var(--ink)">
        <tspan fontWeight="600">{station.number}</tspan>{" "}
        {station.name.length > 22 ? `${station.name.slice(0, 21)}…` : station.name}
      </text>
      <text x="238" y={mid + 5} fontSize="14" textAnchor="end" fill="var(--faint)">
        {flow(at.expectedLpm)}
      </text>
      <text x="312" y={mid + 5} fontSize="14" textAnchor="end" fill="var(--ink)">
        {flow(at.lowLpm)}
      </text>
      <text x="1082" y={mid + 5} fontSize="14" textAnchor="end" fill="var(--ink)">
        {flow(at.highLpm)}
      </text>
      <text
        x="1155"
        y={mid + 5}
        fontSize="14"
        textAnchor="end"
        fill={watched !== undefined && watched < 0.7 ? "var(--caution)" : "var(--ink)"}
      >
        {watched === undefined ? "–" : `${Math.round(watched * 100)} %`}
      </text>
      <text x="1170" y={mid + 5} fontSize="14" fill={unseen ? "var(--caution)" : "var(--faint)"}>
        {unseen || "none"}
      </text>
      {station.learned &&
        (() => {
          const a = xOf((station.learned.meanLpm - 2 * station.learned.sdLpm) / base);
          const b = xOf((station.learned.meanLpm + 2 * station.learned.sdLpm) / base);
          return <rect x={a} y={mid - 5} width={Math.max(4, b - a)} height="10" rx="5" fill="var(--water)" />;
        })()}
      {station.enteredFlowLpm !== undefined && (
        <rect
          x={xOf(station.enteredFlowLpm / base) - 5}
          y={mid - 5}
          width="10"
          height="10"
          fill="var(--paper)"
          stroke="var(--ink)"
          strokeWidth="1.6"
        />
      )}
      {station.designFlowLpm !== undefined && (
        <path
          d={`M${xOf(station.designFlowLpm / base)} ${mid - 7} l7 7 l-7 7 l-7 -7 Z`}
          fill="var(--paper)"
          stroke="var(--water)"
          strokeWidth="1.6"
        />
      )}
      <Break x={xOf(at.outletRatio)} y={mid} seen={at.seesOutlet} label="one broken outlet" />
      <Break x={xOf(at.lateralRatio)} y={mid} seen={at.seesLateral} label="a broken lateral" />
    </g>
  );
}

function Break({ x, y, seen, label }: { x: number; y: number; seen: boolean; label: string }) {
  return (
    <path
      d={`M${x} ${y - 7} l7 13 h-14 Z`}
      fill={seen ? "var(--caution)" : "var(--paper)"}
      stroke="var(--caution)"
      strokeWidth="1.6"
    >
      <title>{`${label}: ${seen ? "seen" : "unseen"}`}</title>
    </path>
  );
}
