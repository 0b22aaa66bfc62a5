"use client";
import {
  CategoryScale,
  Chart,
  Filler,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
} from "chart.js";
import { useEffect, useRef } from "react";
import type { StationMornings } from "@/contracts/mornings";
import { toShown, type UnitSystem, unitLabel } from "@/core/units/units";
import { useTheme } from "@/components/frame/use-theme";
import { useConventions } from "../kit/conventions";

Chart.register(LineController, LineElement, PointElement, LinearScale, CategoryScale, Filler, Tooltip);

/** Whether something was done to a station between the night before and this one. */
function markedOn(mornings: StationMornings["mornings"], marks: StationMornings["marks"], i: number): boolean {
  const [before, night] = [mornings[i - 1]?.night, mornings[i]?.night ?? ""];
  return before !== undefined && marks.some((m) => m.at.slice(0, 10) > before && m.at.slice(0, 10) <= night);
}

/** A station's flow as nights tell it, morning after morning, with its interval (two standard deviations); the figure that stands is dashed. */
export function EstimateChart({
  of: { mornings, marks },
  expectedLpm,
  units,
}: {
  of: StationMornings;
  expectedLpm: number | null;
  units: UnitSystem;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { theme } = useTheme();
  const { short, figure, dateAt } = useConventions();
  useEffect(() => {
    // Colours are read where the theme sets them, and again when it is turned.
    if (!canvas.current || !theme) return;
    const style = getComputedStyle(document.documentElement);
    const colour = (name: string): string => style.getPropertyValue(name).trim();
    const ink = colour("--color-base-content");
    const font = { family: style.fontFamily, size: 12 };
    const shown = (lpm: number): number => toShown(lpm, "flow", units);
    const line = { pointRadius: 0, borderWidth: 0, spanGaps: false };
    const chart = new Chart(canvas.current, {
      type: "line",
      data: {
        labels: mornings.map((m) => short(m.night)),
        datasets: [
          { ...line, label: "at most", data: mornings.map((m) => shown(m.nowLpm + 2 * m.sdLpm)) },
          {
            ...line,
            label: "at least",
            data: mornings.map((m) => shown(m.nowLpm - 2 * m.sdLpm)),
            fill: "-1",
            backgroundColor: `color-mix(in srgb, ${colour("--color-primary")} 22%, transparent)`,
          },
          {
            label: "as the nights tell it",
            data: mornings.map((m) => shown(m.nowLpm)),
            borderColor: colour("--color-primary"),
            backgroundColor: colour("--color-primary"),
            borderWidth: 2,
            pointRadius: mornings.length > 30 ? 0 : 2,
          },
          // Where it was learned or repaired between these mornings.
          {
            label: "learned or repaired",
            data: mornings.map((m, i) => (markedOn(mornings, marks, i) ? shown(m.nowLpm) : null)),
            showLine: false,
            pointStyle: "rectRot",
            pointRadius: 7,
            pointBorderWidth: 2,
            pointBorderColor: ink,
            pointBackgroundColor: colour("--color-base-100"),
          },
          ...(expectedLpm === null
            ? []
            : [
                {
                  ...line,
                  label: "figure that stands",
                  data: mornings.map(() => shown(expectedLpm)),
                  borderColor: ink,
                  borderDash: [5, 4],
                  borderWidth: 1.25,
                },
              ]),
        ],
      },
      options: {
        animation: false,
        responsive: true,
        maintainAspectRatio: false,
        interaction: { mode: "index", intersect: false },
        plugins: { legend: { display: false } },
        scales: {
          x: { ticks: { color: ink, font, maxTicksLimit: 6, maxRotation: 0 }, grid: { display: false } },
          y: {
            grace: "10%",
            title: { display: true, text: unitLabel("flow", units), color: ink, font },
            ticks: { color: ink, font, maxTicksLimit: 6 },
            grid: { color: colour("--color-base-300") },
          },
        },
      },
    });
    return () => chart.destroy();
  }, [mornings, marks, expectedLpm, units, short, theme]);
  const last = mornings.at(-1);
  return (
    <figure>
      <div className="h-40">
        <canvas
          ref={canvas}
          role="img"
          aria-label={
            last
              ? `${mornings.length} mornings; on the last ${figure(last.nowLpm, "flow")} ± ${figure(2 * last.sdLpm, "flow", 1)} ${unitLabel("flow", units)}`
              : "No morning yet"
          }
        />
      </div>
      <figcaption className="text-xs text-faint">
        Band: two standard deviations. Dashed: the figure that stands. Diamond: learned or repaired.
        {marks.map((m) => (
          <span key={m.what}>
            {" "}
            {m.what === "learned" ? "Learned" : "Repaired"} {dateAt(m.at)}.
          </span>
        ))}
      </figcaption>
    </figure>
  );
}
