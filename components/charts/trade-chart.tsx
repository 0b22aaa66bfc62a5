"use client";
import {
  Chart,
  LinearScale,
  LineController,
  LineElement,
  LogarithmicScale,
  type Plugin,
  PointElement,
  ScatterController,
  Tooltip,
} from "chart.js";
import { useEffect, useRef } from "react";
import { useTheme } from "@/components/frame/use-theme";

Chart.register(ScatterController, LineController, LineElement, PointElement, LinearScale, LogarithmicScale, Tooltip);

export type TradePoint = { id: string; name?: string; x: number; y: number; words: string };
export type TradeAxis = {
  title: string;
  logarithmic?: boolean;
  min?: number;
  max?: number;
  write?: (value: number) => string;
};
type Props = {
  label: string;
  x: TradeAxis;
  y: TradeAxis;
  /** What can be chosen, along the curve. */
  curve: TradePoint[];
  /** What it is compared with, each with its name written beside it. */
  marks: TradePoint[];
  /** What else comes with it, dashed, on an axis of its own at the right. */
  also: { axis: TradeAxis; points: { x: number; y: number }[] };
  chosen: string | null;
  onChoose: (id: string) => void;
};

const LABEL_GAP = 8;
const NEAR_PX = 30;

/** Writes the names of marks beside them, each under the one before where they would meet. */
const names: Plugin<"scatter"> = {
  id: "names",
  afterDatasetsDraw(chart) {
    const [marks, place] = [chart.data.datasets.findIndex((d) => d.label === MARKS), chart.ctx];
    if (marks < 0) return;
    place.save();
    const { ink, paper } = (chart.options.plugins as { names?: { ink: string; paper: string } }).names ?? {};
    place.textBaseline = "middle";
    const written: { left: number; right: number; y: number }[] = [];
    const found = chart.data.datasets[marks]?.data as unknown as TradePoint[];
    const places = chart.getDatasetMeta(marks).data.map((element, i) => ({ element, name: found[i]?.name ?? "" }));
    for (const { element, name } of places.sort((a, b) => a.element.y - b.element.y)) {
      const width = place.measureText(name).width;
      const rightwards = element.x + LABEL_GAP + width < chart.chartArea.right;
      const left = rightwards ? element.x + LABEL_GAP : element.x - LABEL_GAP - width;
      let y = element.y;
      const meets = (): boolean =>
        written.some((w) => Math.abs(w.y - y) < LINE_PX && left < w.right && left + width > w.left);
      while (meets()) y += LINE_PX;
      written.push({ left, right: left + width, y });
      place.fillStyle = paper ?? "transparent";
      place.fillRect(left, y - LINE_PX / 2, width, LINE_PX);
      place.fillStyle = ink ?? "black";
      place.fillText(name, left, y);
    }
    place.restore();
  },
};
const MARKS = "compared with";
const LINE_PX = 14;

/** What one thing costs in another: a curve of what can be chosen, and marks that it is compared with. A press takes the nearest of the curve; a table beside it does the same from the keyboard. */
export function TradeChart({ label, x, y, curve, marks, also, chosen, onChoose }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { theme } = useTheme();
  const choose = useRef(onChoose);
  choose.current = onChoose;
  useEffect(() => {
    // Colours are read where the theme sets them, and again when it is turned.
    if (!canvas.current || !theme) return;
    const style = getComputedStyle(document.documentElement);
    const colour = (name: string): string => style.getPropertyValue(name).trim();
    const ink = colour("--color-base-content");
    const water = colour("--color-primary");
    const paper = colour("--color-base-100");
    const font = { family: style.fontFamily, size: 12 };
    const axis = (of: TradeAxis) => ({
      type: of.logarithmic ? ("logarithmic" as const) : ("linear" as const),
      ...(of.min === undefined ? {} : { min: of.min }),
      ...(of.max === undefined ? {} : { max: of.max }),
      title: { display: true, text: of.title, color: ink, font },
      ticks: {
        color: ink,
        font,
        maxTicksLimit: 7,
        maxRotation: 0,
        ...(of.write ? { callback: (value: number | string) => of.write?.(Number(value)) ?? "" } : {}),
      },
      grid: { color: colour("--color-base-300") },
    });
    const chart = new Chart(canvas.current, {
      type: "scatter",
      data: {
        datasets: [
          {
            label: "can be chosen",
            data: curve,
            showLine: true,
            borderColor: water,
            borderWidth: 2,
            backgroundColor: curve.map((p) => (p.id === chosen ? ink : water)),
            pointBorderColor: curve.map((p) => (p.id === chosen ? ink : water)),
            pointRadius: curve.map((p) => (p.id === chosen ? 8 : 4)),
            pointHitRadius: 12,
            clip: false,
          },
          {
            label: MARKS,
            data: marks,
            pointStyle: "rectRot",
            pointRadius: 6,
            borderColor: ink,
            borderWidth: 1.5,
            backgroundColor: paper,
            clip: false,
          },
          {
            label: also.axis.title,
            data: also.points,
            yAxisID: "also",
            showLine: true,
            borderColor: ink,
            borderDash: [5, 4],
            borderWidth: 1.25,
            pointRadius: 0,
            pointHitRadius: 0,
          },
        ],
      },
      options: {
        animation: false,
        maintainAspectRatio: false,
        plugins: {
          legend: { display: false },
          ...{ names: { ink, paper } },
          tooltip: { callbacks: { label: (item) => (item.raw as TradePoint).words } },
        },
        layout: { padding: { top: 8 } },
        scales: {
          x: axis(x),
          y: axis(y),
          also: { ...axis(also.axis), position: "right", grid: { display: false } },
        },
        onClick: (event, _, of) => {
          const near = of
            .getDatasetMeta(0)
            .data.map((p, i) => ({ i, far: Math.hypot(p.x - (event.x ?? 0), p.y - (event.y ?? 0)) }))
            .sort((a, b) => a.far - b.far)[0];
          const point = near && near.far < NEAR_PX ? curve[near.i] : undefined;
          if (point) choose.current(point.id);
        },
      },
      plugins: [names],
    });
    return () => chart.destroy();
  }, [x, y, curve, marks, also, chosen, theme]);
  return (
    <div className="h-72 min-w-0">
      <canvas ref={canvas} role="img" aria-label={label} />
    </div>
  );
}
