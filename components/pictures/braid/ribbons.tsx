import { memo, useId, useMemo } from "react";
import type { SiteFile, Station } from "@/core/site-file/schema";
import { showNumber, toShown, type UnitSystem, unitLabel } from "@/core/units/units";
import { type BraidRun, type MainChannel, runKey, type RunKey } from "./braid-data";

const JOG_PX = 7;
/** Two lines of words. */
const FIRST_LINES_PX = 34;
type ChannelRibbon = MainChannel["ribbons"][number];

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

const PASSING = { fill: "color-mix(in oklab, var(--water) 18%, var(--paper))", text: "var(--ink)" };

/** The edge of a ribbon: ink when chosen, a test run told by its dashes, one that belongs to another channel dashed in water. */
function edgeOf(r: { own: boolean; run: BraidRun }, chosen: boolean): { stroke: string; strokeDasharray?: string } {
  if (r.run.test) return { stroke: chosen ? "var(--ink)" : "var(--caution)", strokeDasharray: "3 2" };
  if (chosen) return { stroke: "var(--ink)" };
  return r.own ? { stroke: "none" } : { stroke: "var(--water)", strokeDasharray: "3 3" };
}

/** A ribbon's tone means its program: tones of the one water hue, each with a text colour that passes AA on it. */
export const TINTS: { fill: string; text: string }[] = [
  { fill: "var(--water)", text: "var(--color-primary-content)" },
  { fill: "color-mix(in oklab, var(--water) 42%, var(--paper))", text: "var(--ink)" },
  { fill: "color-mix(in oklab, var(--water) 62%, var(--ink))", text: "var(--color-primary-content)" },
  { fill: "color-mix(in oklab, var(--water) 26%, var(--paper))", text: "var(--ink)" },
  { fill: "color-mix(in oklab, var(--water) 30%, var(--ink))", text: "var(--paper)" },
];
export const tintOf = (program: number): { fill: string; text: string } => TINTS[program % TINTS.length] ?? PASSING;

/** The runs of one main. */
export const Ribbons = memo(function Ribbons({ site, channel, x, scale, y, units, selected, onSelect }: RibbonsProps) {
  const stations = useMemo(() => new Map(site.stations.map((s) => [s.id, s])), [site.stations]);
  const programs = useMemo(() => new Map(site.programs.map((p, i) => [p.id, i])), [site.programs]);
  const past = useId();
  const own = channel.ribbons.filter((r) => r.own);
  // Of all ribbons of a channel one takes the focus; the arrows go on from there.
  const firstKey = own[0] ? runKey(own[0].run) : null;
  const focusKey = own.some((r) => runKey(r.run) === selected) ? selected : firstKey;
  return (
    <>
      <clipPath id={past}>
        <rect x={x + channel.ceilingLpm * scale} y="0" width="4000" height="100000" />
      </clipPath>
      {channel.ribbons.map((r) => {
        const station = stations.get(r.run.stationId);
        const key = runKey(r.run);
        return station ? (
          <Ribbon
            key={key}
            ribbon={r}
            station={station}
            place={placeOf(r, x, scale, y)}
            tint={r.own ? tintOf(programs.get(r.run.programId) ?? 0) : PASSING}
            ceilingLpm={channel.limited ? channel.ceilingLpm : Number.POSITIVE_INFINITY}
            ceilingX={x + channel.ceilingLpm * scale}
            past={past}
            units={units}
            chosen={selected === key}
            focusable={r.own && key === focusKey}
            onSelect={onSelect}
          />
        ) : null;
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

/** Where a ribbon is drawn, px: its outline, and where there is room for words in it. */
type Place = { path: string; width: number; top: number; textX: number; textTop: number; room: number };

function placeOf(r: ChannelRibbon, x: number, scale: number, y: (at: number) => number): Place {
  const width = Math.max(1, r.width * scale - 1.5);
  const top = y(r.from);
  const bottom = Math.max(top + 1.5, y(r.to) - 1);
  const [first, second] = r.steps;
  const last = r.steps.at(-1);
  // Where it jogs soon after its beginning, words stand behind the last jog.
  const below = second !== undefined && last !== undefined && y(second.at) - top < FIRST_LINES_PX;
  const textTop = below ? y(last.at) + JOG_PX : top;
  return {
    path: ribbonPath(r.steps, x, scale, width, y, top, bottom),
    width,
    top,
    textX: x + ((below ? last : first)?.x ?? 0) * scale + 5,
    textTop,
    room: bottom - textTop,
  };
}

function Ribbon({
  ribbon,
  station,
  place,
  tint,
  ceilingLpm,
  ceilingX,
  past,
  units,
  chosen,
  focusable,
  onSelect,
}: {
  ribbon: ChannelRibbon;
  station: Station;
  place: Place;
  tint: { fill: string; text: string };
  ceilingLpm: number;
  ceilingX: number;
  /** Id of the clip that leaves what is past the ceiling. */
  past: string;
  units: UnitSystem;
  chosen: boolean;
  focusable: boolean;
  onSelect: (run: BraidRun) => void;
}) {
  const { run } = ribbon;
  const key = runKey(run);
  const minutes = Math.round((ribbon.to - ribbon.from) / 6) / 10;
  const figures = `${showNumber(toShown(ribbon.width, "flow", units), units === "us" ? 1 : 0)} ${unitLabel("flow", units)} · ${minutes} min`;
  const label = `${station.number} ${station.name}, ${figures}`;
  const most = Math.max(...ribbon.steps.map((step) => step.x)) + ribbon.width;
  const over = most > ceilingLpm + 1e-6;
  return (
    <g
      data-run={key}
      data-end={run.end}
      role="button"
      tabIndex={focusable ? 0 : -1}
      aria-label={`${label}${over ? ", past the ceiling" : ""}`}
      aria-pressed={chosen}
      style={{ cursor: "pointer" }}
      onClick={() => onSelect(run)}
      onKeyDown={(e) => {
        if (e.key !== "Enter" && e.key !== " ") return;
        e.preventDefault();
        onSelect(run);
      }}
    >
      <path d={place.path} fill={tint.fill} strokeWidth={chosen ? 3 : 1} {...edgeOf(ribbon, chosen)} />
      {over && <path d={place.path} fill="url(#hatch)" clipPath={`url(#${past})`} pointerEvents="none" />}
      <RibbonWords station={station} figures={figures} label={label} place={place} fill={tint.text} />
      {over && (
        <text
          x={ceilingX + 6}
          y={place.top + 12}
          fontSize="12.5"
          fontWeight="600"
          fill="var(--alarm)"
          stroke="var(--paper)"
          strokeWidth="3"
          paintOrder="stroke"
        >
          +{showNumber(toShown(most - ceilingLpm, "flow", units))}
        </text>
      )}
      <title>{label}</title>
    </g>
  );
}

/** As much as there is room for: number, or all in one line; flow and minutes; name. */
function RibbonWords({
  station,
  figures,
  label,
  place: { width, room, textX, textTop },
  fill,
}: {
  station: Station;
  figures: string;
  label: string;
  place: Place;
  fill: string;
}) {
  const wide = (words: string): boolean => width > words.length * 6.2 + 10;
  const showFigures = wide(figures) && room >= 30;
  return (
    <>
      {width > String(station.number).length * 7 + 6 && room > 14 && (
        <text x={textX} y={textTop + 14} fontSize="13.5" fontWeight="600" fill={fill}>
          {width > label.length * 6.6 && room < 30 ? label : station.number}
        </text>
      )}
      {showFigures && (
        <text x={textX} y={textTop + 28} fontSize="12.5" fill={fill}>
          {figures}
        </text>
      )}
      {wide(station.name) && room >= 44 && (
        <text x={textX} y={textTop + (showFigures ? 42 : 28)} fontSize="12.5" fill={fill}>
          {station.name}
        </text>
      )}
    </>
  );
}

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
