import { memo } from "react";
import type { StationSight } from "@/core/limits/sight";
import type { Station } from "@/core/site-file/schema";
import { showNumber, toShown, type UnitSystem } from "@/core/units/units";
import { type Company, inScale, type JawScale, ROW } from "./jaw-scale";

type Props = {
  row: StationSight;
  station: Station;
  y: number;
  scale: JawScale;
  company: Company;
  units: UnitSystem;
  watched: number | undefined;
  on: boolean;
  /** Of all rows one takes the focus; arrows go on from there. */
  focusable: boolean;
  onSelect: (id: string) => void;
};

/** One station: what it should read, what is known of it, where a break would read. */
export const JawRow = memo(function JawRow(props: Props) {
  const { row, station, y, scale, company, units, watched, on, focusable, onSelect } = props;
  const at = row[company];
  const mid = y + ROW / 2;
  const flow = (v: number): string => showNumber(toShown(v, "flow", units), units === "us" || v < 20 ? 1 : 0);
  const unseen = unseenWords(at);
  const name = station.name.length > scale.nameChars ? `${station.name.slice(0, scale.nameChars - 1)}…` : station.name;
  const figure = (x: number, text: string, fill = "var(--ink)") => (
    <text x={x} y={mid + 5} fontSize="13.5" textAnchor="end" fill={fill}>
      {text}
    </text>
  );
  return (
    <g
      role="button"
      data-jaw-row={station.id}
      tabIndex={focusable ? 0 : -1}
      aria-pressed={on}
      aria-label={`${station.number} ${station.name}: expected ${flow(at.expectedLpm)}, trips below ${flow(at.lowLpm)}, above ${flow(at.highLpm)}${unseen ? `, unseen: ${unseen}` : ""}`}
      style={{ cursor: "pointer" }}
      onClick={() => onSelect(station.id)}
      onKeyDown={(e) => {
        if (e.key !== "Enter" && e.key !== " ") return;
        e.preventDefault();
        onSelect(station.id);
      }}
    >
      <rect x="0" y={y} width={scale.width} height={ROW} fill={on ? "var(--bed)" : "transparent"} opacity="0.8" />
      <line x1="0" x2={scale.width} y1={y + ROW} y2={y + ROW} stroke="var(--hair)" />
      <Unreachable row={row} at={at} y={y} scale={scale} />
      <text x="0" y={mid + 5} fontSize="13.5" fill="var(--ink)">
        <tspan fontWeight="600">{station.number}</tspan> {name}
      </text>
      {figure(scale.expectedX, flow(at.expectedLpm), "var(--faint)")}
      {figure(scale.belowX, flow(at.lowLpm))}
      {figure(scale.aboveX, flow(at.highLpm))}
      {figure(
        scale.watchedX,
        watched === undefined ? "–" : `${Math.round(watched * 100)} %`,
        watched !== undefined && watched < 0.7 ? "var(--caution)" : "var(--ink)",
      )}
      <text x={scale.unseenX} y={mid + 5} fontSize="13.5" fill={unseen ? "var(--caution)" : "var(--faint)"}>
        {unseen || "none"}
      </text>
      <Known station={station} base={row.expectedLpm} mid={mid} xOf={scale.xOf} />
      <Break x={scale.xOf(at.outletRatio)} y={mid} seen={at.seesOutlet} label="one broken outlet" />
      <Break x={scale.xOf(at.lateralRatio)} y={mid} seen={at.seesLateral} label="a broken lateral" />
    </g>
  );
});

function unseenWords({ judged, seesOutlet, seesLateral }: StationSight["alone"]): string {
  if (!judged) return "not watched";
  return [seesOutlet ? null : "outlet", seesLateral ? null : "lateral"].filter(Boolean).join(", ");
}

/** What the sensor cannot see, and what the supply cannot deliver. */
function Unreachable({
  row,
  at,
  y,
  scale: { x0, x1, xOf },
}: {
  row: StationSight;
  at: StationSight["alone"];
  y: number;
  scale: JawScale;
}) {
  const least = row.sensorMinLpm === null ? 0 : row.sensorMinLpm / at.expectedLpm;
  const most = row.deliverableLpm === null ? Number.POSITIVE_INFINITY : row.deliverableLpm / at.expectedLpm;
  return (
    <>
      {least > inScale.least && (
        <rect x={x0} y={y + 3} width={Math.max(0, xOf(least) - x0)} height={ROW - 6} fill="url(#jaw-hatch)">
          <title>under the sensor's minimum</title>
        </rect>
      )}
      {most < inScale.most && (
        <rect x={xOf(most)} y={y + 3} width={x1 - xOf(most)} height={ROW - 6} fill="url(#jaw-hatch)">
          <title>more than the supply can deliver</title>
        </rect>
      )}
    </>
  );
}

/** Learned as a capsule of ± 2 standard deviations, entered as a square, design as a diamond. */
function Known({
  station: { learned, enteredFlowLpm, designFlowLpm },
  base,
  mid,
  xOf,
}: {
  station: Station;
  base: number;
  mid: number;
  xOf: JawScale["xOf"];
}) {
  const from = learned ? xOf((learned.meanLpm - 2 * learned.sdLpm) / base) : 0;
  const to = learned ? xOf((learned.meanLpm + 2 * learned.sdLpm) / base) : 0;
  return (
    <>
      {learned && <rect x={from} y={mid - 5} width={Math.max(4, to - from)} height="10" rx="5" fill="var(--water)" />}
      {enteredFlowLpm !== undefined && (
        <rect
          x={xOf(enteredFlowLpm / base) - 5}
          y={mid - 5}
          width="10"
          height="10"
          fill="var(--paper)"
          stroke="var(--ink)"
          strokeWidth="1.6"
        />
      )}
      {designFlowLpm !== undefined && (
        <path
          d={`M${xOf(designFlowLpm / base)} ${mid - 7} l7 7 l-7 7 l-7 -7 Z`}
          fill="var(--paper)"
          stroke="var(--water)"
          strokeWidth="1.6"
        />
      )}
    </>
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
