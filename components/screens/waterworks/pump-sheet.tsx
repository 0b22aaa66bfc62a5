"use client";
import { useWorkspace } from "@/components/draft/site-draft";
import { pumpPoints } from "@/core/hydraulics/device-loss";
import { pumpFacts } from "@/core/hydraulics/main-facts";
import type { DeviceOf } from "@/core/site-file/schema";
import { showQuantity } from "@/core/units/units";

/** The curve drawn, with what its data sheet sets: shut-off, best efficiency, the 115 % of it, minimum, end. */
export function PumpSheet({ device }: { device: DeviceOf<"pump"> }) {
  const { units } = useWorkspace("units");
  const f = pumpFacts(device);
  const points = pumpPoints(device);
  const most = Math.max(f.endOfCurveLpm, f.mostLpm) * 1.05;
  const [W, H] = [330, 120];
  const x = (q: number): number => 4 + (q / most) * (W - 8);
  const y = (h: number): number => H - 16 - (h / (f.shutOffHeadM || 1)) * (H - 24);
  const flow = (q: number): string => showQuantity(q, "flow", units);
  const mark = (q: number, word: string, colour: string, row: number) => (
    <g>
      <line x1={x(q)} x2={x(q)} y1="4" y2={H - 16} stroke={colour} strokeDasharray="3 3" />
      <text
        x={Math.min(W - 2, x(q) + 3)}
        y={12 + 12 * row}
        fontSize="11"
        textAnchor={x(q) > W - 70 ? "end" : "start"}
        fill={colour}
      >
        {word}
      </text>
    </g>
  );
  return (
    <div className="col-span-2">
      <svg
        viewBox={`0 0 ${W} ${H}`}
        className="w-full max-w-md"
        role="img"
        aria-label={`Pump curve from ${f.shutOffHeadM.toFixed(0)} m at no flow to ${flow(f.endOfCurveLpm)}`}
      >
        {f.minFlowLpm !== null && (
          <rect x={x(0)} y="4" width={x(f.minFlowLpm) - x(0)} height={H - 20} fill="var(--bed)" />
        )}
        <path d={`M${x(0)} 4 V${H - 16} H${W - 4}`} fill="none" stroke="var(--ink)" />
        <polyline
          points={points
            .filter((p) => p.flowLpm <= f.endOfCurveLpm + 1e-9)
            .map((p) => `${x(p.flowLpm)},${y(p.headM)}`)
            .join(" ")}
          fill="none"
          stroke="var(--water)"
          strokeWidth="2.5"
        />
        {f.minFlowLpm !== null && mark(f.minFlowLpm, "minimum", "var(--caution)", 0)}
        {f.bestEfficiencyLpm !== null && mark(f.bestEfficiencyLpm, "best", "var(--ink)", 1)}
        {mark(f.mostLpm, f.bestEfficiencyLpm === null ? "end: ceiling" : "115 %: ceiling", "var(--alarm)", 2)}
        <text x={W - 4} y={H - 3} fontSize="11" textAnchor="end" fill="var(--faint)">
          {flow(most)}
        </text>
      </svg>
      <p className="text-sm">
        Shut-off head {showQuantity(f.shutOffHeadM, "length", units)} (
        {showQuantity(f.shutOffHeadM * 9.80665, "pressure", units)}) · end of curve {flow(f.endOfCurveLpm)} · runs out
        by {flow(f.runOutLpm)} ·{" "}
        {f.minFlowLpm === null ? "minimum flow not known" : `not under ${flow(f.minFlowLpm)} for more than a minute`}
        {f.count > 1 ? ` · ${f.count} together` : ""}
      </p>
    </div>
  );
}
