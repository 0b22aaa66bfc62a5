import { expectedFlow } from "@/core/site-file/expected-flow";
import type { Device } from "@/core/site-file/schema";
import { showNumber, showQuantity, toShown, type UnitSystem } from "@/core/units/units";
import { DEVICE_WORDS, RULE_WORDS, SHORT_RULE_WORDS } from "../../words/rule-words";
import { outline, type Piece, type Shape, STATION_COLUMN, STATION_ROW } from "./shapes";

const WATER = "color-mix(in oklab, var(--water) 42%, var(--paper))";

export type PictureProps = {
  shape: Shape;
  units: UnitSystem;
  compact: boolean;
  selected: string | null;
  sourceKind?: string | undefined;
  /** Captions of every piece even where space is short. */
  captions?: boolean;
  /** Makes a part selectable; absent: a picture only. */
  pick?: (id: string, label: string) => React.SVGProps<SVGGElement>;
};

/** One element: its pipe, its pieces and stations, in its own frame. */
export function RunPicture({
  shape,
  units,
  compact,
  selected,
  sourceKind,
  captions = !compact,
  pick = () => ({}),
}: PictureProps) {
  const { axisY, ceiling, locked, off } = shape;
  const figure = (lpm: number | null): string => (lpm === null ? "no limit" : showQuantity(lpm, "flow", units));
  const { top, bottom, body } = outline(shape);
  return (
    <>
      <g
        {...pick(
          shape.id,
          `${shape.kind === "source" ? "Source " : ""}${shape.name}, ${off ? "not in use" : `ceiling ${figure(ceiling.ceilingLpm)}`}`,
        )}
      >
        <rect
          x="0"
          y="-2"
          width={shape.width}
          height={shape.height + 2}
          fill={selected === shape.id ? "var(--bed)" : "transparent"}
        />
        <path d={body} fill={locked || off ? "var(--paper)" : WATER} />
        <path
          d={`${top} ${bottom}`}
          fill="none"
          stroke="var(--ink)"
          strokeWidth="1.8"
          strokeDasharray={off ? "7 5" : undefined}
        />
        {locked && (
          <path
            d={`M${shape.end / 2 - 14} ${axisY - 16} l28 32 m0 -32 l-28 32`}
            stroke="var(--alarm)"
            strokeWidth="4"
          />
        )}
        {shape.kind === "source" && (
          <rect x="-6" y={axisY - (compact ? 16 : 20)} width="6" height={compact ? 32 : 40} fill="var(--ink)" />
        )}
        <RunWords shape={shape} units={units} compact={compact} sourceKind={sourceKind} />
      </g>
      {shape.pieces.map((p) => (
        <PieceMark
          key={p.id}
          piece={p}
          axisY={axisY}
          units={units}
          compact={compact}
          captions={captions}
          selected={selected === p.id}
          pick={pick}
        />
      ))}
      {shape.open && <Stations shape={shape} units={units} selected={selected} pick={pick} />}
    </>
  );
}

/** Name and what limits it: in one line where it is compact, else over and under the pipe. */
function RunWords({
  shape,
  units,
  compact,
  sourceKind,
}: {
  shape: Shape;
  units: UnitSystem;
  compact: boolean;
  sourceKind: string | undefined;
}) {
  const { axisY, ceiling, locked, off } = shape;
  const isSource = shape.kind === "source";
  const ink = locked ? "var(--alarm)" : "var(--ink)";
  const name = `${shape.name}${locked ? " — LOCKED OUT" : ""}`;
  const limit = (rules: Record<string, string>, none: string): string => {
    if (off) return "not in use";
    return isSource ? ceilingWords(ceiling.ceilingLpm, units) : limitWords(ceiling, units, rules, none);
  };
  if (compact)
    return (
      <text x="0" y="13" fontSize="13.5" fill="var(--ink)">
        <tspan fontSize="16" fontWeight="600" fill={ink}>
          {name}
        </tspan>
        {`  ${limit(SHORT_RULE_WORDS, "no limit")}`}
      </text>
    );
  const words = limit(RULE_WORDS, "nothing limits it");
  const under = isSource ? `${SOURCE_WORDS[sourceKind ?? ""] ?? sourceKind}, ${words}` : words;
  return (
    <>
      <text x="0" y={axisY - (isSource ? 27 : 58)} fontSize="15" fontWeight="600" fill={ink}>
        {name}
      </text>
      <text x="0" y={axisY + (isSource ? 33 : 66)} fontSize="13" fill="var(--ink)">
        {under}
      </text>
    </>
  );
}

const ceilingWords = (lpm: number | null, units: UnitSystem): string =>
  lpm === null ? "no limit" : showQuantity(lpm, "flow", units);
const limitWords = (
  { ceilingLpm, boundBy }: Shape["ceiling"],
  units: UnitSystem,
  words: Record<string, string>,
  none: string,
): string => (boundBy ? `${ceilingWords(ceilingLpm, units)}: ${words[boundBy.rule]}` : none);

/** A piece on the pipe, with its name and ceiling where there is room for them. */
function PieceMark({
  piece: p,
  axisY,
  units,
  compact,
  captions,
  selected,
  pick,
}: {
  piece: Piece;
  axisY: number;
  units: UnitSystem;
  compact: boolean;
  captions: boolean;
  selected: boolean;
  pick: NonNullable<PictureProps["pick"]>;
}) {
  const size = compact
    ? { half: 19, above: 34, height: 52, reach: 14, name: 21, ceiling: 30, nameSize: 9, figureSize: 9 }
    : { half: 29, above: 52, height: 104, reach: 20, name: 34, ceiling: 48, nameSize: 12, figureSize: 12.5 };
  // Under a pipe that is thicker than the room for it, words stand further down.
  const down = Math.max(0, p.half + 12 - size.name);
  const label = p.device.name ?? DEVICE_WORDS[p.device.kind];
  return (
    <g {...pick(p.id, `${label}${p.lpm === null ? "" : `, ${ceilingWords(p.lpm, units)}`}${p.binds ? ", binds" : ""}`)}>
      <rect
        x={p.x - size.half}
        y={axisY - size.above}
        width={2 * size.half}
        height={size.height}
        fill="transparent"
        stroke={selected ? "var(--water)" : "none"}
        strokeWidth="2.5"
      />
      <Mark piece={p} y={axisY} small={compact} />
      {p.binds && <Pinch piece={p} y={axisY} reach={size.reach} />}
      {captions && (
        <>
          <text x={p.x} y={axisY + size.name + down} fontSize={size.nameSize} textAnchor="middle" fill="var(--ink)">
            {shortName(p.device)}
          </text>
          <text
            x={p.x}
            y={axisY + size.ceiling + down}
            fontSize={size.figureSize}
            textAnchor="middle"
            fontWeight={p.binds ? 600 : 400}
            fill={p.binds ? "var(--caution)" : "var(--faint)"}
          >
            {p.lpm === null ? "" : showNumber(toShown(p.lpm, "flow", units), units === "us" ? 1 : 0)}
          </text>
        </>
      )}
    </g>
  );
}

const SOURCE_WORDS: Record<string, string> = {
  municipal: "town main",
  well: "well",
  pond: "pond",
  reclaimed: "reclaimed",
  tank: "tank",
};

/** The stations of an opened main, in file order, each on its stub. */
function Stations({
  shape,
  units,
  selected,
  pick,
}: {
  shape: Shape;
  units: UnitSystem;
  selected: string | null;
  pick: NonNullable<PictureProps["pick"]>;
}) {
  const first = shape.height - Math.min(10, shape.stations.length) * STATION_ROW;
  return (
    <>
      <path d={`M0 ${first - 12} H${shape.width}`} stroke="var(--hair)" />
      {shape.stations.map((s, i) => {
        const [x, y] = [Math.floor(i / 10) * STATION_COLUMN, first + (i % 10) * STATION_ROW];
        const flow = expectedFlow(s)?.lpm;
        return (
          <g key={s.id} {...pick(s.id, `Station ${s.number} ${s.name}`)}>
            <rect
              x={x - 2}
              y={y - 12}
              width={STATION_COLUMN - 8}
              height={STATION_ROW - 1}
              fill="transparent"
              stroke={selected === s.id ? "var(--water)" : "none"}
              strokeWidth="2"
            />
            <path
              d={`M${x} ${y - 4} h6 m0 -4 v8`}
              stroke={s.lockedOut ? "var(--alarm)" : "var(--ink)"}
              strokeWidth="1.6"
              fill="none"
            />
            <text x={x + 11} y={y} fontSize="12.5" fill={s.lockedOut ? "var(--alarm)" : "var(--ink)"}>
              <tspan fontWeight="600">{s.number}</tspan> {s.name.length > 17 ? `${s.name.slice(0, 16)}…` : s.name}
            </text>
            <text x={x + STATION_COLUMN - 14} y={y} fontSize="12.5" textAnchor="end" fill="var(--faint)">
              {flow === undefined ? "–" : showNumber(toShown(flow, "flow", units), units === "us" ? 1 : 0)}
            </text>
          </g>
        );
      })}
    </>
  );
}

/** The piece that binds: jaws of the pipe, marked in the caution hue and by the word. */
function Pinch({ piece, y, reach }: { piece: Piece; y: number; reach: number }) {
  const h = piece.half;
  const in2 = reach * 0.6;
  const depth = reach > 15 ? 9 : 6;
  return (
    <path
      d={`M${piece.x - reach} ${y - h - depth} h${2 * reach} l-${in2} ${depth} h-${2 * (reach - in2)} Z M${piece.x - reach} ${y + h + depth} h${2 * reach} l-${in2} -${depth} h-${2 * (reach - in2)} Z`}
      fill="var(--caution)"
    />
  );
}

export function shortName(device: Device): string {
  if (device.kind === "pipe") return device.nominal.length > 8 ? "pipe" : device.nominal;
  if (device.kind === "masterValve") return device.normally === "open" ? "MV, open" : "MV";
  if (device.kind === "pump") return (device.parallel ?? 1) > 1 ? `${device.parallel} pumps` : "pump";
  return {
    meter: "meter",
    backflow: "backflow",
    fixedLoss: "filter",
    regulator: "regulator",
    pressureSensor: "pressure",
    flowSensor: "sensor",
  }[device.kind];
}

/** A mark above the pipe on a short stem. Our own shapes: what the body looks like from the side. */
function Mark({ piece, y, small }: { piece: Piece; y: number; small: boolean }) {
  const { x, device, half } = piece;
  const ink = { stroke: "var(--ink)", strokeWidth: 1.6, fill: "var(--paper)" } as const;
  if (device.kind === "pipe")
    return (
      <path
        d={`M${x - (small ? 9 : 14)} ${y} h${small ? 18 : 28} m-7 -4 l7 4 l-7 4`}
        stroke="var(--ink)"
        strokeWidth="1.4"
        fill="none"
      />
    );
  const cy = y - (small ? 24 : 36);
  const stem = <line x1={x} x2={x} y1={y - half} y2={cy + 9} stroke="var(--ink)" strokeWidth="1.6" />;
  const mark = ((): React.ReactNode => {
    switch (device.kind) {
      case "meter":
        return (
          <>
            <rect x={x - 13} y={cy - 9} width="26" height="18" {...ink} />
            <path d={`M${x - 8} ${cy - 3} v6 m5 -6 v6 m5 -6 v6 m5 -6 v6`} stroke="var(--ink)" strokeWidth="1.4" />
          </>
        );
      case "backflow":
        return <path d={`M${x - 13} ${cy - 8} v16 l11 -8 Z M${x + 2} ${cy - 8} v16 l11 -8 Z`} {...ink} />;
      case "masterValve":
        return (
          <path
            d={`M${x - 10} ${cy - 9} h20 v8 a10 10 0 0 1 -20 0 Z`}
            {...ink}
            fill={device.normally === "closed" ? "var(--ink)" : "var(--paper)"}
          />
        );
      case "pump":
        return (
          <>
            <circle cx={x} cy={cy} r="11" {...ink} />
            <path
              d={`M${x - 6} ${cy + 5} L${x + 8} ${cy} L${x - 6} ${cy - 5}`}
              fill="none"
              stroke="var(--ink)"
              strokeWidth="1.6"
            />
          </>
        );
      case "flowSensor":
        return (
          <>
            <path d={`M${x} ${cy - 11} l11 11 l-11 11 l-11 -11 Z`} {...ink} />
            <path d={`M${x - 6} ${cy} q3 -5 6 0 t6 0`} fill="none" stroke="var(--water)" strokeWidth="2" />
          </>
        );
      case "pressureSensor":
        return <path d={`M${x - 11} ${cy + 8} a11 11 0 0 1 22 0 Z M${x} ${cy + 8} l6 -8`} {...ink} />;
      case "regulator":
        return <path d={`M${x - 10} ${cy + 8} L${x} ${cy - 10} L${x + 10} ${cy + 8} Z`} {...ink} />;
      case "fixedLoss":
        return (
          <path
            d={`M${x - 11} ${cy - 9} h22 v18 h-22 Z M${x - 11} ${cy - 9} l22 18 M${x - 11} ${cy} l11 9 M${x} ${cy - 9} l11 9`}
            {...ink}
          />
        );
    }
  })();
  return (
    <>
      {stem}
      {small ? <g transform={`translate(${x} ${cy}) scale(0.72) translate(${-x} ${-cy})`}>{mark}</g> : mark}
    </>
  );
}
