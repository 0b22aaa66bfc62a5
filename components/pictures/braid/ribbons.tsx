import { memo, useId, useMemo } from "react";
import type { SiteFile } from "@/core/site-file/schema";
import { showNumber, toShown, type UnitSystem, unitLabel } from "@/core/units/units";
import { type BraidRun, type MainChannel, runKey, type RunKey } from "./braid-data";

const JOG_PX = 7;

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
  const stations = useMemo(() => new Map(site.stations.map((s, i) => [s.id, { ...s, place: i }])), [site.stations]);
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
        const s = stations.get(r.run.stationId);
        if (!s) return null;
        const w = Math.max(1, r.width * scale - 1.5);
        const y0 = y(r.from);
        const y1 = Math.max(y0 + 1.5, y(r.to) - 1);
        const key = runKey(r.run);
        const minutes = Math.round((r.to - r.from) / 6) / 10;
        const text = `${showNumber(toShown(r.width, "flow", units), units === "us" ? 1 : 0)} ${unitLabel("flow", units)} · ${minutes} min`;
        const over = Math.max(...r.steps.map((st) => st.x)) + r.width > channel.ceilingLpm + 1e-6 && channel.limited;
        const tint = r.own ? tintOf(programs.get(r.run.programId) ?? 0) : PASSING;
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
            data-run={key}
            data-end={r.run.end}
            role="button"
            tabIndex={r.own && key === focusKey ? 0 : -1}
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
              strokeWidth={selected === key ? 3 : 1}
              {...edgeOf(r, selected === key)}
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
