"use client";
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
} from "chart.js";
import { useEffect, useRef } from "react";
import { useTheme } from "@/components/frame/use-theme";

Chart.register(
  BarController,
  BarElement,
  LineController,
  LineElement,
  PointElement,
  LinearScale,
  CategoryScale,
  Legend,
  Tooltip,
);

/** One part of every bar. `alarm`: water that is nobody's. */
export type WaterPart = { name: string; values: number[]; tone: "water" | "alarm" | "estimate" };
export type WaterLine = { name: string; values: (number | null)[]; dash: number[] };

/** How much of the water's hue each part of a bar has, in their order; further parts begin anew. */
const STRENGTHS = [90, 60, 38, 75, 48, 26];

/** Water a day or month as bars of what it was for, with lines for what was planned and what may be used; the table beside it says the same. */
export function WaterChart({
  label,
  labels,
  unit,
  parts,
  lines,
  onChoose,
}: {
  label: string;
  labels: string[];
  unit: string;
  parts: WaterPart[];
  lines: WaterLine[];
  onChoose?: ((index: number) => void) | undefined;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { theme } = useTheme();
  useEffect(() => {
    if (!canvas.current || !theme) return;
    // Colours are read where the theme sets them, and again when it is turned.
    const style = getComputedStyle(document.documentElement);
    const colour = (name: string): string => style.getPropertyValue(name).trim();
    const [ink, paper] = [colour("--color-base-content"), colour("--color-base-100")];
    const font = { family: style.fontFamily, size: 12 };
    const mixed = (hue: string, strength: number): string =>
      `color-mix(in srgb, ${colour(hue)} ${strength}%, ${paper})`;
    const fill = { water: "--color-primary", alarm: "--color-error", estimate: "--color-base-300" };
    const chart = new Chart<"bar" | "line", (number | null)[]>(canvas.current, {
      type: "bar",
      data: {
        labels,
        datasets: [
          ...lines.map((l) => ({
            type: "line" as const,
            label: l.name,
            data: l.values,
            borderColor: ink,
            borderWidth: 1.5,
            borderDash: l.dash,
            pointRadius: labels.length > 1 ? 0 : 3,
            pointBackgroundColor: ink,
            stepped: "middle" as const,
          })),
          ...parts.map((p, i) => ({
            type: "bar" as const,
            label: p.name,
            data: p.values,
            stack: "water",
            backgroundColor:
              p.tone === "water" ? mixed(fill.water, STRENGTHS[i % STRENGTHS.length] ?? 90) : colour(fill[p.tone]),
            borderColor: p.tone === "estimate" ? ink : paper,
            borderWidth: 1,
          })),
        ],
      },
      options: {
        animation: false,
        responsive: true,
        maintainAspectRatio: false,
        interaction: { mode: "index", intersect: false },
        plugins: { legend: { position: "bottom", labels: { color: ink, font, boxWidth: 12, boxHeight: 12 } } },
        ...(onChoose && { onClick: (_, found) => found[0] && onChoose(found[0].index) }),
        scales: {
          x: { stacked: true, ticks: { color: ink, font, maxRotation: 0 }, grid: { display: false } },
          y: {
            stacked: true,
            beginAtZero: true,
            title: { display: true, text: unit, color: ink, font },
            ticks: { color: ink, font, maxTicksLimit: 6 },
            grid: { color: colour("--color-base-300") },
          },
        },
      },
    });
    return () => chart.destroy();
  }, [labels, unit, parts, lines, onChoose, theme]);
  return (
    <div className="h-64">
      <canvas ref={canvas} role="img" aria-label={label} />
    </div>
  );
}
