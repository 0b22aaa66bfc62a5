"use client";
import { useMemo } from "react";
import { useWorkspace } from "@/components/workspace/workspace";
import type { Device } from "@/core/site-file/schema";
import { showQuantity, toShown, showNumber } from "@/core/units/units";
import { drawing, outline, type Piece, type Run } from "./drawing-layout";
import { DEVICE_WORDS, RULE_WORDS } from "./rule-words";

type Props = { selected: string | null; onSelect: (id: string) => void; flows?: Map<string, number>; compact?: boolean };

/** The waterworks from source to mainline: thickness follows ceiling, and the pinch is named where it binds. */
export function WaterworksDrawing({ selected, onSelect, flows, compact }: Props) {
  const { draft, units } = useWorkspace();
  const d = useMemo(() => drawing(draft), [draft]);
  const pick = (id: string) => ({
    role: "button", tabIndex: 0, onClick: () => onSelect(id),
    onKeyDown: (e: React.KeyboardEvent) => { if (e.key === "Enter" || e.key === " ") { e.preventDefault(); onSelect(id); } },
    "aria-pressed": selected === id, style: { cursor: "pointer" },
  });
  const figure = (lpm: number | null): string => (lpm === null ? "no limit" : showQuantity(lpm, "flow", units));
  return (
    <svg viewBox={`0 0 ${d.width} ${d.height}`} className="block" style={{ width: "100%", maxWidth: d.width * 1.15, minWidth: Math.min(d.width, compact ? 340 : 700) }} role="group" aria-label="Drawing of the waterworks">
      {d.links.map((l) => <path key={`${l.from}>${l.to}`} d={l.d} fill="none" stroke="var(--ink)" strokeWidth={2 * l.half + 3} />)}
      {d.links.map((l) => <path key={`${l.from}>${l.to}`} d={l.d} fill="none" stroke="color-mix(in oklab, var(--water) 42%, var(--paper))" strokeWidth={2 * l.half} />)}
      {d.sources.map((run) => (
        <g key={run.id} {...pick(run.id)} aria-label={`Source ${run.name}, ${figure(run.ceiling.ceilingLpm)}`}>
          <Halo run={run} on={selected === run.id} />
          <Pipe run={run} />
          <SourceMark kind={draft.sources.find((s) => s.id === run.id)?.kind ?? "municipal"} x={run.x} y={run.y} />
          <text x={run.x} y={run.y - 32} fontSize="15" fontWeight="600" fill="var(--ink)">{run.name}</text>
          <text x={run.x} y={run.y + 36} fontSize="13" fill="var(--faint)">{run.locked ? "switched off" : figure(run.ceiling.ceilingLpm)}</text>
        </g>
      ))}
      {[...d.pocs, ...d.mainlines].map((run) => (
        <g key={run.id}>
          <g {...pick(run.id)} aria-label={`${run.name}, ceiling ${figure(run.ceiling.ceilingLpm)}`}>
            <Halo run={run} on={selected === run.id} />
            <Pipe run={run} />
            <text x={run.x} y={run.y - 58} fontSize="15" fontWeight="600" fill={run.locked ? "var(--alarm)" : "var(--ink)"}>{run.name}{run.locked ? " — LOCKED OUT" : ""}</text>
            <text x={run.x} y={run.y + 66} fontSize="13" fill="var(--ink)">
              {run.ceiling.boundBy ? `${figure(run.ceiling.ceilingLpm)}: ${RULE_WORDS[run.ceiling.boundBy.rule]}` : "nothing limits it"}
            </text>
          </g>
          {run.pieces.map((p) => (
            <g key={p.id} {...pick(p.id)} aria-label={`${p.device.name ?? DEVICE_WORDS[p.device.kind]}${p.lpm === null ? "" : `, ${figure(p.lpm)}`}${p.binds ? ", binds" : ""}`}>
              <rect x={p.x - 29} y={run.y - 52} width="58" height="104" fill="transparent" stroke={selected === p.id ? "var(--water)" : "none"} strokeWidth="2.5" />
              <Mark piece={p} y={run.y} />
              {p.binds && <Pinch piece={p} y={run.y} />}
              <text x={p.x} y={run.y + 34} fontSize="12" textAnchor="middle" fill="var(--ink)">{shortName(p.device)}</text>
              <text x={p.x} y={run.y + 48} fontSize="12.5" textAnchor="middle" fontWeight={p.binds ? 600 : 400} fill={p.binds ? "var(--caution)" : "var(--faint)"}>{p.lpm === null ? "" : showNumber(toShown(p.lpm, "flow", units), units === "us" ? 1 : 0)}</text>
            </g>
          ))}
        </g>
      ))}
      {d.mainlines.map((m) => (
        <g key={`${m.id} stations`}>
          {m.stations > 0 && (
            <>
              {[0, 7, 14].map((dx) => <path key={dx} d={`M${m.end - 22 + dx} ${m.y - m.half - 8} v-9 m-3 0 h6`} stroke="var(--ink)" strokeWidth="1.5" fill="none" />)}
              <text x={m.end + 2} y={m.y - 22} fontSize="14" fill="var(--ink)">{m.stations} station{m.stations === 1 ? "" : "s"}</text>
            </>
          )}
          {flows?.has(m.id) && <text x={m.end + 2} y={m.y + 24} fontSize="15" fontWeight="600" fill="var(--water)">{showQuantity(flows.get(m.id) as number, "flow", units)}</text>}
        </g>
      ))}
    </svg>
  );
}

function Pipe({ run }: { run: Run }) {
  const { top, bottom, body } = outline(run);
  return (
    <>
      <path d={body} fill={run.locked ? "var(--paper)" : "color-mix(in oklab, var(--water) 42%, var(--paper))"} />
      <path d={`${top} ${bottom}`} fill="none" stroke="var(--ink)" strokeWidth="1.8" />
      {run.locked && <path d={`M${(run.x + run.end) / 2 - 14} ${run.y - 16} l28 32 m0 -32 l-28 32`} stroke="var(--alarm)" strokeWidth="4" />}
    </>
  );
}

function Halo({ run, on }: { run: Run; on: boolean }) {
  return <rect x={run.x - 8} y={run.y - 76} width={run.end - run.x + 16} height={150} fill={on ? "var(--bed)" : "transparent"} />;
}

/** The piece that binds: jaws of the pipe, marked in the caution hue and by the word. */
function Pinch({ piece, y }: { piece: Piece; y: number }) {
  const h = piece.half;
  return (
    <g>
      <path d={`M${piece.x - 20} ${y - h - 9} h40 l-12 9 h-16 Z M${piece.x - 20} ${y + h + 9} h40 l-12 -9 h-16 Z`} fill="var(--caution)" />
    </g>
  );
}

function shortName(device: Device): string {
  if (device.kind === "pipe") return device.nominal;
  const words: Record<string, string> = { meter: "meter", backflow: "backflow", masterValve: device.kind === "masterValve" && device.normally === "open" ? "MV, open" : "MV", pump: "pump", fixedLoss: "filter", regulator: "regulator", pressureSensor: "pressure", flowSensor: "sensor" };
  return words[device.kind] ?? device.kind;
}

/** A mark above the pipe on a short stem. Our own shapes: what the body looks like from the side. */
function Mark({ piece, y }: { piece: Piece; y: number }) {
  const { x, device, half } = piece;
  const top = y - half;
  const cy = y - 36;
  const ink = { stroke: "var(--ink)", strokeWidth: 1.6, fill: "var(--paper)" } as const;
  if (device.kind === "pipe") return <path d={`M${x - 14} ${y} h28 m-7 -4 l7 4 l-7 4`} stroke="var(--ink)" strokeWidth="1.4" fill="none" />;
  const stem = <line x1={x} x2={x} y1={top} y2={cy + 9} stroke="var(--ink)" strokeWidth="1.6" />;
  switch (device.kind) {
    case "meter": return <>{stem}<rect x={x - 13} y={cy - 9} width="26" height="18" {...ink} /><path d={`M${x - 8} ${cy - 3} v6 m5 -6 v6 m5 -6 v6 m5 -6 v6`} stroke="var(--ink)" strokeWidth="1.4" /></>;
    case "backflow": return <>{stem}<path d={`M${x - 13} ${cy - 8} v16 l11 -8 Z M${x + 2} ${cy - 8} v16 l11 -8 Z`} {...ink} /></>;
    case "masterValve": return <>{stem}<path d={`M${x - 10} ${cy - 9} h20 v8 a10 10 0 0 1 -20 0 Z`} {...ink} fill={device.normally === "closed" ? "var(--ink)" : "var(--paper)"} /></>;
    case "pump": return <>{stem}<circle cx={x} cy={cy} r="11" {...ink} /><path d={`M${x - 6} ${cy + 5} L${x + 8} ${cy} L${x - 6} ${cy - 5}`} fill="none" stroke="var(--ink)" strokeWidth="1.6" /></>;
    case "flowSensor": return <>{stem}<path d={`M${x} ${cy - 11} l11 11 l-11 11 l-11 -11 Z`} {...ink} /><path d={`M${x - 6} ${cy} q3 -5 6 0 t6 0`} fill="none" stroke="var(--water)" strokeWidth="2" /></>;
    case "pressureSensor": return <>{stem}<path d={`M${x - 11} ${cy + 8} a11 11 0 0 1 22 0 Z M${x} ${cy + 8} l6 -8`} {...ink} /></>;
    case "regulator": return <>{stem}<path d={`M${x - 10} ${cy + 8} L${x} ${cy - 10} L${x + 10} ${cy + 8} Z`} {...ink} /></>;
    case "fixedLoss": return <>{stem}<path d={`M${x - 11} ${cy - 9} h22 v18 h-22 Z M${x - 11} ${cy - 9} l22 18 M${x - 11} ${cy} l11 9 M${x} ${cy - 9} l11 9`} {...ink} /></>;
  }
}

function SourceMark({ kind, x, y }: { kind: string; x: number; y: number }) {
  const words: Record<string, string> = { municipal: "town main", well: "well", pond: "pond", reclaimed: "reclaimed", tank: "tank" };
  return (
    <>
      <rect x={x - 6} y={y - 20} width="6" height="40" fill="var(--ink)" />
      <text x={x + 8} y={y + 5} fontSize="13" fill="var(--ink)">{words[kind] ?? kind}</text>
    </>
  );
}
