"use client";
import { Table } from "@/components/kit/table";
import { Button } from "@/components/kit/button";
import { Caution, Mark } from "@/components/kit/notice";
import { useMemo, useState } from "react";
import { ChoiceField, NumberField } from "@/components/kit/fields";
import { useWidth } from "@/components/kit/use-width";
import { useWorkspace } from "@/components/draft/site-draft";
import { USUAL_MAX_VELOCITY_MS } from "@/core/ceilings/ceilings";
import { flowAtVelocityLpm, frictionLossM } from "@/core/pipes/flow-in-pipe";
import { type PipeSeries, PIPE_TABLE } from "@/core/pipes/pipe-table";
import { sizesAt } from "@/core/pipes/sizing";
import { surgeKpa, waveSpeedMs } from "@/core/pipes/surge";
import { showNumber, showQuantity, toShown, unitLabel } from "@/core/units/units";

const seriesKey = (s: PipeSeries): string => `${s.material}|${s.series}`;

/** The friction chart that people look things up in by hand, alive: which size keeps the velocity at a flow, what a size may carry, what it loses. */
export function PipeChart() {
  const { units } = useWorkspace("units");
  const [key, setKey] = useState(
    seriesKey(units === "us" ? (PIPE_TABLE[0] as PipeSeries) : (PIPE_TABLE[9] as PipeSeries)),
  );
  const [flow, setFlow] = useState(200);
  const [velocity, setVelocity] = useState(USUAL_MAX_VELOCITY_MS);
  const [picked, setPicked] = useState<string | null>(null);
  const series = PIPE_TABLE.find((s) => seriesKey(s) === key) as PipeSeries;
  const sizes = useMemo(() => sizesAt(series, flow, velocity), [series, flow, velocity]);
  const first = sizes.find((s) => s.keeps);
  const chosen = sizes.find((s) => s.nominal === picked) ?? first ?? sizes[sizes.length - 1];
  const wave = chosen
    ? waveSpeedMs({ material: series.material, series: series.series, nominal: chosen.nominal })
    : null;
  const rating = series.sizes.find((s) => s.nominal === chosen?.nominal)?.ratingKpa;
  return (
    <section aria-label="Pipe sizes and friction" className="grid lg:grid-cols-[26rem_minmax(0,1fr)] gap-6 mt-2">
      <div>
        <div className="grid grid-cols-2 gap-3">
          <ChoiceField
            label="Pipe"
            value={key}
            options={PIPE_TABLE.map((s) => [seriesKey(s), `${s.material} ${s.series}`] as const)}
            hint={`${series.standard}, C ${series.hazenWilliamsC}`}
            onCommit={(v) => {
              setKey(v);
              setPicked(null);
            }}
          />
          <span />
          <NumberField
            label="Flow"
            value={flow}
            quantity="flow"
            system={units}
            min={1}
            max={100_000}
            required
            onCommit={(v) => setFlow(v ?? flow)}
          />
          <NumberField
            label="Largest velocity"
            value={velocity}
            quantity="velocity"
            system={units}
            min={0.3}
            max={2.1}
            required
            onCommit={(v) => setVelocity(v ?? velocity)}
          />
        </div>
        <p className="my-2 text-lg" aria-live="polite">
          {first ? (
            <>
              Take <strong>{first.nominal}</strong>: {showQuantity(first.velocityMs, "velocity", units)} at{" "}
              {showQuantity(flow, "flow", units)}; it may carry {showQuantity(first.mostLpm, "flow", units)}.
            </>
          ) : (
            <>
              No size of this series keeps {showQuantity(velocity, "velocity", units)} at{" "}
              {showQuantity(flow, "flow", units)}. Take a larger series, or two pipes.
            </>
          )}
        </p>
        <Table aria-label="Sizes at this flow">
          <thead>
            <tr>
              <th>Size</th>
              <th className="text-right">Inside, {unitLabel("diameter", units)}</th>
              <th className="text-right">Velocity</th>
              <th className="text-right">May carry</th>
              <th className="text-right">Loss a 100</th>
            </tr>
          </thead>
          <tbody>
            {sizes.map((s) => (
              <tr
                key={s.nominal}
                aria-selected={s.nominal === chosen?.nominal}
                className={s.nominal === first?.nominal ? "font-semibold" : ""}
              >
                <td>
                  <Button
                    rank="bare"
                    className="underline underline-offset-2 cursor-pointer"
                    onClick={() => setPicked(s.nominal)}
                  >
                    {s.nominal}
                  </Button>
                  {s.keeps ? (
                    ""
                  ) : (
                    <span className="text-error">
                      {" "}
                      <Mark tone="caution" /> too fast
                    </span>
                  )}
                </td>
                <td className="text-right">
                  {showNumber(toShown(s.insideMm, "diameter", units), units === "us" ? 3 : 1)}
                </td>
                <td className="text-right">{showQuantity(s.velocityMs, "velocity", units)}</td>
                <td className="text-right">{showQuantity(s.mostLpm, "flow", units)}</td>
                <td className="text-right">{showNumber(s.lossPer100, s.lossPer100 < 1 ? 2 : 1)}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </div>
      <div className="min-w-0">
        <FrictionChart
          series={series}
          flow={flow}
          velocity={velocity}
          chosen={chosen?.nominal ?? ""}
          onPick={(nominal, lpm) => {
            setPicked(nominal);
            setFlow(lpm);
          }}
        />
        {chosen && (
          <p className="mt-1">
            {chosen.nominal}: <strong>{showNumber(chosen.lossPer100, 2)} m a 100 m</strong> ={" "}
            {showNumber(chosen.lossPer100, 2)} ft a 100 ft ={" "}
            {showNumber(toShown(chosen.lossPer100 * 9.80665, "pressure", "us") * 0.3048, 2)} psi a 100 ft ={" "}
            {showNumber(chosen.lossPer100 * 9.80665, 1)} kPa a 100 m.
            {wave !== null && (
              <>
                {" "}
                If its flow stopped at once: up to {showQuantity(surgeKpa(wave, chosen.velocityMs), "pressure", units)}{" "}
                of surge (wave {showNumber(wave, 0)} m/s)
                {rating !== undefined && <>; rated {showQuantity(rating, "pressure", units)}</>}.
              </>
            )}
          </p>
        )}
        <Caution>
          Surge is a worst case (Joukowsky), a caution and no guarantee. Keep under{" "}
          {showQuantity(USUAL_MAX_VELOCITY_MS, "velocity", units)} and close valves slowly.
        </Caution>
      </div>
    </section>
  );
}

const HEIGHT = 430;
const LOSS: [number, number] = [0.02, 30];

/** Log–log: flow across, friction up; a line a size, velocity as dashed lines across them, the chosen point with its plumb lines. */
function FrictionChart({
  series,
  flow,
  velocity,
  chosen,
  onPick,
}: {
  series: PipeSeries;
  flow: number;
  velocity: number;
  chosen: string;
  onPick: (nominal: string, lpm: number) => void;
}) {
  const { units } = useWorkspace("units");
  const { box, width } = useWidth(700);
  const smallest = series.sizes[0]?.insideMm ?? 15;
  const largest = series.sizes[series.sizes.length - 1]?.insideMm ?? 300;
  const range: [number, number] = [flowAtVelocityLpm(0.3, smallest), flowAtVelocityLpm(3, largest)];
  const [left, right, top, bottom] = [48, width - 74, 14, HEIGHT - 34];
  const scale = (v: number, [a, b]: [number, number], p: number, q: number): number =>
    p + ((Math.log(v) - Math.log(a)) / (Math.log(b) - Math.log(a))) * (q - p);
  const x = (lpm: number): number => scale(lpm, range, left, right);
  const y = (loss: number): number => scale(loss, LOSS, bottom, top);
  const decades = (a: number, b: number): number[] =>
    [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000].filter(
      (v) => v >= a && v <= b,
    );
  const shownRange: [number, number] = [toShown(range[0], "flow", units), toShown(range[1], "flow", units)];
  const perShown = toShown(1, "flow", units);
  const at = series.sizes.find((s) => s.nominal === chosen);
  const loss = (lpm: number, d: number): number => frictionLossM(lpm, 100, d, series.hazenWilliamsC);
  const click = (e: React.MouseEvent<SVGSVGElement>): void => {
    const area = e.currentTarget.getBoundingClientRect();
    const [px, py] = [((e.clientX - area.left) / area.width) * width, ((e.clientY - area.top) / area.height) * HEIGHT];
    const lpm = Math.exp(
      Math.log(range[0]) + ((px - left) / (right - left)) * (Math.log(range[1]) - Math.log(range[0])),
    );
    const nearest = [...series.sizes].sort(
      (a, b) => Math.abs(y(loss(lpm, a.insideMm)) - py) - Math.abs(y(loss(lpm, b.insideMm)) - py),
    )[0];
    if (nearest && lpm >= range[0] && lpm <= range[1]) onPick(nearest.nominal, Number(lpm.toPrecision(3)));
  };
  return (
    <div ref={box}>
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: the table beside it does the same by keyboard */}
      <svg
        viewBox={`0 0 ${width} ${HEIGHT}`}
        width="100%"
        height={HEIGHT}
        onClick={click}
        role="img"
        aria-label={`Friction of ${series.material} ${series.series}; chosen ${chosen} at ${showQuantity(flow, "flow", units)}. The table beside it has the same figures.`}
        style={{ cursor: "crosshair" }}
      >
        <clipPath id="plot">
          <rect x={left} y={top} width={Math.max(1, right - left)} height={bottom - top} />
        </clipPath>
        {decades(...shownRange).map((v) => (
          <g key={v}>
            <line x1={x(v / perShown)} x2={x(v / perShown)} y1={top} y2={bottom} stroke="var(--hair)" />
            <text x={x(v / perShown)} y={bottom + 15} fontSize="12" textAnchor="middle" fill="var(--faint)">
              {showNumber(v)}
            </text>
          </g>
        ))}
        {decades(...LOSS).map((v) => (
          <g key={v}>
            <line x1={left} x2={right} y1={y(v)} y2={y(v)} stroke="var(--hair)" />
            <text x={left - 6} y={y(v) + 4} fontSize="12" textAnchor="end" fill="var(--faint)">
              {v}
            </text>
          </g>
        ))}
        <text x={right} y={bottom + 30} fontSize="12" textAnchor="end" fill="var(--faint)">
          flow, {unitLabel("flow", units)}
        </text>
        <text x={left} y={top - 3} fontSize="12" fill="var(--faint)">
          loss: m a 100 m, or ft a 100 ft
        </text>
        <g clipPath="url(#plot)">
          {[0.5, 1, velocity, 3].map((v, i) => (
            <polyline
              // biome-ignore lint/suspicious/noArrayIndexKey: each is its place in the list
              key={`${v}-${i}`}
              fill="none"
              stroke={v === velocity ? "var(--alarm)" : "var(--faint)"}
              strokeDasharray={v === velocity ? "7 3" : "2 4"}
              strokeWidth={v === velocity ? 1.8 : 1}
              points={series.sizes
                .map((s) => {
                  const q = flowAtVelocityLpm(v, s.insideMm);
                  return `${x(q)},${y(loss(q, s.insideMm))}`;
                })
                .join(" ")}
            />
          ))}
          {series.sizes.map((s) => (
            <line
              key={s.nominal}
              x1={x(range[0])}
              y1={y(loss(range[0], s.insideMm))}
              x2={x(range[1])}
              y2={y(loss(range[1], s.insideMm))}
              stroke={s.nominal === chosen ? "var(--water)" : "var(--ink)"}
              strokeWidth={s.nominal === chosen ? 3 : 1.1}
            />
          ))}
        </g>
        {series.sizes.map((s) => {
          const edge = Math.exp(
            Math.log(range[0]) + (Math.log(LOSS[1]) - Math.log(loss(range[0], s.insideMm))) / 1.852,
          );
          const within = edge <= range[1];
          return (
            <text
              key={s.nominal}
              x={within ? x(edge) + 3 : right + 4}
              y={within ? top + 11 : y(loss(range[1], s.insideMm)) + 4}
              fontSize="12"
              fontWeight={s.nominal === chosen ? 600 : 400}
              fill={s.nominal === chosen ? "var(--water)" : "var(--ink)"}
              transform={within ? `rotate(-58 ${x(edge) + 3} ${top + 11})` : undefined}
            >
              {s.nominal.replace(" in", "″").replace(" mm", "")}
            </text>
          );
        })}
        {[0.5, 1, 3, velocity].map((v) => {
          const q = flowAtVelocityLpm(v, largest);
          return y(loss(q, largest)) < bottom && x(q) < right + 1 ? (
            <text
              key={v}
              x={Math.min(right + 4, x(q) + 4)}
              y={y(loss(q, largest)) + 12}
              fontSize="11.5"
              fill={v === velocity ? "var(--alarm)" : "var(--faint)"}
            >
              {showQuantity(v, "velocity", units)}
            </text>
          ) : null;
        })}
        {at && flow >= range[0] && flow <= range[1] && (
          <g>
            <path
              d={`M${x(flow)} ${bottom} V${y(loss(flow, at.insideMm))} H${left}`}
              fill="none"
              stroke="var(--water)"
              strokeWidth="1.4"
              strokeDasharray="4 3"
              clipPath="url(#plot)"
            />
            <circle
              cx={x(flow)}
              cy={Math.max(top, Math.min(bottom, y(loss(flow, at.insideMm))))}
              r="6"
              fill="var(--water)"
              stroke="var(--paper)"
              strokeWidth="2"
            />
          </g>
        )}
      </svg>
    </div>
  );
}
