"use client";
import {
  CategoryScale,
  Chart,
  Filler,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
} from "chart.js";
import { useEffect, useRef } from "react";
import { useTheme } from "@/components/frame/use-theme";
import type { TraceRow } from "@/core/bench/simulate";
import { localClock } from "@/core/dates/wall-time";
import { toShown, type UnitSystem, unitLabel } from "@/core/units/units";

Chart.register(LineController, LineElement, PointElement, LinearScale, CategoryScale, Filler, Legend, Tooltip);

/** The sensors' reading against the band between the limits, through the night. */
export function ReadingsChart({
  rows,
  timeZone,
  units,
  at,
  whole = false,
}: {
  rows: TraceRow[];
  timeZone: string;
  units: UnitSystem;
  at: number | null /** Shows rest at both ends too. */;
  whole?: boolean;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { theme } = useTheme();
  useEffect(() => {
    // Colours are read where the theme sets them, and again when it is turned.
    if (!canvas.current || !theme) return;
    const style = getComputedStyle(document.documentElement);
    const colour = (name: string): string => style.getPropertyValue(name).trim();
    const show = (v: number | null): number | null => (v === null ? null : toShown(v, "flow", units));
    const busy = rows.filter((r) => whole || r.readingLpm > 0 || r.expectedLpm > 0);
    const from = (busy[0]?.at ?? 0) - 300;
    const to = (busy[busy.length - 1]?.at ?? 0) + 300;
    const shown = rows.filter((r) => r.at >= from && r.at <= to);
    const font = { family: style.fontFamily, size: 13 };
    const line = { pointRadius: 0, borderWidth: 1.5, stepped: true as const, spanGaps: false };
    const chart = new Chart(canvas.current, {
      type: "line",
      data: {
        labels: shown.map((r) => localClock(timeZone, r.at)),
        datasets: [
          {
            ...line,
            label: "trips above",
            data: shown.map((r) => show(r.highLpm)),
            borderColor: colour("--color-base-content"),
            borderDash: [5, 3],
          },
          {
            ...line,
            label: "trips below",
            data: shown.map((r) => show(r.lowLpm)),
            borderColor: colour("--color-base-content"),
            borderDash: [2, 3],
            fill: "-1",
            backgroundColor: `color-mix(in srgb, ${colour("--color-primary")} 10%, transparent)`,
          },
          {
            ...line,
            label: "expected",
            data: shown.map((r) => show(r.expectedLpm)),
            borderColor: colour("--color-warning"),
            borderWidth: 1,
          },
          {
            ...line,
            label: "reading",
            stepped: false,
            data: shown.map((r) => show(r.readingLpm)),
            borderColor: colour("--color-primary"),
            borderWidth: 2,
          },
        ],
      },
      options: {
        animation: false,
        responsive: true,
        maintainAspectRatio: false,
        interaction: { mode: "index", intersect: false },
        plugins: { legend: { labels: { color: colour("--color-base-content"), font, boxHeight: 1 } } },
        scales: {
          x: {
            ticks: { color: colour("--color-base-content"), font, maxTicksLimit: 14, maxRotation: 0 },
            grid: { color: colour("--color-base-300") },
          },
          y: {
            beginAtZero: true,
            title: { display: true, text: unitLabel("flow", units), color: colour("--color-base-content"), font },
            ticks: { color: colour("--color-base-content"), font },
            grid: { color: colour("--color-base-300") },
          },
        },
      },
    });
    return () => chart.destroy();
  }, [rows, timeZone, units, whole, theme]);
  const nearest =
    at === null
      ? null
      : rows.reduce<TraceRow | null>(
          (best, r) => (best === null || Math.abs(r.at - at) < Math.abs(best.at - at) ? r : best),
          null,
        );
  return (
    <div>
      <div className="h-44">
        <canvas
          ref={canvas}
          role="img"
          aria-label="Reading through the night against the limits; the events table tells the same"
        />
      </div>
      {nearest && (
        <p className="text-sm">
          At {localClock(timeZone, nearest.at)}: reads {toShown(nearest.readingLpm, "flow", units).toFixed(1)}, expects{" "}
          {toShown(nearest.expectedLpm, "flow", units).toFixed(1)} {unitLabel("flow", units)}.
        </p>
      )}
    </div>
  );
}
