"use client";
import { useConventions } from "@/components/kit/conventions";
import { Table } from "@/components/kit/table";
import { useEffect, useState } from "react";
import { request } from "@/components/data/request";
import { useWorkspace } from "@/components/draft/site-draft";
import type { Station } from "@/core/site-file/schema";
import { showNumber, showQuantity, toShown, type UnitSystem } from "@/core/units/units";
import { HOW } from "@/components/words/learning-words";

type Figure = {
  version: number;
  at: string;
  madeByName: string;
  figure: "learned" | "entered" | "design";
  how: keyof typeof HOW | null;
  lpm: number | null;
  sdLpm: number | null;
  inUse: boolean;
};
const KIND = { learned: "learned", entered: "by hand", design: "design" } as const;

/** Every figure that a station had: a small chart, and who, when and how. */
export function StationPast({
  station,
  proposed,
  base,
}: {
  station: Station;
  proposed: { meanLpm: number; at: string } | null;
  base: string;
}) {
  const { units, version } = useWorkspace("units", "version");
  const { dateAt } = useConventions();
  const [figures, setFigures] = useState<Figure[] | null>(null);
  // Taking or undoing makes a revision, and with it new history.
  // biome-ignore lint/correctness/useExhaustiveDependencies: taking or undoing makes a revision, and with it new history
  useEffect(() => {
    let gone = false;
    request<{ figures: Figure[] }>("GET", `${base}/history?station=${encodeURIComponent(station.id)}`).then(
      (h) => {
        if (!gone) setFigures(h.figures);
      },
      () => {},
    );
    return () => {
      gone = true;
    };
  }, [station.id, base, version]);
  if (!figures) return <p className="text-faint">Reading its history…</p>;
  const shown = figures.filter((f) => f.lpm !== null);
  return (
    <>
      <h4 className="font-semibold mt-3">Its figures so far</h4>
      {shown.length === 0 ? (
        <p className="text-faint">None yet.</p>
      ) : (
        <>
          <PastChart figures={shown as (Figure & { lpm: number })[]} proposed={proposed} units={units} />
          <Table className="text-sm">
            <thead>
              <tr>
                <th>When</th>
                <th>Figure</th>
                <th className="text-right">Flow</th>
                <th>Who, how</th>
              </tr>
            </thead>
            <tbody>
              {[...figures]
                .reverse()
                .slice(0, 12)
                .map((f) => (
                  <tr key={`${f.version}${f.figure}`}>
                    <td className="whitespace-nowrap">{dateAt(f.at)}</td>
                    <td>
                      {KIND[f.figure]}
                      {f.inUse ? ", used" : ""}
                    </td>
                    <td className="text-right">{f.lpm === null ? "removed" : showQuantity(f.lpm, "flow", units, 1)}</td>
                    <td>
                      {f.madeByName}
                      {f.how ? `, ${HOW[f.how]}` : ""}; rev {f.version}
                    </td>
                  </tr>
                ))}
            </tbody>
          </Table>
        </>
      )}
    </>
  );
}

const W = 360;
const H = 96;

/** Dots: learned, with their spread; squares: by hand; a line: design. A ring is what is proposed. */
function PastChart({
  figures,
  proposed,
  units,
}: {
  figures: (Figure & { lpm: number })[];
  proposed: { meanLpm: number; at: string } | null;
  units: UnitSystem;
}) {
  const { dateAt } = useConventions();
  const times = [...figures.map((f) => Date.parse(f.at)), ...(proposed ? [Date.parse(proposed.at)] : [])];
  const [from, to] = [Math.min(...times), Math.max(...times)];
  const flows = [...figures.map((f) => f.lpm), ...(proposed ? [proposed.meanLpm] : [])];
  const [low, high] = [Math.min(...flows) * 0.9, Math.max(...flows) * 1.1 || 1];
  const x = (at: string): number => 44 + (to > from ? (Date.parse(at) - from) / (to - from) : 0.5) * (W - 64);
  const y = (lpm: number): number => H - 18 - ((lpm - low) / Math.max(1e-9, high - low)) * (H - 28);
  const design = figures.filter((f) => f.figure === "design").at(-1);
  const learned = figures.filter((f) => f.figure === "learned");
  const path = [
    ...learned.map((f) => ({ at: f.at, lpm: f.lpm })),
    ...(proposed ? [{ at: proposed.at, lpm: proposed.meanLpm }] : []),
  ];
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      className="w-full max-w-md bg-base-200 mb-1"
      role="img"
      aria-label={`${learned.length} learned figures; the table below has them`}
    >
      {[low / 0.9, high / 1.1].map((v) => (
        <text key={v} x="38" y={y(v) + 4} fontSize="11" textAnchor="end" fill="var(--faint)">
          {showNumber(toShown(v, "flow", units), 1)}
        </text>
      ))}
      {design && (
        <>
          <line x1="44" x2={W - 12} y1={y(design.lpm)} y2={y(design.lpm)} stroke="var(--ink)" strokeDasharray="5 4" />
          <text x={W - 12} y={y(design.lpm) - 3} fontSize="11" textAnchor="end" fill="var(--faint)">
            design
          </text>
        </>
      )}
      <path
        d={path.map((p, i) => `${i === 0 ? "M" : "L"}${x(p.at)} ${y(p.lpm)}`).join(" ")}
        fill="none"
        stroke="var(--water)"
        strokeWidth="1.2"
      />
      {learned.map((f) => (
        <g key={f.version}>
          <line
            x1={x(f.at)}
            x2={x(f.at)}
            y1={y(f.lpm - (f.sdLpm ?? 0))}
            y2={y(f.lpm + (f.sdLpm ?? 0))}
            stroke="var(--water)"
          />
          <circle cx={x(f.at)} cy={y(f.lpm)} r="3.5" fill="var(--water)">
            <title>{dateAt(f.at)}</title>
          </circle>
        </g>
      ))}
      {figures
        .filter((f) => f.figure === "entered")
        .map((f) => (
          <rect key={f.version} x={x(f.at) - 3.5} y={y(f.lpm) - 3.5} width="7" height="7" fill="var(--ink)">
            <title>{dateAt(f.at)}</title>
          </rect>
        ))}
      {proposed && (
        <circle
          cx={x(proposed.at)}
          cy={y(proposed.meanLpm)}
          r="4.5"
          fill="var(--paper)"
          stroke="var(--water)"
          strokeWidth="2"
        />
      )}
      <text x="44" y={H - 4} fontSize="11" fill="var(--faint)">
        {dateAt(new Date(from).toISOString())}
      </text>
      <text x={W - 12} y={H - 4} fontSize="11" textAnchor="end" fill="var(--faint)">
        {dateAt(new Date(to).toISOString())}
      </text>
    </svg>
  );
}
