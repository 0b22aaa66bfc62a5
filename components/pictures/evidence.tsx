"use client";
import { useState } from "react";
import { Button } from "@/components/kit/button";
import { useConventions } from "@/components/kit/conventions";
import { Scroller } from "@/components/kit/scroller";
import { Table } from "@/components/kit/table";
import { localIso } from "@/core/dates/wall-time";
import type { Evidence } from "@/core/reckon/evidence";

/** So many, the newest, before the others are asked for. */
const FIRST_SHOWN = 12;
const [W, H] = [260, 22];
const MID = H / 2;

/**
 * The readings in which a change shows, a line each: how far what was read is from what it should be, hollow without the change and solid with it. Between the hairlines lies
 * what readings differ by anyway.
 */
export function EvidencePicture({
  evidence,
  timeZone,
  nameOf,
  without,
}: {
  evidence: readonly Evidence[];
  timeZone: string;
  nameOf: (stationId: string) => string;
  /** What is left out for the hollow marks, in words. */
  without: string;
}) {
  const { figure, unit, short } = useConventions();
  const [all, setAll] = useState(false);
  const shown = all ? evidence : evidence.slice(-FIRST_SHOWN);
  const offs = shown.flatMap((e) => [e.readLpm - e.withoutLpm, e.readLpm - e.withLpm, 2 * e.sdLpm, -2 * e.sdLpm]);
  const [low, high] = [Math.min(0, ...offs), Math.max(0, ...offs)];
  const x = (lpm: number): number => 12 + ((lpm - low) / Math.max(1e-9, high - low)) * (W - 24);
  return (
    <>
      <Scroller>
        <Table>
          <thead>
            <tr>
              <th>Night</th>
              <th>Set</th>
              <th className="text-right">Read, {unit("flow")}</th>
              <th className="hidden text-right sm:table-cell">Without</th>
              <th className="hidden text-right sm:table-cell">With</th>
              <th style={{ minWidth: W }}>
                Off what it should be: <Hollow /> without {without}, <Solid /> with it
              </th>
            </tr>
          </thead>
          <tbody>
            {shown.map((e) => {
              const [off, left] = [e.readLpm - e.withoutLpm, e.readLpm - e.withLpm];
              return (
                <tr key={`${e.from} ${e.stationIds.join()}`}>
                  <td className="whitespace-nowrap">
                    {short(e.night)} {localIso(timeZone, e.from).slice(11, 16)}
                  </td>
                  <td className="min-w-40 max-w-72">{e.stationIds.map(nameOf).join(" + ")}</td>
                  <td className="text-right">{figure(e.readLpm, "flow", 1)}</td>
                  <td className="hidden text-right sm:table-cell">{figure(e.withoutLpm, "flow", 1)}</td>
                  <td className="hidden text-right sm:table-cell">{figure(e.withLpm, "flow", 1)}</td>
                  <td className="py-0">
                    <svg viewBox={`0 0 ${W} ${H}`} width={W} height={H} aria-hidden>
                      <rect
                        x={x(-2 * e.sdLpm)}
                        width={x(2 * e.sdLpm) - x(-2 * e.sdLpm)}
                        y="1"
                        height={H - 2}
                        fill="var(--hair)"
                        opacity="0.5"
                      />
                      <line x1={x(0)} x2={x(0)} y1="0" y2={H} stroke="var(--ink)" />
                      <line x1={x(left)} x2={x(off)} y1={MID} y2={MID} stroke="var(--water)" strokeDasharray="3 3" />
                      <circle cx={x(off)} cy={MID} r="5" fill="var(--paper)" stroke="var(--ink)" strokeWidth="1.6" />
                      <circle cx={x(left)} cy={MID} r="5" fill="var(--water)" stroke="var(--ink)" strokeWidth="1.2" />
                    </svg>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </Table>
      </Scroller>
      {shown.length < evidence.length && (
        <Button rank="quiet" onClick={() => setAll(true)}>
          {evidence.length - shown.length} earlier ones
        </Button>
      )}
    </>
  );
}

const Hollow = () => (
  <svg viewBox="0 0 12 12" className="inline size-3" aria-hidden>
    <circle cx="6" cy="6" r="4.5" fill="var(--paper)" stroke="var(--ink)" strokeWidth="1.6" />
  </svg>
);
const Solid = () => (
  <svg viewBox="0 0 12 12" className="inline size-3" aria-hidden>
    <circle cx="6" cy="6" r="4.5" fill="var(--water)" stroke="var(--ink)" strokeWidth="1.2" />
  </svg>
);
